"""Every route with every role and with another agency's ids."""

from collections.abc import Callable
from dataclasses import dataclass

import pytest
from starlette.routing import Mount

from tests.conftest import NOON
from tests.web.conftest import Browser
from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.core.hours.document import Hours
from vokari.store.hours import ExceptionList, HoursSet
from vokari.store.orders import NumberOrder
from vokari.store.people import PersonRow, TeamRow
from vokari.store.ports import Port
from vokari.work import calls, hours, orders, people, porting, rehearsals, shared
from vokari.work.calls import CallFilter
from vokari.work.orders import Row
from vokari.work.sources import SourceForm

OPEN = {"/sign-in", "/healthz"}
BY_SECRET = {"/calendars/{token}.ics", "/duty/{token}"}
"""Calendar programs and people’s own pages need no sign-in: the address itself is the secret."""
ALL_ROLES = {
    "/", "/find", "/sign-out", "/tones/{name}.wav", "/speech/{name}.wav", "/exceptions/paint", "/exceptions/holidays",
}  # fmt: skip
OWN = ("/clients/{client_id}/hours", "/clients/{client_id}/people")
"""A client editor changes the client's own hours and people, and nothing else."""
RESULTS = {
    "/clients/{client_id}", "/clients/{client_id}/calls", "/clients/{client_id}/calls/live", "/clients/{client_id}/calls.csv",
    "/clients/{client_id}/calls/{call_id}", "/clients/{client_id}/messages/{message_id}.wav", "/clients/{client_id}/report",
    "/clients/{client_id}/report.csv", "/clients/{client_id}/events", "/clients/{client_id}/lines",
    "/clients/{client_id}/talks/{talk_id}.wav",
}  # fmt: skip
"""What a client's own people may see; every other route but those of hours is for owners and specialists."""


@dataclass
class Ids:
    """The ids of everything that a world has."""

    values: dict[str, object]

    def path(self, pattern: str) -> str:
        for name, value in self.values.items():
            pattern = pattern.replace("{" + name + "}", str(value))
        return pattern


def filled(world: World, called: str) -> Ids:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    source = world.source("Search advert")
    number = world.number(called, source, flow)
    wire = Wire(world.house, f"call-{called[1:]}")
    wire.arrive(called)
    wire("caller_gone", 30)
    call = calls.log(world.house, world.actor, world.client.id, CallFilter())[0].call
    rehearsal = rehearsals.begin(world.house, world.actor, world.client.id, flow.id, called="", caller="", at=NOON)
    assert isinstance(rehearsal, rehearsals.OpenRehearsal)
    row = Row(called[:-1] + "9", SourceForm("Ordered"))
    order = orders.place(world.house, world.actor, world.client.id, [row], None)
    assert isinstance(order, NumberOrder)
    port = porting.request(
        world.house, world.actor, world.client.id, f"{called[:-2]}7{called[-1]}", "Old Exchange", "1"
    )
    assert isinstance(port, Port)
    opening = hours.create(world.house, world.actor, world.client.id, "Opening times", "client")
    assert isinstance(opening, HoursSet)
    shared_list = shared.name_list(world.house, world.actor, None, "Public holidays")
    assert isinstance(shared_list, ExceptionList)
    ada = people.keep_person(world.house, world.actor, world.client.id, None, {"name": "Ada"})
    assert isinstance(ada, PersonRow)
    yard = people.keep_team(world.house, world.actor, world.client.id, None, {"name": "Yard"})
    assert isinstance(yard, TeamRow)
    period = Hours.model_validate(opening.document).periods[0].id
    return Ids(
        {
            "client_id": world.client.id, "flow_id": flow.id, "source_id": source.id, "number_id": number.id, "call_id": call.id,
            "rehearsal_id": rehearsal.id, "version_id": 1, "row": "m", "message_id": 1, "talk_id": 1, "name": "1",
            "order_id": order.id, "kind": "csv", "callee": "person", "port_id": port.id,
            "hours_id": opening.id, "list_id:int": shared_list.id, "ident": "new", "period": period, "form": "ics",
            "person:int": ada.id, "team:int": yard.id, "row_id:int": ada.id,
        }
    )  # fmt: skip


def routes(browser: Browser) -> list[tuple[str, str]]:
    found = []

    def walk(all_routes: list[object]) -> None:
        for route in all_routes:
            if isinstance(route, Mount):
                continue
            inner = getattr(getattr(route, "original_router", None), "routes", None) or getattr(
                getattr(route, "router", None), "routes", None
            )
            if inner:
                walk(inner)
            elif hasattr(route, "path"):
                found.extend((method, route.path) for method in route.methods if method in ("GET", "POST"))

    walk(browser.app.routes)
    return sorted(set(found))


def ask(browser: Browser, method: str, path: str) -> int:
    if path.endswith("/events") and method == "GET":
        return 0
    return (browser.get(path) if method == "GET" else browser.submit(path)).status_code


def test_the_walk_finds_the_routes(sign_in: Callable[..., Browser]) -> None:
    found = {path for _, path in routes(sign_in(None))}
    assert found >= RESULTS | OPEN | ALL_ROLES
    assert len(found) > 35


def test_nobody_gets_anywhere_without_signing_in(sign_in: Callable[..., Browser], world: World) -> None:
    ids, browser = filled(world, "+14105550142"), sign_in(None)
    for method, pattern in routes(browser):
        if pattern in OPEN | BY_SECRET:
            continue
        answer = browser.get(ids.path(pattern)) if method == "GET" else browser.post(ids.path(pattern))
        assert answer.status_code == 303, (method, pattern)
        assert answer.headers["location"].startswith("/sign-in")


@pytest.mark.parametrize("role", ["owner", "specialist", "client_editor", "client_viewer"])
def test_every_route_with_every_role(sign_in: Callable[..., Browser], world: World, role: str) -> None:
    ids, browser = filled(world, "+14105550142"), sign_in(role)
    works = role in ("owner", "specialist")
    for method, pattern in routes(browser):
        if pattern in OPEN | BY_SECRET | ALL_ROLES:
            continue
        status = ask(browser, method, ids.path(pattern))
        allowed = (
            works
            or pattern in RESULTS
            or (role == "client_editor" and pattern.startswith(OWN) and not pattern.endswith("/replace"))
        )
        if allowed:
            assert status not in (401, 403, 500), (method, pattern, status)
        else:
            assert status == 403, (method, pattern, status)


@pytest.mark.parametrize("role", ["owner", "client_viewer"])
def test_another_agencys_ids_look_like_nothing(sign_in: Callable[..., Browser], world: World, role: str) -> None:
    filled(world, "+14105550142")
    theirs = filled(make_world(world.house, "Other agency", "other.example.com"), "+14105550143")
    browser = sign_in(role)
    for method, pattern in routes(browser):
        if "{client_id}" not in pattern and "{list_id:int}" not in pattern:
            continue
        status = ask(browser, method, theirs.path(pattern))
        assert status in ((404, 0) if role == "owner" or "{client_id}" in pattern else (403,)), (
            method,
            pattern,
            status,
        )


def test_another_agencys_things_cannot_be_named_under_an_own_client(
    sign_in: Callable[..., Browser], world: World
) -> None:
    mine = filled(world, "+14105550142")
    theirs = filled(make_world(world.house, "Other agency", "other.example.com"), "+14105550143")
    mixed = Ids({**theirs.values, "client_id": mine.values["client_id"], "name": "9", "row": "m"})
    browser = sign_in("owner")
    for method, pattern in routes(browser):
        named = [
            name
            for name in (
                "flow_id",
                "source_id",
                "number_id",
                "call_id",
                "rehearsal_id",
                "hours_id",
                "person:int",
                "team:int",
                "row_id:int",
            )
            if "{" + name + "}" in pattern
        ]
        if "{client_id}" in pattern and named:
            assert ask(browser, method, mixed.path(pattern)) == 404, (method, pattern)


def test_a_form_needs_the_token_of_its_sign_in(sign_in: Callable[..., Browser], world: World) -> None:
    browser = sign_in("owner")
    for token in ("", "wrong", sign_in("specialist").form_token):
        answer = browser.post(
            "/clients/new", data={"name": "X", "country": "US", "time_zone": "America/New_York", "form_token": token}
        )
        assert answer.status_code == 400
    assert browser.get("/clients/2").status_code == 404


def test_guessing_a_password_is_slowed_down(sign_in: Callable[..., Browser]) -> None:
    browser = sign_in(None)
    answers = [
        browser.post("/sign-in", data={"email": "owner@example.com", "password": f"guess {n}"}) for n in range(9)
    ]
    assert [answer.status_code for answer in answers] == [422] * 9
    assert "do not belong together" in answers[0].text
    assert "Too many attempts" in answers[-1].text


def test_signing_in_from_another_site_or_towards_one_does_not_work(sign_in: Callable[..., Browser]) -> None:
    browser = sign_in(None)
    form = {"email": "owner@example.com", "password": "four-quiet-herons", "to": "//evil.example.net/"}
    assert browser.post("/sign-in", data=form, headers={"Origin": "http://evil.example.net"}).status_code == 400
    assert browser.post("/sign-in", data=form).headers["location"] == "/"
    browser.get("/")
    browser.cookies.clear()
    assert browser.get("/clients/1").headers["location"] == "/sign-in?to=/clients/1"


def test_pages_keep_to_themselves(sign_in: Callable[..., Browser]) -> None:
    policy = sign_in("owner").get("/").headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
