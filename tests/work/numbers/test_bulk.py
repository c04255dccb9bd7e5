"""Changing many numbers together: preview, one step, one undo."""

from typing import Any

import pytest
from sqlalchemy import event

from tests.conftest import StandingClock
from tests.flows import DANA
from tests.world import World, main_line
from vokari.standins.carrier.app import Carrier
from vokari.work.agency import clients, trail
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import NumberRules
from vokari.work.house.problems import Refused
from vokari.work.house.views import AuditEntryView
from vokari.work.numbers import bulk, number_form, numbers, plan, sources
from vokari.work.numbers.bulk import Change, Wanted
from vokari.work.numbers.number_form import NumberForm


@pytest.fixture
def three(world: World) -> tuple[World, list[int]]:
    source = world.source("Search advert", placement="results")
    made = [world.number(f"+1410555014{n}", source if n < 2 else None) for n in range(3)]
    return world, [one.id for one in made]


Three = tuple[World, list[int]]


def args(world: World) -> tuple[Any, ...]:
    return world.house, world.actor, world.client.id


def snapshot(world: World) -> list[tuple[Any, ...]]:
    return [
        (line.number.flow_id, line.number.whisper, line.number.fail_safe, line.now.source.name if line.now else None)
        for line in numbers.of_client(*args(world))
    ]


def test_flow_source_whisper_and_fail_safe_are_set_in_one_step_and_taken_back_in_one(
    three: Three, carrier: Carrier, clock: StandingClock
) -> None:
    world, ids = three
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    leaflet = world.source("Leaflet")
    before = snapshot(world)
    wanted = Wanted(source=leaflet.id, flow=flow.id, whisper="Boatyard", fail_safe="410-555-0163")
    changes = bulk.preview(*args(world), ids, wanted)
    assert [(one.e164[-1], one.field, one.was, one.becomes) for one in changes if isinstance(one, Change)][:4] == [
        ("0", "source", "Search advert", "Leaflet"),
        ("0", "flow", "none", "Main line"),
        ("0", "whisper", "none", "“Boatyard”"),
        ("0", "fail_safe", "the client’s", "410-555-0163"),
    ]
    assert snapshot(world) == before, "a preview changes nothing"
    clock.move(minutes=5)
    entry = bulk.apply(*args(world), ids, wanted)
    assert isinstance(entry, AuditEntryView)
    assert entry.words == "changed fail-safe and flow and lead source and whisper of 3 numbers"
    assert snapshot(world) == [(flow.id, "Boatyard", "+14105550163", "Leaflet")] * 3
    assert carrier.inventory.fail_safe("+14105550141") == DANA, "told once it is committed, not before"
    world.tell_fail_safes()
    assert carrier.inventory.fail_safe("+14105550141") == "+14105550163"
    clock.move(minutes=5)
    assert bulk.undo(*args(world), entry.id) == []
    assert snapshot(world) == before
    assert bulk.undo(*args(world), entry.id)[0].sentence == "This was taken back already."


def test_one_number_that_the_carrier_refuses_takes_nothing_from_the_others(three: Three, carrier: Carrier) -> None:
    world, ids = three
    carrier.inventory.give_back("+14105550141")
    assert isinstance(bulk.apply(*args(world), ids, Wanted(fail_safe="410-555-0163")), AuditEntryView)
    world.tell_fail_safes()
    told = {one.line.number.e164[-1]: one.untold for one in plan.view(*args(world)).numbers}
    assert told == {"0": "", "1": "the carrier did not take it: Nobody has taken this number.", "2": ""}
    assert carrier.inventory.fail_safe("+14105550142") == "+14105550163"


def test_a_preview_reads_a_fixed_number_of_statements(world: World) -> None:
    made = [world.number(f"+1410555014{n}", world.source(f"Source {n}")) for n in range(6)]
    counts = []
    for ids in ([made[0].id], [one.id for one in made]):
        seen: list[str] = []

        def listener(*told: Any, seen: list[str] = seen) -> None:
            seen.append(told[2])

        event.listen(world.house.engine, "before_cursor_execute", listener)
        assert len(bulk.preview(*args(world), ids, Wanted(flow=0, whisper="x", source=0))) == 2 * len(ids)
        event.remove(world.house.engine, "before_cursor_execute", listener)
        counts.append(len(seen))
    assert counts[0] == counts[1]


def test_a_placement_is_set_for_the_sources_of_the_numbers(three: Three) -> None:
    world, ids = three
    entry = bulk.apply(*args(world), ids[:2], Wanted(placement="first page"))
    assert isinstance(entry, AuditEntryView)
    assert [one.placement for one in sources.lead_sources(*args(world))] == ["first page"]
    assert bulk.undo(*args(world), entry.id) == []
    assert [one.placement for one in sources.lead_sources(*args(world))] == ["results"]


def test_what_was_changed_since_is_not_taken_back_in_silence(three: Three) -> None:
    world, ids = three
    entry = bulk.apply(*args(world), ids, Wanted(whisper="Boatyard"))
    assert isinstance(entry, AuditEntryView)
    number_form.keep(*args(world), ids[1], NumberForm("", "Mine"))
    assert "0141 was changed since" in bulk.undo(*args(world), entry.id)[0].sentence
    assert [one[1] for one in snapshot(world)] == ["Boatyard", "Mine", "Boatyard"]


@pytest.mark.parametrize(
    ("wanted", "field"),
    [
        (Wanted(), ""),
        (Wanted(whisper="x" * 201), "whisper"),
        (Wanted(fail_safe="12"), "fail_safe"),
        (Wanted(fail_safe="410-555-0141"), "fail_safe"),
        (Wanted(placement="page"), "placement"),
        (Wanted(placement="page", source=0), "placement"),
    ],
)
def test_what_cannot_be_set_gets_words_and_changes_nothing(three: Three, wanted: Wanted, field: str) -> None:
    world, ids = three
    before = snapshot(world)
    looked, applied = bulk.preview(*args(world), ids, wanted), bulk.apply(*args(world), ids, wanted)
    assert isinstance(looked, Refused)
    assert looked.problems == applied
    assert [one.field for one in looked.problems] == [field]
    assert snapshot(world) == before
    nobody = bulk.preview(*args(world), [], Wanted(whisper="x"))
    assert isinstance(nobody, Refused)
    assert [one.field for one in nobody.problems] == ["numbers"]


def test_who_may_change_many(three: Three) -> None:
    world, ids = three
    entry = bulk.apply(*args(world), ids, Wanted(whisper="Boatyard"))
    assert isinstance(entry, AuditEntryView)
    for role in ("client_editor", "client_viewer"):
        for refused in (
            lambda role=role: bulk.preview(world.house, world.actors[role], world.client.id, ids, Wanted(flow=0)),
            lambda role=role: bulk.apply(world.house, world.actors[role], world.client.id, ids, Wanted(flow=0)),
            lambda role=role: bulk.undo(world.house, world.actors[role], world.client.id, entry.id),
        ):
            with pytest.raises(NotAllowed):
                refused()
    with pytest.raises(NotFound):
        bulk.apply(*args(world), [*ids, 10**6], Wanted(whisper="x"))


def test_names_are_filled_in_by_the_pattern_and_the_trail_tells(three: Three) -> None:
    world, ids = three
    assert clients.set_number_rules(*args(world), NumberRules("{source}")) == []
    number_form.keep(*args(world), ids[2], NumberForm("Search advert", ""))
    entry = bulk.apply(*args(world), ids, Wanted(name=""))
    assert isinstance(entry, AuditEntryView)
    names = [line.number.name for line in numbers.of_client(*args(world))]
    assert names == ["Search advert (0140)", "Search advert (0141)", "Search advert"]
    told = trail.listed(*args(world))[0]
    assert (told.who, told.words, told.undoable) == ("Specialist", "changed name of 2 numbers", True)
    assert bulk.undo(*args(world), entry.id) == []
    assert [line.number.name for line in numbers.of_client(*args(world))] == ["", "", "Search advert"]
    lines = trail.listed(*args(world))
    assert lines[0].words == "took back: changed name of 2 numbers"
    assert not any(line.undoable for line in lines)
    with pytest.raises(NotAllowed):
        trail.listed(world.house, world.actors["client_editor"], world.client.id)
