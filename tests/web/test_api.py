"""The API for programs: what hours answer, with a token only, and problem documents for all else (RFC 9457)."""

from collections.abc import Callable
from datetime import datetime, timedelta

import pytest
from starlette.testclient import TestClient

from tests.conftest import NOON, StandingClock
from tests.hours import closed, week
from tests.world import World, make_world
from vokari.api.reading import create
from vokari.store.hours import HoursSet
from vokari.work.agency import tokens
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.hours import days, sets
from vokari.work.house.house import House
from vokari.work.house.views import HoursSetView


@pytest.fixture
def opening(world: World) -> HoursSet:
    return made(world, "Opening times", "client", desk="Mon-Fri 9-17", shop="Sat 9-13")


def made(world: World, name: str, purpose: str, **texts: str) -> HoursSet:
    one = sets.create(world.house, world.actor, world.client.id, name, purpose)
    assert isinstance(one, HoursSetView)
    names = {"desk": "Front desk", "shop": "Workshop"}
    periods = [(key, names[key]) for key in texts]
    done = sets.set_week(world.house, world.actor, world.client.id, one.id, periods, week(**texts), None)
    assert not isinstance(done, list)
    return done.set


def secret(world: World, role: str = "specialist") -> str:
    token = tokens.make(world.house, world.actors[role], "Wall display", ["hours:read"])  # type: ignore[index]
    assert not isinstance(token, list)
    return token[1]


@pytest.fixture
def ask(house: House, world: World) -> Callable[..., tuple[int, dict[str, object]]]:
    client = TestClient(create(house), headers={"Authorization": f"Bearer {secret(world)}"})

    def get(path: str, **query: object) -> tuple[int, dict[str, object]]:
        answer = client.get(f"/clients/{world.client.id}/hours{path}", params=query)
        return answer.status_code, answer.json()

    return get


def test_what_holds_at_a_moment_and_why(
    ask: Callable[..., tuple[int, dict[str, object]]], world: World, opening: HoursSet
) -> None:
    status, now = ask(f"/{opening.key}/at")
    assert status == 200
    assert now == {
        "at": "2026-11-24T12:00:00-05:00", "open": True, "period": "desk", "period_name": "Front desk", "because": "week",
        "because_name": "", "until": "2026-11-24T17:00:00-05:00", "then": "closed", "then_name": "closed",
        "sentence": "Front desk open, closes 17:00", "time_zone": "America/New_York",
    }  # fmt: skip
    holiday = closed("2026-12-24", name="Christmas")
    assert days.keep(world.house, world.actor, world.client.id, opening.id, holiday) == []
    _, then = ask(f"/{opening.key}/at", at="2026-12-24T12:00")
    assert (then["open"], then["because"], then["because_name"]) == (False, "days", "Christmas")
    assert then["at"] == "2026-12-24T12:00:00-05:00", "a time without an offset is the set's own"
    _, abroad = ask(f"/{opening.key}/at", at="2026-11-28T15:00:00Z")
    assert (abroad["period"], abroad["at"]) == ("shop", "2026-11-28T10:00:00-05:00")


def test_the_next_changes_and_the_open_time(
    ask: Callable[..., tuple[int, dict[str, object]]], opening: HoursSet
) -> None:
    status, found = ask(f"/{opening.key}/next", days=5)
    assert status == 200
    changes = [(one["at"][:16], one["period"]) for one in found["changes"]]  # type: ignore[union-attr]
    assert changes[:3] == [("2026-11-24T17:00", "closed"), ("2026-11-25T09:00", "desk"), ("2026-11-25T17:00", "closed")]
    assert changes[-1] == ("2026-11-28T13:00", "closed")
    assert found["open_minutes_a_week"] == {"week": 5 * 480 + 240, "periods": {"desk": 2400, "shop": 240}}
    assert len(ask(f"/{opening.key}/next", days=300, most=7)[1]["changes"]) == 7  # type: ignore[arg-type]


def test_own_times_against_open_times(
    ask: Callable[..., tuple[int, dict[str, object]]], world: World, opening: HoursSet
) -> None:
    joel = made(world, "Joel", "own", desk="Mon-Fri 9-12, 13-17")
    dana = made(world, "Dana", "own", desk="Mon, Tue 12-13; Sat 8-18")
    _, alone = ask(f"/{opening.key}/cover", own=joel.key, days=7)
    assert (alone["open_minutes"], alone["covered_minutes"]) == (2640, 2640 - 300 - 240)
    _, both = ask(f"/{opening.key}/cover", own=[joel.key, dana.key], days=7)
    assert both["covered_minutes"] == 2640 - 180
    assert [one["from"][:16] for one in both["gaps"]] == ["2026-11-25T12:00", "2026-11-26T12:00", "2026-11-27T12:00"]  # type: ignore[union-attr]
    assert ask(f"/{opening.key}/cover", own="h_none")[0] == 404
    assert ask(f"/{opening.key}/cover")[0] == 422


def test_the_list_has_the_main_set_first(
    ask: Callable[..., tuple[int, dict[str, object]]], world: World, opening: HoursSet
) -> None:
    made(world, "Joel", "own", desk="Mon 9-12")
    _, found = ask("")
    assert [(one["name"], one["main"], one["purpose"]) for one in found] == [  # type: ignore[index]
        ("Opening times", True, "client"), ("Joel", False, "own")
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("path", "query", "status", "detail"),
    [
        ("/h_none/at", {}, 404, ""),
        ("/{key}/at", {"at": "noon"}, 422, "at: "),
        ("/{key}/at", {"at": "9999-12-31T23:59:59"}, 422, ""),
        ("/{key}/at", {"at": "0001-01-01T00:00:00+14:00"}, 422, ""),
        ("/{key}/next", {"days": 0}, 422, "days: "),
        ("/{key}/next", {"days": 999_999}, 422, "days: "),
        ("/{key}/next", {"most": -1}, 422, "most: "),
        ("/{key}/nothing", {}, 404, ""),
    ],
)
def test_what_cannot_be_answered_is_a_problem_document(
    ask: Callable[..., tuple[int, dict[str, object]]], opening: HoursSet, path: str, query: dict[str, object], status: int,
    detail: str,
) -> None:  # fmt: skip
    got, document = ask(path.format(key=opening.key), **query)
    assert got == document["status"] == status
    assert str(document["type"]).startswith("/problems/")
    assert detail in str(document.get("detail", ""))


def test_a_token_is_needed_and_says_whose_it_is(
    house: House, world: World, opening: HoursSet, clock: StandingClock
) -> None:
    api = TestClient(create(house))
    path = f"/clients/{world.client.id}/hours"
    for headers in ({}, {"Authorization": "Bearer vk_wrong"}, {"Authorization": "Basic YTpi"}):
        answer = api.get(path, headers=headers)
        assert answer.status_code == 401
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.headers["www-authenticate"] == "Bearer"
    other = make_world(house, "Other agency", "other.example.com")
    assert api.get(path, headers={"Authorization": f"Bearer {secret(other)}"}).status_code == 404
    mine = {"Authorization": f"Bearer {secret(world, 'owner')}"}
    assert api.get(path, headers=mine).status_code == 200
    listed = tokens.listed(house, world.actor)
    assert [(token.name, who) for token, who in listed] == [("Wall display", "Owner")]
    assert listed[0][0].last_used_at == NOON
    clock.move(minutes=1)
    api.get(path, headers=mine)
    assert tokens.listed(house, world.actor)[0][0].last_used_at == NOON, "each use is not written down"
    tokens.end(house, world.actor, listed[0][0].id)
    assert api.get(path, headers=mine).status_code == 401


def test_who_may_make_and_end_tokens(world: World) -> None:
    made_ = tokens.make(world.house, world.actor, "A", ["hours:read"])
    assert not isinstance(made_, list)
    other = make_world(world.house, "Other agency", "other.example.com")
    for role in ("client_editor", "client_viewer"):
        actor = world.actors[role]
        for change in (
            lambda actor=actor: tokens.make(world.house, actor, "A", ["hours:read"]),
            lambda actor=actor: tokens.listed(world.house, actor),
            lambda actor=actor: tokens.end(world.house, actor, made_[0].id),
        ):
            with pytest.raises(NotAllowed):
                change()
    with pytest.raises(NotFound):
        tokens.end(world.house, other.actor, made_[0].id)
    refused = tokens.make(world.house, world.actor, " ", ["calls:write"])
    assert isinstance(refused, list)
    assert {one.field for one in refused} == {"name", "scopes"}


def test_the_openapi_document_names_what_there_is(house: House) -> None:
    document = TestClient(create(house)).get("/openapi.json").json()
    assert set(document["paths"]) == {
        f"/clients/{{client_id}}/hours{end}" for end in ("", "/{key}/at", "/{key}/next", "/{key}/cover")
    }
    assert document["components"]["securitySchemes"]["HTTPBearer"]["scheme"] == "bearer"


def test_answers_agree_with_each_other_through_a_year(
    ask: Callable[..., tuple[int, dict[str, object]]], opening: HoursSet
) -> None:
    changes = ask(f"/{opening.key}/next", days=366, most=5000)[1]["changes"]
    for one in changes[::97]:  # type: ignore[index]
        at = datetime.fromisoformat(one["at"])
        assert ask(f"/{opening.key}/at", at=at.isoformat())[1]["period"] == one["period"]
        before = ask(f"/{opening.key}/at", at=(at - timedelta(minutes=1)).isoformat())[1]
        assert before["period"] != one["period"]
        assert before["until"] == one["at"]
