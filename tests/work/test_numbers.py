"""Numbers and lead sources: history is kept, overlaps are impossible, and one of two takers gets the number."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy.dialects.postgresql import Range
from sqlalchemy.exc import IntegrityError

from tests.conftest import NOON, StandingClock
from tests.world import World, make_world
from vokari.store.numbers import Assignment, TrackingNumber
from vokari.work import numbers
from vokari.work.access import NotFound
from vokari.work.house import House
from vokari.work.numbers import SourceForm


def test_a_number_is_found_taken_and_given(world: World) -> None:
    free = numbers.search(
        world.house, world.actor, world.client.id, country="US", area_code="410", place="", kind="", contains="42"
    )
    assert isinstance(free, list)
    assert [one.e164 for one in free] == ["+14105550142"]
    source = world.source("Search advert", medium="cpc", campaign="spring lifts")
    taken = world.number("+14105550142", source)
    plan = numbers.plan(world.house, world.actor, world.client.id)
    assert [(one.name, [line.number.id for line in lines]) for one, lines in plan.sources] == [
        ("Search advert", [taken.id])
    ]
    again = numbers.search(
        world.house, world.actor, world.client.id, country="US", area_code="410", place="", kind="", contains="42"
    )
    assert again == []


def test_giving_a_number_to_another_source_keeps_the_history(world: World, clock: StandingClock) -> None:
    first, second = world.source("Trade magazine"), world.source("Boat show leaflet")
    number = world.number("+14105550142", first)
    clock.move(days=10)
    numbers.give(world.house, world.actor, world.client.id, number.id, second.id)
    clock.move(days=1)
    numbers.give(world.house, world.actor, world.client.id, number.id, None)
    plan = numbers.plan(world.house, world.actor, world.client.id)
    history = plan.without_source[0].history
    assert [(one.source.name, (one.since - NOON).days, (one.until - NOON).days) for one in history] == [
        ("Boat show leaflet", 10, 11),
        ("Trade magazine", 0, 10),
    ]


def test_the_database_itself_refuses_overlapping_assignments(world: World) -> None:
    source = world.source("Search advert")
    number = world.number("+14105550142", source)
    ids = {"agency_id": world.agency_id, "client_id": world.client.id, "number_id": number.id, "source_id": source.id}
    with pytest.raises(IntegrityError), world.house.begin() as session:
        session.add(Assignment(**ids, during=Range(NOON, None)))


def test_of_several_who_take_the_same_number_at_once_one_gets_it(house: House) -> None:
    worlds = [make_world(house, f"Agency {n}", f"a{n}.example.com") for n in range(4)]
    for number in range(8):
        e164 = f"+141055501{40 + number}"
        with ThreadPoolExecutor(4) as pool:
            results = list(
                pool.map(lambda w, e164=e164: numbers.take(house, w.actor, w.client.id, e164, None, None), worlds)
            )
        won = [one for one in results if isinstance(one, TrackingNumber)]
        lost = [one for one in results if isinstance(one, list)]
        assert (len(won), len(lost)) == (1, 3)
        assert all("Choose another one" in problems[0].sentence for problems in lost)


def test_what_is_typed_wrong_gets_words_and_nothing_is_saved(world: World) -> None:
    world.source("Search advert")
    twice = numbers.keep_source(world.house, world.actor, world.client.id, None, SourceForm("search ADVERT"))
    assert isinstance(twice, list)
    assert twice[0].field == "name"
    empty = numbers.keep_source(world.house, world.actor, world.client.id, None, SourceForm("  "))
    assert isinstance(empty, list)
    assert (
        numbers.take(world.house, world.actor, world.client.id, "+14105559999", None, None)[0].sentence
        == "The carrier has no such number."
    )
    bad = numbers.search(
        world.house, world.actor, world.client.id, country="US", area_code="4x", place="", kind="", contains=""
    )
    assert not isinstance(bad, list)
    assert bad.field == "area_code"


def test_the_fail_safe_is_kept_here_and_at_the_carrier(world: World, carrier: object) -> None:
    number = world.number("+14105550142")
    assert numbers.set_fail_safe(world.house, world.actor, world.client.id, number.id, "410-555-0161") == []
    assert carrier.inventory.fail_safe("+14105550142") == "+14105550161"
    assert (
        numbers.set_fail_safe(world.house, world.actor, world.client.id, number.id, "410-555-0142")[0].field
        == "fail_safe"
    )
    assert numbers.set_fail_safe(world.house, world.actor, world.client.id, number.id, "nobody")[0].field == "fail_safe"


def test_another_clients_source_cannot_be_named(house: House) -> None:
    mine, theirs = make_world(house), make_world(house, "Other", "other.example.com")
    number, source = mine.number("+14105550142"), theirs.source("Theirs")
    with pytest.raises(NotFound):
        numbers.give(house, mine.actor, mine.client.id, number.id, source.id)
    with pytest.raises(NotFound):
        numbers.take(house, mine.actor, mine.client.id, "+14105550143", source.id, None)
