"""Temporary switches: by one button, seen, ending by themselves, and heard by callers."""

from datetime import timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.flows import DANA
from tests.hours import week
from tests.wire import Wire
from tests.work.hours.test_sets import sorted_line
from tests.world import World
from vokari.core.hours.document import Hours
from vokari.store.hours import HoursSet, HoursSwitch
from vokari.work.agency import trail
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.flows import rehearsals
from vokari.work.flows.open_rehearsals import OpenRehearsal
from vokari.work.hours import days as exceptions
from vokari.work.hours import sets, switches
from vokari.work.house.problems import Problem
from vokari.work.house.views import HoursSetView, HoursSwitchView

OUTSIDE = "+14105550177"
CALLED = "+14105550142"


@pytest.fixture
def opening(world: World) -> HoursSet:
    made = sets.create(world.house, world.actor, world.client.id, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    first = Hours.model_validate(made.document).periods[0].id
    done = sets.set_week(
        world.house,
        world.actor,
        world.client.id,
        made.id,
        [(first, "Front desk")],
        week(**{first: "Mon-Fri 9-17"}),
        None,
    )
    assert not isinstance(done, list)
    return done.set


@pytest.fixture
def line(world: World, opening: HoursSet) -> World:
    """A number whose callers ring the yard office when the front desk is open, and hear that it is closed when not."""
    first = Hours.model_validate(opening.document).periods[0].id
    world.number(CALLED, world.source("Search advert"), world.flow(sorted_line(opening.key, first)))
    return world


def top(world: World) -> tuple[str, list[str]]:
    line = switches.top_line(world.house, world.actors["client_viewer"], world.client.id)
    return line.sentence, [one.words for one in line.switches]


def start(world: World, kind: str, until: str, *more: object) -> HoursSwitch:
    made = switches.start(world.house, world.actor, world.client.id, kind, until, *more)
    assert isinstance(made, HoursSwitchView), made
    return made


def first_command(world: World, ref: str, clock: StandingClock) -> dict[str, object]:
    return Wire(world.house, ref, clock.now()).arrive(CALLED)[0]


def test_closed_until_is_seen_heard_and_over_by_itself(line: World, clock: StandingClock) -> None:
    assert top(line) == ("Front desk open, closes 17:00", [])
    assert first_command(line, "a", clock)["type"] == "ring"
    start(line, "closed", "14:00")
    assert top(line) == ("Closed (a switch), opens 14:00", ["Closed until 14:00"])
    assert first_command(line, "b", clock)["type"] == "play"
    clock.move(minutes=119)
    assert first_command(line, "c", clock)["type"] == "play"
    clock.move(minutes=1)
    assert first_command(line, "d", clock)["type"] == "ring"
    assert top(line) == ("Front desk open, closes 17:00", [])
    assert (
        trail.listed(line.house, line.actor, line.client.id)[0].words
        == "switched: Closed until 14:00, which ends by itself"
    )


def test_open_late_tonight_and_ended_by_hand(line: World, opening: HoursSet, clock: StandingClock) -> None:
    clock.move(hours=6)
    first = Hours.model_validate(opening.document).periods[0].id
    assert top(line)[0] == "Closed, opens tomorrow 09:00"
    made = start(line, "open", "tonight 10", opening.id, first)
    assert top(line) == ("Front desk open (a switch), closes 22:00", ["Front desk open until 22:00"])
    assert first_command(line, "a", clock)["type"] == "ring"
    switches.end(line.house, line.actors["client_editor"], line.client.id, made.id)
    assert top(line)[1] == []
    assert first_command(line, "b", clock)["type"] == "play"
    switches.end(line.house, line.actor, line.client.id, made.id)
    said = [one.words for one in trail.listed(line.house, line.actor, line.client.id)]
    assert said[0] == "ended the switch: Front desk open until 22:00"
    assert said[1].startswith("switched"), "ending it twice says so once"


def test_all_calls_to_one_phone_until_five(line: World, clock: StandingClock) -> None:
    start(line, "divert", "two", None, "", "410 555 0177")
    assert top(line)[1] == ["All calls to 410-555-0177 until 14:00"]
    wire = Wire(line.house, "a", clock.now())
    rung = wire.arrive(CALLED)[0]
    assert (rung["type"], rung["number"]) == ("ring", OUTSIDE)
    usual = wire("leg", 25, command=rung["id"], outcome="rang_out")
    assert usual[0]["number"] == DANA, "whoever is not reached there goes the usual way"
    answered = wire("leg", 30, command=usual[0]["id"], outcome="answered")
    assert answered[0]["type"] == "connect"
    wire("caller_gone", 60)
    done = history.log(line.house, line.actor, line.client.id, CallFilter())[0].call
    assert (done.fate, done.answered_by) == ("answered", DANA)
    clock.move(hours=2)
    assert first_command(line, "b", clock)["number"] == DANA


def test_a_switch_of_one_set_leaves_the_others(line: World, opening: HoursSet) -> None:
    second = sets.create(line.house, line.actor, line.client.id, "Evening line", "client", like=opening.id)
    assert isinstance(second, HoursSetView)
    start(line, "closed", "tomorrow 9:30", second.id)
    assert top(line) == ("Front desk open, closes 17:00", ["Evening line closed until tomorrow 09:30"])
    tables = {one.set.name: one.table for one in sets.listed(line.house, line.actor, line.client.id)[1]}
    assert tables["Opening times"].at(NOON).is_open
    assert not tables["Evening line"].at(NOON).is_open


def test_own_times_are_not_closed_with_the_client(line: World) -> None:
    joel = sets.create(line.house, line.actor, line.client.id, "Joel", "own")
    assert isinstance(joel, HoursSetView)
    first = Hours.model_validate(joel.document).periods[0].id
    sets.set_week(
        line.house, line.actor, line.client.id, joel.id, [(first, "On duty")], week(**{first: "Daily 0-24"}), None
    )
    start(line, "closed", "14:00")
    assert sets.opened(line.house, line.actor, line.client.id, joel.id).table.at(NOON).is_open


@pytest.mark.parametrize(
    ("kind", "until", "more", "field", "says"),
    [
        ("shut", "14:00", (), "kind", "Choose what the switch does."),
        ("closed", "", (), "until", "Say until when"),
        ("closed", "09:00", (), "until", "09:00 is past"),
        ("closed", "whenever", (), "until", "is no day"),
        ("closed", "2027-03-01 9", (), "until", "at most 31 days"),
        ("open", "22:00", (), "period", "which period"),
        ("divert", "five", (None, "", "12"), "phone", "too few digits"),
        ("divert", "five", (None, "", CALLED), "phone", "our own tracking numbers"),
    ],
)
def test_a_switch_that_cannot_be_is_refused_in_words(
    line: World, kind: str, until: str, more: tuple[object, ...], field: str, says: str
) -> None:
    refused = switches.start(line.house, line.actor, line.client.id, kind, until, *more)
    assert isinstance(refused, list)
    assert [(one.field, says in one.sentence) for one in refused if isinstance(one, Problem)] == [(field, True)]
    assert top(line)[1] == []


def test_who_may_switch(line: World, opening: HoursSet) -> None:
    house, client_id = line.house, line.client.id
    assert isinstance(
        switches.start(house, line.actors["client_editor"], client_id, "closed", "14:00"), HoursSwitchView
    )
    with pytest.raises(NotAllowed):
        switches.start(house, line.actors["client_viewer"], client_id, "closed", "14:00")
    with pytest.raises(NotAllowed):
        switches.end(house, line.actors["client_viewer"], client_id, 1)
    with pytest.raises(NotFound):
        switches.end(house, line.actor, client_id, 999)
    with pytest.raises(NotFound):
        switches.start(house, line.actor, client_id, "closed", "14:00", 999)


def test_a_holiday_added_today_changes_whom_a_rehearsal_reaches_on_that_day(line: World, opening: HoursSet) -> None:
    flow_id = sets.opened(line.house, line.actor, line.client.id, opening.id).places[0].flow.id

    def rings(days: int) -> bool:
        call = rehearsals.begin(
            line.house, line.actor, line.client.id, flow_id, called=CALLED, caller="", at=NOON + timedelta(days=days)
        )
        assert isinstance(call, OpenRehearsal)
        return any(command["type"] == "ring" and command["number"] == DANA for command in call.latest)

    assert rings(1)
    tomorrow = (NOON + timedelta(days=1)).date()
    assert exceptions.set_day(line.house, line.actor, line.client.id, opening.id, tomorrow, (), "Regatta") == []
    assert not rings(1)
    assert rings(2)
