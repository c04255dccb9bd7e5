"""Pages of people and teams: forms with words beside the fields, and a Ring step that rings them."""

import html
import re
from collections.abc import Callable

import pytest

from tests.flows import DANA, document, phone, ring, voicemail
from tests.web.conftest import Browser
from tests.world import World
from vokari.core.flows.model.steps import Ring
from vokari.core.people.directory import Person, Team
from vokari.store.people import PersonRow
from vokari.work.agency import trail
from vokari.work.flows import open_drafts
from vokari.work.house.views import PersonView, TeamView
from vokari.work.people import everybody, keeping


@pytest.fixture
def browser(sign_in: Callable[..., Browser]) -> Browser:
    return sign_in("specialist")


@pytest.fixture
def ada(world: World) -> PersonRow:
    form = {"name": "Ada", "phones": [{"to": "410 555 0165"}]}
    made = keeping.keep_person(world.house, world.actor, world.client.id, None, form)
    assert isinstance(made, PersonView)
    return made


def post(browser: Browser, world: World, path: str, **fields: str) -> tuple[int, str]:
    named = {name.replace("__", "-"): value for name, value in fields.items()}
    answer = browser.submit(f"/clients/{world.client.id}/people{path}", named)
    return answer.status_code, html.unescape(answer.text)


def person_of(world: World, name: str) -> Person:
    found = everybody.everybody(world.house, world.actor, world.client.id).people
    return next(one.person for one in found if one.row.name == name)


def test_a_person_is_added_with_phones_leave_and_an_extension(browser: Browser, world: World) -> None:
    assert "Nobody yet" in browser.get(f"/clients/{world.client.id}/people").text
    status, _ = post(
        browser, world, "/0", name="Ben", extension="21", phone__0="desk", to__0="(410) 555-0166", seconds__0="25", aside__0="2026-12-24",
        phone__1="mobile", to__1="410 555 0167", mailbox__1="18", leave="2026-12-21 to 2027-01-02\n2027-03-01", daily_limit="9",
    )  # fmt: skip
    assert status == 303
    ben = person_of(world, "Ben")
    assert [(one.name, one.to, one.seconds, one.mailbox_after, one.aside_until and one.aside_until.isoformat()) for one in ben.phones] == [
        ("desk", "+14105550166", 25, None, "2026-12-24"), ("mobile", "+14105550167", None, 18.0, None)
    ]  # fmt: skip
    assert [(one.first.isoformat(), one.last.isoformat()) for one in ben.leave] == [
        ("2026-12-21", "2027-01-02"), ("2027-03-01", "2027-03-01")
    ]  # fmt: skip
    assert (ben.extension, ben.daily_limit) == ("21", 9)
    page = browser.get(f"/clients/{world.client.id}/people").text
    assert "410-555-0166" in page
    assert "at most 9 calls a day" in page


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"name": ""}, "A person has a name of 1 to 60 letters."),
        ({"name": "Ben", "to__0": "911"}, "This is an emergency number"),
        ({"name": "Ben", "to__0": "410 555 016"}, "too few digits"),
        ({"name": "Ben", "to__0": "410 555 0166", "seconds__0": "x"}, "valid integer"),
        ({"name": "Ben", "daily_limit": "none"}, "valid integer"),
        ({"name": "Ben", "leave": "next week"}, "is no leave"),
        ({"name": "Ben", "leave": "2027-02-29"}, "is no leave"),
        ({"name": "Ben", "leave": "2027-03-02 to 2027-03-01"}, "is no leave"),
        ({"name": "ADA"}, "has this name already"),
    ],
)
def test_what_is_typed_wrong_is_shown_again(
    browser: Browser, world: World, ada: PersonRow, fields: dict[str, str], says: str
) -> None:
    status, text = post(browser, world, "/0", **fields)
    assert status == 422
    assert says in text
    assert f'value="{fields["name"]}"' in text
    assert len(everybody.everybody(world.house, world.actor, world.client.id).people) == 1


def test_a_phone_abroad_asks_once(browser: Browser, world: World) -> None:
    fields = {"name": "Ben", "to__0": "+44 20 7946 0630"}
    status, text = post(browser, world, "/0", **fields)
    assert status == 422
    assert "another country (GB). Save again if that is right." in text
    assert 'name="agreed" value="+442079460630"' in text
    assert post(browser, world, "/0", agreed="+442079460630", **fields)[0] == 303


def test_a_team_is_made_ordered_and_given_a_rota(browser: Browser, world: World, ada: PersonRow) -> None:
    for name, to in (("Ben", "410 555 0166"), ("Cleo", "410 555 0167")):
        assert post(browser, world, "/0", name=name, to__0=to)[0] == 303
    keys = {one.row.name: one.row.key for one in everybody.everybody(world.house, world.actor, world.client.id).people}
    fields = {
        "name": "Yard",
        "strategy": "rota",
        "rounds": "2",
        "count": "0",
        "unit": "week",
        "rota_first": "2026-11-23",
    }
    members = {"person__0": keys["Ada"], "place__0": "2", "person__1": keys["Cleo"], "place__1": "1", "weight__1": "3"}
    swap = {"swap_count": "0", "swap__on__0": "2026-12-07", "swap__by__0": keys["Ben"]}
    assert post(browser, world, "/teams/0", **fields, **members, **swap)[0] == 303
    line = everybody.everybody(world.house, world.actor, world.client.id).teams[0]
    assert line.members == ["Cleo", "Ada"]
    assert isinstance(line.team, Team)
    assert line.team.rota
    assert [(one.on.isoformat(), one.person) for one in line.team.rota.swaps] == [("2026-12-07", keys["Ben"])]
    page = f"/teams/{line.row.id}"
    for wrong, says in (
        ({"rota_first": ""}, "date"), ({"rounds": "99"}, "less than or equal to 10"), ({"strategy": "dance"}, "Input should be"),
        ({"swap__by__0": ""}, "Say who takes"), ({"name": ""}, "1 to 60 letters"), ({"person__1": "pe_none"}, "is gone"),
    ):  # fmt: skip
        status, text = post(browser, world, page, **{**fields, **members, **swap, **wrong})
        assert (status, says in text) == (422, True), wrong
    assert everybody.everybody(world.house, world.actor, world.client.id).teams[0].members == ["Cleo", "Ada"]


def test_a_ring_step_gets_people_and_teams_and_loses_them(browser: Browser, world: World, ada: PersonRow) -> None:
    team = keeping.keep_team(
        world.house, world.actor, world.client.id, None, {"name": "Yard", "members": [{"person": ada.key}]}
    )
    assert isinstance(team, TeamView)
    flow = world.flow(
        document(ring("r", phone("Dana", DANA), no_answer="vm", name="Yard"), voicemail(), rescue="vm"), live=False
    )
    page = f"/clients/{world.client.id}/flows/{flow.id}/rows/r"
    base = {
        "name": "Yard",
        "no_answer": "vm",
        "phone-0-id": "d160",
        "phone-0-name": "Dana",
        "phone-0-number": DANA,
        "phone-0-seconds": "20",
    }

    def step() -> Ring:
        found = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).shown.step("r")
        assert isinstance(found, Ring)
        return found

    for n, callee in enumerate((f"person:{ada.key}", f"team:{team.key}")):
        more = {f"phone-{i + 1}-id": one.id for i, one in enumerate(step().to[1:])}
        of = {f"phone-{i + 1}-of": f"{one.kind}:{getattr(one, one.kind)}" for i, one in enumerate(step().to[1:])}
        answer = browser.submit(
            page, {**base, **more, **of, "base": str(n), "callee": callee, "strategy": "round_robin"}
        )
        assert answer.status_code == 200
    assert [getattr(one, "name", "") for one in step().to] == ["Dana", "Ada", "Yard"]
    assert step().strategy == "round_robin"
    text = html.unescape(browser.get(f"/clients/{world.client.id}/flows/{flow.id}?row=r").text)
    assert "rings Dana, Ada and Yard" in text
    ids = [one.id for one in step().to]
    out = {
        "phone-1-id": ids[1],
        "phone-1-of": f"person:{ada.key}",
        "phone-1-out": "1",
        "phone-2-id": ids[2],
        "phone-2-of": f"team:{team.key}",
    }
    assert browser.submit(page, {**base, **out, "base": "2"}).status_code == 200
    assert [getattr(one, "name", "") for one in step().to] == ["Dana", "Yard"]


def test_somebody_is_switched_off_replaced_and_removed(browser: Browser, world: World, ada: PersonRow) -> None:
    assert post(browser, world, "", do="off", kind="person", id=str(ada.id))[0] == 303
    assert "switched off" in browser.get(f"/clients/{world.client.id}/people").text
    step = {**ring("r", no_answer="vm", name="Yard"), "to": [{"kind": "person", "id": "p1", "person": ada.key}]}
    flow = world.flow(document(step, voicemail(), rescue="vm", name="Ada line", mark="AL"))
    assert "is rung by Ada line" in post(browser, world, "", do="remove", kind="person", id=str(ada.id))[1]
    assert post(browser, world, "/0", name="Ben", to__0="410 555 0166")[0] == 303
    ben = next(
        one.row
        for one in everybody.everybody(world.house, world.actor, world.client.id).people
        if one.row.name == "Ben"
    )
    assert post(browser, world, f"/person/{ada.id}/replace")[0] == 422
    status, text = post(browser, world, f"/person/{ada.id}/replace", by=str(ben.id), flow=str(flow.id), live="1")
    assert status == 200
    assert "Changed: the draft of Ada line, Ada line, live." in text
    assert post(browser, world, "", do="remove", kind="person", id=str(ada.id))[0] == 303
    assert "Ada was removed." in browser.get(f"/clients/{world.client.id}/people").text
    assert post(browser, world, "", do="bring_back", kind="person", id=str(ada.id))[0] == 303


def test_people_switch_themselves_by_their_own_address(
    browser: Browser, sign_in: Callable[..., Browser], world: World, ada: PersonRow
) -> None:
    page = f"/clients/{world.client.id}/people/{ada.id}"
    path = re.search(r"http://testserver(/duty/[0-9a-f-]+)", browser.get(page).text)[1]
    phone_ = sign_in(None)
    assert "On duty." in phone_.get(path).text
    assert phone_.post(path, data={"do": "off"}).status_code == 303
    assert "Switched off." in phone_.get(path).text
    assert "switched off" in browser.get(f"/clients/{world.client.id}/people").text
    assert trail.listed(world.house, world.actor, world.client.id)[0].words == "Ada switched themselves off"
    assert post(browser, world, "", do="on", kind="person", id=str(ada.id))[0] == 303
    assert "On duty." in phone_.get(path).text
    for wrong in (path[:-1] + ("0" if path[-1] != "0" else "1"), "/duty/1", "/duty/x", f"/duty/999-{'0' * 32}"):
        assert phone_.get(wrong).status_code == 404
        assert phone_.post(wrong, data={"do": "off"}).status_code == 404
    assert post(browser, world, "", do="renew", kind="person", id=str(ada.id))[0] == 303
    assert phone_.get(path).status_code == 404
