"""The proof against calls that are really made: what it claims happens, and nothing happens that it did not claim."""

import random
from datetime import datetime, timedelta
from typing import Any

from hypothesis import HealthCheck, assume, example, given, settings
from hypothesis import strategies as st

from tests.flows import document, menu, say, voicemail
from tests.random_flows import large_flows, random_flows
from tests.sizes import CALLS, FLOWS
from tests.worlds import CLIENT, NOW, TABLES, UNTIL, ZONE, random_call
from vokari.core.calls.fates import ending
from vokari.core.flows.questions.kinds import InTimes, WhatHolds, WhichException
from vokari.core.flows.running import engine
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.state import State
from vokari.core.hours.in_place import week_table
from vokari.core.proof.claims import Claims
from vokari.core.proof.examples import Example
from vokari.core.proof.noted import noted
from vokari.core.proof.outcomes import Outcomes
from vokari.core.proof.walk import Walk, events
from vokari.core.proof.world import World

RANDOM = settings(
    max_examples=FLOWS, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)


ANY_FLOWS = st.one_of(random_flows(), large_flows())


def claims(flow: Flow, most: int = 2_000) -> Claims:
    return Claims(Walk(flow, World(flow, CLIENT, NOW, UNTIL), most))


def end_of(state: State) -> tuple[Any, ...]:
    """What is claimed of an end: the fate with its reason, the step it came at, and who ended the call."""
    came = ending(state, 60)
    return came.fate, came.reason, state.at, state.ended_by


def replayed(flow: Flow, call: Example) -> State:
    """The end of an example, by the engine alone. Whatever it asks about the moment is asked of the hours themselves."""
    state = State()
    for one in call.happenings:
        left = list(one.answers)
        for question, answer in left:
            at = call.at + timedelta(seconds=one.seconds)
            if isinstance(question, WhatHolds | WhichException) and question.hours in TABLES:
                held = TABLES[question.hours].at(at)
                real = held.name if isinstance(question, WhichException) else (held.period, held.is_exception)
                assert real == answer, (question, at)
            elif isinstance(question, InTimes):
                tables = [table for week in question.weeks if (table := week_table(week, ZONE))]
                assert any(table.at(at).is_open for table in tables) is answer
        following, _ = engine.run(flow, state, one.event, lambda _, left=left: left.pop(0)[1])  # type: ignore[misc]
        state = following.state
    return state


@given(ANY_FLOWS, st.integers(0, 2**32))
@RANDOM
def test_no_random_call_comes_to_what_was_not_claimed(flow: Flow, seed: int) -> None:
    shown = claims(flow)
    assume(shown.proven)
    claimed, chance = {(one.came.fate, one.came.reason, one.at, one.by) for one in shown.ends}, random.Random(seed)
    never = {one.step: one.stretches for one in shown.partly}

    def enters(step: str, at: datetime, lasted: timedelta) -> None:
        told = lasted <= shown.walk.world.longest and step in never
        assert not told or not any(one.since <= at < one.until for one in never[step]), (step, at)

    for _ in range(CALLS):
        state = random_call(flow, chance, enters=enters)
        assert state is None or end_of(state) in claimed


def test_an_end_is_claimed_whose_easiest_way_meets_a_limit_within_one_event() -> None:
    again = {"kind": "hold_line", "id": "line", "team": "crew", "after": "line", "longest_wait": 10}
    shown = claims(Flow(document(again, rescue="line", entry_limit=2)))
    assert {(end.came.fate, end.at) for end in shown.ends} == {("answered", "line"), ("lost", "line")}
    assert shown.proven
    back = {"kind": "back_to", "id": "back", "to": "line"}
    shown = claims(Flow(document(back, again | {"full": "back"}, entry_limit=2)))
    assert ("answered", "back") in {(end.came.fate, end.at) for end in shown.ends}


def test_an_end_of_some_numbers_is_told_by_them() -> None:
    when = {"test": "number_dialled", "any_of": ["+14105550101"]}
    sort = {"kind": "junction", "id": "by", "branches": [{"id": "b", "when": when, "to": "away"}], "otherwise": "vm"}
    shown = claims(Flow(document(sort, say("away", next_="end", counts_as="served"), voicemail(), rescue="vm")))
    assert {end.at: shown.only_to(end) for end in shown.ways} == {"away": ("+14105550101",), "vm": ("+14105550102",)}


def test_a_call_that_is_still_going_when_the_hours_end_may_come_to_a_step_that_only_open_hours_lead_to() -> None:
    when = {"test": "times", "any_of": ["Mon-Fri 08:00-17:00"]}
    sort = {"kind": "junction", "id": "by", "branches": [{"id": "b", "when": when, "to": "hello"}], "otherwise": "vm"}
    shown = claims(
        Flow(
            document(
                sort, say("hello", next_="yard"), say("yard", next_="end", counts_as="served"), voicemail(), rescue="vm"
            )
        )
    )
    never = {one.step: [(at.since, at.until) for at in one.stretches] for one in shown.partly}
    five = datetime(2026, 11, 25, 17, tzinfo=ZONE)
    assert any(since <= five < until for since, until in never["hello"]), "it is come to as a call begins"
    assert "yard" not in never, "who hears the first words at 16:59:59 comes to the second at 17:00"


KEYS_KEPT = Flow(
    document(
        say("hello", next_="ask", counts_as="served"),
        menu("ask", {"1": "yard", "2": "end"}, nothing="vm", wrong="vm", dial_extensions=True, tries=1),
        say("yard", next_="end"), voicemail(), rescue="vm",
    ),
)  # fmt: skip
"""Keys pressed in the announcement act in the menu, which asks who has an extension before it uses them."""


@given(random_flows())
@example(KEYS_KEPT)
@settings(RANDOM, max_examples=FLOWS // 2)
def test_what_was_worked_out_for_one_event_is_right_for_all_that_come_to_it_alike(flow: Flow) -> None:
    walk = claims(flow).walk
    for index, (state, known, declined) in enumerate(walk.situations):
        if state.ended or not walk.edges[index]:
            continue
        for event in events(flow, state):
            way, anew = Outcomes(*noted(flow), walk.world, lambda _: None).of(state, event, known, full=False)
            remembered = {
                (walk.situations[one.target], one.way, one.rings, one.takes)
                for one in walk.edges[index]
                if one.event == event and not one.limit
            }
            assert {(one.state, one.kept, (*way, *one.way), one.rings, one.takes) for one in anew} == {
                (there.state, there.known, passed, rings, takes) for there, passed, rings, takes in remembered
            }
            assert all(there.declined >= declined for there, *_ in remembered)


@given(ANY_FLOWS)
@RANDOM
def test_every_claim_has_a_call_that_comes_to_it(flow: Flow) -> None:
    shown = claims(flow)
    assume(shown.proven)
    for end in shown.ends:
        state = replayed(flow, end.example)
        assert end_of(state) == (end.came.fate, end.came.reason, end.at, end.by)
