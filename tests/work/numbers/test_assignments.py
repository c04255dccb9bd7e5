"""Giving, swapping and taking back numbers, now and from a future moment."""

from datetime import datetime, timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.store.numbers import LeadSource, TrackingNumber
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.numbers import assignments, number_page


def days(count: float) -> datetime:
    return NOON + timedelta(days=count)


@pytest.fixture
def pair(world: World) -> tuple[World, TrackingNumber, LeadSource, LeadSource]:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    first, second = world.source("Trade magazine"), world.source("Boat show leaflet")
    return world, world.number("+14105550142", first, flow), first, second


Pair = tuple[World, TrackingNumber, LeadSource, LeadSource]


def line(world: World, number: TrackingNumber) -> list[tuple[str, float, float | None]]:
    """The time line of a number: source, and the days from now at which it begins and ends."""
    page = number_page.opened(world.house, world.actor, world.client.id, number.id)

    def day(moment: datetime | None) -> float | None:
        return None if moment is None else (moment - NOON) / timedelta(days=1)

    return [(page.sources[one.source_id].name, day(one.since) or 0.0, day(one.until)) for one in page.spans]


def test_giving_a_number_to_another_source_keeps_the_history(pair: Pair, clock: StandingClock) -> None:
    world, number, _, second = pair
    args = (world.house, world.actor, world.client.id, number.id)
    clock.move(days=10)
    assert assignments.give(*args, second.id) == []
    clock.move(days=1)
    assert assignments.give(*args, None) == []
    assert line(world, number) == [("Trade magazine", 0, 10), ("Boat show leaflet", 10, 11)]


def test_a_change_from_tomorrow_credits_todays_and_tomorrows_calls_apart(pair: Pair) -> None:
    world, number, _, second = pair
    assert assignments.give(world.house, world.actor, world.client.id, number.id, second.id, days(1)) == []
    for ref, start in (("today", days(0.9)), ("tomorrow", days(1)), ("later", days(3))):
        wire = Wire(world.house, ref, start)
        wire.arrive()
        wire("caller_gone", 30)
    found = history.log(world.house, world.actor, world.client.id, CallFilter())
    assert [one.source for one in found] == ["Boat show leaflet", "Boat show leaflet", "Trade magazine"]


def test_a_source_can_have_a_number_for_a_time(pair: Pair) -> None:
    world, number, _, second = pair
    args = (world.house, world.actor, world.client.id, number.id)
    assert assignments.give(*args, second.id, days(2), days(5)) == []
    assert line(world, number) == [("Trade magazine", 0, 2), ("Boat show leaflet", 2, 5), ("Trade magazine", 5, None)]
    page = number_page.opened(*args)
    assert [(at, source.name if source else None) for at, source in page.planned] == [
        (days(2), "Boat show leaflet"),
        (days(5), "Trade magazine"),
    ]
    assert assignments.cancel(*args, days(2)) == []
    assert line(world, number) == [("Trade magazine", 0, None)]
    assert assignments.cancel(*args, days(2))[0].sentence == "No change is planned for this moment."


def test_two_numbers_swap_their_sources_from_a_moment_on(pair: Pair) -> None:
    world, number, _, second = pair
    other = world.number("+14105550143", second)
    assert assignments.swap(world.house, world.actor, world.client.id, number.id, other.e164, days(1)) == []
    assert line(world, number) == [("Trade magazine", 0, 1), ("Boat show leaflet", 1, None)]
    assert line(world, other) == [("Boat show leaflet", 0, 1), ("Trade magazine", 1, None)]
    same = assignments.swap(world.house, world.actor, world.client.id, number.id, number.e164)
    assert same[0].field == "other"


def test_the_past_cannot_be_rewritten(pair: Pair) -> None:
    world, number, _, second = pair
    args = (world.house, world.actor, world.client.id, number.id)
    assert assignments.give(*args, second.id, days(-1))[0].field == "since"
    assert assignments.give(*args, second.id, days(3), days(2))[0].field == "until"
    assert assignments.cancel(*args, NOON)[0].field == "since"
    assert line(world, number) == [("Trade magazine", 0, None)]
    assert assignments.give(*args, second.id, NOON - timedelta(seconds=40)) == []
    assert line(world, number) == [("Boat show leaflet", 0, None)]


def test_what_is_planned_gives_way_to_what_is_given_now(pair: Pair, clock: StandingClock) -> None:
    world, number, first, second = pair
    args = (world.house, world.actor, world.client.id, number.id)
    assignments.give(*args, second.id, days(4))
    clock.move(days=1)
    assert assignments.give(*args, None) == []
    assert line(world, number) == [("Trade magazine", 0, 1)]
    assert assignments.give(*args, first.id) == []
    assert line(world, number) == [("Trade magazine", 0, None)]


def test_who_may_give(pair: Pair) -> None:
    world, number, _, second = pair
    other = make_world(world.house, "Other", "o.example.com")
    with pytest.raises(NotFound):
        assignments.give(world.house, other.actor, other.client.id, number.id, None)
    with pytest.raises(NotFound):
        assignments.give(world.house, world.actor, world.client.id, number.id, other.source("Theirs").id)
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            assignments.give(world.house, world.actors[role], world.client.id, number.id, second.id)
        with pytest.raises(NotAllowed):
            assignments.cancel(world.house, world.actors[role], world.client.id, number.id, days(1))
