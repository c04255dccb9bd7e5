"""Numbers out of use: what callers hear, whom their calls are credited to, and when a number is released."""

from datetime import timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.flows import JOEL
from tests.wire import Wire
from tests.world import World, main_line
from vokari.standins.carrier.app import Carrier
from vokari.store.numbers import TrackingNumber
from vokari.work.agency import clients, today
from vokari.work.agency.access import NotAllowed
from vokari.work.agency.clients import NumberRules
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.numbers import assignments, bulk, health, numbers, plan, resting
from vokari.work.numbers.plan import Asked


@pytest.fixture
def rested(world: World, clock: StandingClock) -> tuple[World, TrackingNumber]:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    number = world.number("+14105550142", world.source("Boat show leaflet"), flow)
    rules = NumberRules(rest_days=60, rest_words="The boat show is over.")
    assert clients.set_number_rules(world.house, world.actor, world.client.id, rules) == []
    clock.move(days=10)
    assert resting.rest(world.house, world.actor, world.client.id, [number.id]) == []
    return world, number


Rested = tuple[World, TrackingNumber]


def late_call(world: World, ref: str, after_days: float) -> Wire:
    wire = Wire(world.house, ref, NOON + timedelta(days=after_days))
    wire.arrive()
    return wire


def test_callers_hear_the_line_and_count_late_for_the_last_holder(rested: Rested) -> None:
    world, _ = rested
    wire = late_call(world, "late", 20)
    assert [(one["type"], one.get("words")) for one in wire.commands] == [("play", "The boat show is over.")]
    wire("prompt_finished", 4, command=wire.commands[0]["id"])
    assert wire.ended
    done = history.log(world.house, world.actor, world.client.id, CallFilter())[0]
    assert (done.source, done.call.source_by, done.call.fate, done.call.reason) == (
        "Boat show leaflet",
        "late",
        "lost",
        "flow",
    )
    page = history.one(world.house, world.actor, world.client.id, done.call.id)
    assert page.document.name == "Resting number"
    found = plan.view(world.house, world.actor, world.client.id, Asked(state="resting")).numbers[0]
    assert (found.calls, found.source.name if found.source else "", found.lacks) == (0, "Boat show leaflet", set())


def test_the_route_map_does_not_call_a_resting_number_unheld(rested: Rested) -> None:
    world, number = rested
    spare = world.number("+14105550143")
    lanes = numbers.routes_view(world.house, world.actor, world.client.id).lanes
    assert [lane[1] for lane in lanes if lane[0] == 0] == [spare.id]
    assert number.id not in [lane[1] for lane in lanes]


def test_callers_are_sent_on_where_the_client_wants_it(rested: Rested) -> None:
    world, _ = rested
    clients.set_number_rules(world.house, world.actor, world.client.id, NumberRules(rest_to="410-555-0161"))
    wire = late_call(world, "on", 20)
    rung = wire("prompt_finished", 4, command=wire.commands[0]["id"])
    assert (rung[0]["type"], rung[0]["number"]) == ("ring", JOEL)
    wire("leg", 9, command=rung[0]["id"], outcome="answered")
    wire("caller_gone", 60)
    done = history.log(world.house, world.actor, world.client.id, CallFilter())[0]
    assert (done.call.fate, done.call.source_by) == ("answered", "late")


def test_a_rest_is_undone_with_the_source_it_had(rested: Rested, clock: StandingClock) -> None:
    world, number = rested
    clock.move(days=5)
    assert resting.wake(world.house, world.actor, world.client.id, number.id) == []
    line = numbers.of_client(world.house, world.actor, world.client.id)[0]
    assert (line.number.state, line.now.source.name if line.now else "") == ("in_service", "Boat show leaflet")
    assert resting.wake(world.house, world.actor, world.client.id, number.id)[0].sentence.startswith("Only a resting")


def test_a_quiet_number_is_released_when_its_rest_is_over_and_can_be_taken_again(
    rested: Rested, clock: StandingClock, carrier: Carrier
) -> None:
    world, _ = rested
    clock.move(days=59)
    assert resting.release_due(world.house) == 0
    clock.move(days=1)
    assert resting.release_due(world.house) == 1
    assert numbers.of_client(world.house, world.actor, world.client.id) == []
    gone = plan.view(world.house, world.actor, world.client.id, Asked(state="released")).numbers
    assert [(one.line.number.e164, one.line.number.ended_how) for one in gone] == [("+14105550142", "released")]
    assert carrier.inventory.taken() == []
    assert world.number("+14105550142").state == "in_service"


def test_a_number_that_still_rings_waits_for_a_person(rested: Rested, clock: StandingClock) -> None:
    world, number = rested
    wire = late_call(world, "late", 60)
    wire("prompt_finished", 4, command=wire.commands[0]["id"])
    clock.move(days=61)
    assert resting.release_due(world.house) == 0
    args = (world.house, world.actor, world.client.id, number.id)
    warning = resting.release(*args)[0]
    assert warning.field == "sure"
    assert warning.sentence.startswith("It still rings: One call came in the last 30 days, 1 in its rest.")
    assert resting.release(*args, sure=True) == []
    assert numbers.of_client(world.house, world.actor, world.client.id) == []


def test_a_number_in_service_is_not_released_and_a_resting_one_rests_once(rested: Rested) -> None:
    world, number = rested
    other = world.number("+14105550143")
    args = (world.house, world.actor, world.client.id)
    assert "rests before it is released" in resting.release(*args, other.id)[0].sentence
    assert "cannot rest" in resting.rest(*args, [other.id, number.id])[0].sentence
    assert [line.number.state for line in numbers.of_client(*args)].count("resting") == 1
    source = world.source("Van")
    assert "put it back in service first" in assignments.give(*args, number.id, source.id)[0].sentence
    assert "No other number in service" in assignments.swap(*args, other.id, number.e164)[0].sentence
    changed = bulk.apply(*args, [other.id, number.id], bulk.Wanted(source=source.id))
    assert isinstance(changed, list)
    assert changed[0].field == "source"
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            resting.rest(world.house, world.actors[role], world.client.id, [other.id])
        with pytest.raises(NotAllowed):
            resting.release(world.house, world.actors[role], world.client.id, number.id, sure=True)


def ring(world: World, called: str, day: float) -> None:
    wire = Wire(world.house, f"{called[1:]}-{day}", NOON + timedelta(days=day))
    wire.arrive(called)
    rung = wire("digit", 3, key="1")
    wire("leg", 9, command=rung[0]["id"], outcome="answered")
    wire("caller_gone", 60)


def test_health_tells_the_silent_the_unassigned_and_the_useless_from_the_good(
    world: World, clock: StandingClock
) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    for end, name in (("0142", "Good"), ("0143", "Went silent"), ("0144", "Useless")):
        world.number(f"+1410555{end}", world.source(name), flow)
    world.number("+14105550145")
    for day in range(0, 100, 2):
        ring(world, "+14105550142", day)
        if day < 80:
            ring(world, "+14105550143", day)
    clock.move(days=100)
    found = health.look(world.house, world.actor, world.client.id)
    assert {(one.line.line.number.e164[-4:], one.kind) for one in found.proposals} == {
        ("0143", "silent"),
        ("0144", "brings_nothing"),
        ("0145", "no_source"),
    }
    silent = next(one for one in found.proposals if one.kind == "silent")
    assert silent.words.startswith("silent for 22 days; at its usual one call in 2 days about 11 calls would have come")
    assert found.saving == 9
    chosen = [one.line.line.number.id for one in found.proposals]
    assert resting.rest(world.house, world.actor, world.client.id, chosen) == []
    assert health.look(world.house, world.actor, world.client.id).proposals == []


def test_a_number_without_a_source_stands_among_the_unused_as_on_today(world: World, clock: StandingClock) -> None:
    source = world.source("Spring leaflet")
    new, left = world.number("+14105550142"), world.number("+14105550143", source)
    args = (world.house, world.actor, world.client.id)
    clock.move(hours=2)
    assert assignments.give(*args, left.id, None, clock.now()) == []
    found = health.look(*args).proposals
    told = {one.line.line.number.id: (one.words, one.sure) for one in found}
    assert told == {
        new.id: ("not given to a lead source yet", False), left.id: ("belongs to no lead source any more", False),
    }  # fmt: skip
    needs = today.needs(world.house, world.actor)
    assert {need.number_id for need in needs if need.kind == "no_source"} == set(told)


def test_a_number_for_which_something_is_planned_is_left_alone(world: World, clock: StandingClock) -> None:
    number = world.number("+14105550142")
    clock.move(days=30)
    source = world.source("Spring leaflet")
    args = (world.house, world.actor, world.client.id)
    assert [one.kind for one in health.look(*args).proposals] == ["no_source"]
    assignments.give(*args, number.id, source.id, clock.now() + timedelta(days=3))
    assert health.look(*args).proposals == []
