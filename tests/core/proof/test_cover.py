"""Cover against calls that are made at one moment and that nobody answers: whoever is rung was named, and no loss was hidden."""

import random
from datetime import timedelta

from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.proof.test_walk import RANDOM
from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from tests.random_flows import random_flows
from tests.worlds import CLIENT, NOW, TABLES, UNTIL, ZONE, answers, random_caller
from vokari.core.calls.fates import ending
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import RingLeg
from vokari.core.flows.running.events import Digit, Gone, Leg, Recorded
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.state import State
from vokari.core.proof.cover import Covers
from vokari.core.proof.stored import dump_cover
from vokari.core.proof.strips import gaps, strips
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import World


def covers(flow: Flow) -> Covers:
    return Covers(Walk(flow, World(flow, CLIENT, NOW, UNTIL), 800))


def unanswered(event: object) -> bool:
    """What happens in a call that nobody answers, and whose caller is willing to leave a message and hears all that is said."""
    if isinstance(event, Leg):
        return event.outcome not in ("answered", "accepted", "machine")
    if isinstance(event, Recorded):
        return event.voice > 2 and not event.gone
    return not isinstance(event, Gone) and not (isinstance(event, Digit) and not event.heard_half)


@given(random_flows(), st.integers(0, 2**32))
@RANDOM
def test_whoever_is_rung_was_named_and_no_loss_was_hidden(flow: Flow, seed: int) -> None:
    shown, chance = covers(flow), random.Random(seed)
    assume(not shown.walk.unwalked)
    for _ in range(25):
        at = NOW + (UNTIL - NOW) * chance.random()
        (here,) = (one for one in shown.whole if one.since <= at < one.until)
        state, (_, caller) = State(), random_caller(chance, at)
        for _ in range(200):
            events = [one for one in inputs(flow, state) if unanswered(one)]
            if not events:
                break
            following, _ = engine.run(flow, state, chance.choice(events), answers(flow, at, chance, caller))
            state = following.state
            for command in following.commands:
                if isinstance(command, RingLeg):
                    name = getattr(command.destination, "name", "") or command.destination.dialed
                    assert name in here.cover.who
            if state.ended:
                break
        if state.ended and state.ended_by == "flow" and ending(state, 60).fate == "lost" and state.said != "served":
            assert here.cover.fate == "lost"


def by_hours() -> Flow:
    """Rings Dana on working days, and loses whoever calls on a day that an exception closes."""
    ways = [
        {"id": "shut", "when": {"test": "exception", "of": "yard"}, "to": "bye"},
        {"id": "open", "when": {"test": "period", "of": "yard", "any_of": ["desk", "shop"]}, "to": "m"},
    ]
    steps = (
        {"kind": "junction", "id": "j", "branches": ways, "otherwise": "vm"}, menu("m", {"1": "r", "2": "info"}, nothing="r", wrong="r"),
        ring("r", phone("Dana", DANA), no_answer="vm", machine_detection=True), say("bye", "We are away", "end"),
        say("info", "The yard is at the harbor", "end", counts_as="served"), voicemail(),
    )  # fmt: skip
    return Flow(document(*steps, rescue="vm"))


def test_a_week_and_its_exceptional_day_by_the_quarter_hour() -> None:
    shown = covers(by_hours())
    kept = dump_cover(shown)
    week = strips(kept, ZONE, NOW.astimezone(ZONE).date(), 7)
    drawn = {
        day.day.isoformat(): [(one.at / 4, one.quarters / 4, one.rings, one.fate) for one in day.pieces] for day in week
    }
    assert drawn["2026-11-25"] == [
        (0, 8, "nobody", "message_left"),
        (8, 8, "one", "message_left"),
        (16, 8, "nobody", "message_left"),
    ]
    assert drawn["2026-11-26"] == [(0, 24, "nobody", "lost")]
    assert drawn["2026-11-28"] == [(0, 24, "nobody", "message_left")]
    first, *_ = gaps(week)
    assert (first.since.astimezone(ZONE).isoformat(), first.fate) == ("2026-11-26T00:00:00-05:00", "lost")
    assert first.until - first.since == timedelta(hours=24)
    exceptional = {
        (day.isoformat(), part.cover.fate) for one in shown.exceptions for day in one.days for part in one.stretches
    }
    assert exceptional == {("2026-11-26", "lost"), ("2026-12-05", "lost")}


def test_keys_by_periods_say_who_is_rung_and_what_follows() -> None:
    shown = covers(by_hours())
    cells = {(one.keys, period): (cell.who, cell.fate) for one in shown.lines for period, cell in one.cells.items()}
    assert shown.hours == "yard"
    for period in ("desk", "shop"):
        assert cells["1", period] == (("Dana",), "message_left")
        assert cells["2", period] == ((), "served")
        assert cells["", period] == (("Dana",), "message_left")
    assert cells["1", "closed"] == ((), "message_left"), (
        "nobody comes to the menu then: what becomes of all calls is told"
    )
    assert {one.unasked for one in shown.lines} == {frozenset({"closed"})}


def test_every_quarter_hour_of_a_week_is_what_the_hours_say_then() -> None:
    shown = covers(by_hours())
    at = NOW
    while at < NOW + timedelta(days=14):
        standing = TABLES["yard"].at(at)
        (here,) = (one.cover for one in shown.whole if one.since <= at < one.until)
        expected = (
            ((), "lost")
            if standing.is_exception
            else (("Dana",), "message_left")
            if standing.is_open
            else ((), "message_left")
        )
        assert (here.who, here.fate) == expected
        at += timedelta(minutes=15)


def test_an_answer_that_leads_back_to_the_menu_serves_whoever_asks_for_it() -> None:
    steps = (
        menu("m", {"1": "r", "2": "info", "3": "back"}, nothing="r", wrong="r"), ring("r", phone("Dana", DANA), no_answer="vm", machine_detection=True),
        say("info", "The yard is at the harbor", "back", counts_as="served"), {"kind": "back_to", "id": "back", "to": "m"}, voicemail(),
    )  # fmt: skip
    lines = {one.keys: one.cells[""] for one in covers(Flow(document(*steps, rescue="vm"))).lines}
    assert {keys: (cell.who, cell.fate) for keys, cell in lines.items()} == {
        "1": (("Dana",), "message_left"), "2": ((), "served"), "": (("Dana",), "message_left"),
    }  # fmt: skip
