"""Today: what needs a person, worst first, and no longer than it does."""

from datetime import timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.work.agency import clients, today
from vokari.work.agency.access import NotAllowed
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter

CALLER = "+14105550185"


@pytest.fixture
def line(world: World) -> World:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("Search advert"), flow)
    world.number("+14105550143", world.source("Bus stop"), flow)
    return world


def lost(world: World, ref: str, hours_ago: float, caller: str | None = CALLER, after: float = 30) -> None:
    wire = Wire(world.house, ref, NOON - timedelta(hours=hours_ago))
    wire.arrive(caller=caller)
    wire("caller_gone", after)


def answered(world: World, ref: str, hours_ago: float, caller: str = CALLER) -> None:
    wire = Wire(world.house, ref, NOON - timedelta(hours=hours_ago))
    wire.arrive(caller=caller)
    rung = wire("digit", 3, key="1")
    wire("leg", 9, command=rung[0]["id"], outcome="answered")
    wire("caller_gone", 60)


def sentences(world: World, kind: str) -> list[str]:
    return [need.sentence for need in today.needs(world.house, world.actor) if need.kind == kind]


def marked(world: World) -> list[int]:
    """The clients that every page says need a person, in that order."""
    return [one.id for one in today.clients_in_need(world.house, world.actor)]


def waiting(world: World) -> list[str]:
    return [one.call.caller for one in history.log(world.house, world.actor, world.client.id, CallFilter(waiting=True))]


def test_a_lost_caller_needs_a_person_until_they_get_through(line: World) -> None:
    lost(line, "c1", 3)
    assert sentences(line, "lost") == [
        "One caller was lost and has not got through since, the latest at 09:00; hung up in a menu."
    ]
    assert waiting(line) == [CALLER]
    answered(line, "c2", 2)
    assert sentences(line, "lost") == waiting(line) == []
    lost(line, "c3", 1)
    assert waiting(line) == [CALLER]


def test_somebody_elses_answered_call_does_not_settle_it(line: World) -> None:
    lost(line, "c1", 3)
    answered(line, "c2", 2, "+14105550186")
    assert waiting(line) == [CALLER]


def test_who_cannot_be_called_back_or_hardly_called_does_not_count(line: World, clock: StandingClock) -> None:
    lost(line, "withheld", 3, None)
    lost(line, "quick", 2, after=2)
    clients.add_test_phone(line.house, line.actor, "410-555-0199", "Desk", "US")
    lost(line, "test", 1, "+14105550199")
    assert waiting(line) == []
    lost(line, "real", 1)
    assert waiting(line) == [CALLER]
    clock.move(hours=24)
    assert waiting(line) == []


def test_two_calls_of_one_caller_are_one_caller(line: World) -> None:
    lost(line, "c1", 3)
    lost(line, "c2", 2)
    lost(line, "c3", 1, "+14105550186")
    assert sentences(line, "lost")[0].startswith("2 callers were lost")


def test_gaps_of_the_plan_are_told_worst_first_and_mark_their_client(line: World) -> None:
    house, actor = line.house, line.actor
    line.number("+14105550144", line.source("Van"))
    line.number("+14105550145")
    line.source("Trade magazine")
    draft = line.flow(main_line(name="Second", mark="SE"), live=False, sources={"ls_bus": "Bus panel"})
    line.number("+14105550146", line.source("Radio"), draft)
    needs = today.needs(house, actor)
    kinds = [need.kind for need in needs]
    assert kinds == sorted(kinds, key=["no_flow", "lost", "no_source", "no_number"].index)
    assert [need.sentence for need in needs if need.kind == "no_flow"] == [
        "410-555-0144 has no flow: callers only reach the fail-safe.",
        "410-555-0145 has no flow: callers only reach the fail-safe.",
        "410-555-0146 points at Second, which is not live.",
    ]
    assert sentences(line, "no_source") == [
        "410-555-0145 belongs to no lead source: its calls are credited to nothing."
    ]
    assert "Trade magazine" in sentences(line, "no_number")[0]
    assert marked(line) == list({need.client.id for need in needs}) == [line.client.id]


def test_the_mark_of_a_client_and_the_list_agree_when_nothing_is_wrong(line: World) -> None:
    assert today.needs(line.house, line.actor) == [], "a source that a live key states needs no number"
    assert marked(line) == []
    other = make_world(line.house, "Other agency", "other.example.com")
    assert today.needs(line.house, other.actor) == []
    assert marked(other) == []
    lost(line, "c1", 1)
    assert marked(other) == []
    assert marked(line) == [line.client.id]


def test_a_clients_own_people_have_no_today(line: World) -> None:
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            today.needs(line.house, line.actors[role])
        with pytest.raises(NotAllowed):
            today.clients_in_need(line.house, line.actors[role])
