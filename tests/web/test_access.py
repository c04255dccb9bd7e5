"""Every route with every role and with another agency's ids."""

import re
from collections.abc import Callable

import pytest

from tests.web.conftest import Browser
from tests.web.routes import ALL_ROLES, BY_SECRET, OPEN, OWN, OWNERS, RESULTS, Ids, filled, forms, pages, post, routes
from tests.world import World, make_world


def ask(browser: Browser, method: str, path: str) -> int:
    if path.endswith("/events") and method == "GET":
        return 0
    return (browser.get(path) if method == "GET" else browser.submit(path)).status_code


def may(role: str, pattern: str) -> bool:
    """Whether a role may use a route."""
    if role == "owner" or pattern in ALL_ROLES or pattern in RESULTS:
        return True
    if role == "specialist":
        return pattern not in OWNERS
    return role == "client_editor" and pattern.startswith(OWN) and not pattern.endswith("/replace")


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
def test_every_page_with_every_role(sign_in: Callable[..., Browser], world: World, role: str) -> None:
    ids, browser = filled(world, "+14105550142"), sign_in(role)
    for method, pattern in routes(browser):
        if method != "GET" or pattern in OPEN | BY_SECRET or pattern.endswith("/events"):
            continue
        status = browser.get(ids.path(pages(ids).get(pattern, pattern))).status_code
        expected = (303,) if pattern == "/" and not role.startswith(("owner", "spec")) else (200,)
        assert status in (expected if may(role, pattern) else (403,)), (pattern, status)


@pytest.mark.parametrize("role", ["owner", "specialist", "client_editor", "client_viewer"])
def test_every_form_with_every_role(sign_in: Callable[..., Browser], world: World, role: str) -> None:
    ids, browser = filled(world, "+14105550142"), sign_in(role)
    posted = forms(ids)
    assert {pattern.strip() for pattern in posted} | {"/sign-in"} == {
        pattern for method, pattern in routes(browser) if method == "POST"
    }, "a form for each route"
    for pattern, form in posted.items():
        answer = post(browser, ids, pattern, form)
        allowed = pattern in BY_SECRET or may(role, pattern.strip())
        said = re.findall(r'class="[^"]*wrong[^"]*"[^>]*>([^<]+)<', answer.text)
        assert answer.status_code in ((200, 204, 303) if allowed else (403,)), (pattern, answer.status_code, said)


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
    assert [answer.status_code for answer in answers] == [422] * 8 + [429]
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
