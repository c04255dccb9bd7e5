"""A made-up client to prove flows with: hours with a fair and a closed day, people on duty at different times, two numbers; and calls that
are made there at random, by rules of their own."""

import random
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from tests.hours import closed, hours
from vokari.core.callers.past import EarlierCall, Past
from vokari.core.flows.questions.facts import Touch
from vokari.core.flows.questions.kinds import AnswerSource, HoldTurn, LookedUp, Question, SpokenFields
from vokari.core.flows.running import engine
from vokari.core.flows.running.answering import answer_source
from vokari.core.flows.running.events import Gone, Recorded
from vokari.core.flows.running.facts import Caller
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.state import State
from vokari.core.holding.line import served
from vokari.core.hours.timetable import Timetable
from vokari.core.people.directory import Leave, Member, Person, Phone, Team
from vokari.core.people.line_up import Around, Duty, Staff
from vokari.core.proof.world import Client

ZONE = ZoneInfo("America/New_York")
NOW = datetime(2026, 11, 24, 17, tzinfo=UTC)
UNTIL = NOW + timedelta(days=45)
YARD = hours(
    closed("2026-11-26"), closed("2026-12-05", name="Fair", spans=hours(desk="Sat 9-12").week[5]), desk="Mon-Fri 8-12", shop="Mon-Fri 12-16"
)  # fmt: skip
EARLY, LATE = hours(desk="Mon-Sun 6-14"), hours(desk="Mon-Sat 13-20")
PEOPLE = {
    "ada": Person(name="Ada", phones=(Phone(id="p0", to="+14105550170"),), hours="early"),
    "bo": Person(
        name="Bo", phones=(Phone(id="p1", to="+14105550171"), Phone(id="p2", to="+14105550172", answered="key")), hours="late",
        leave=(Leave(first=date(2026, 12, 7), last=date(2026, 12, 13)),),
    ),
}  # fmt: skip
TEAMS = {"crew": Team(name="Crew", strategy="round_robin", members=(Member(person="ada"), Member(person="bo")))}
TABLES = {"yard": Timetable(YARD, ZONE), "early": Timetable(EARLY, ZONE), "late": Timetable(LATE, ZONE)}
NUMBERS = (
    Touch("+14105550101", "adverts", {"campaign": "spring", "source": "paper", "medium": "print", "keyword": "", "content": ""}),
    Touch("+14105550102", "sign", {"campaign": "", "source": "sign", "medium": "sign", "keyword": "", "content": ""}),
)  # fmt: skip
CLIENT = Client(ZONE, TABLES, PEOPLE, TEAMS, NUMBERS)
PARTS = ("", "fa/", "fb/", *(f"p{n}" for n in range(5)))
"""What stands before the ids of the steps of random flows: of small ones, of those that they continue in, and of the parts of large ones."""


def answers(flow: Flow, at: datetime, chance: random.Random, caller: Caller) -> AnswerSource:
    """What the client answers at a moment, with people who may be switched off or on a call."""

    def around() -> Around:
        return Around(
            at, ZONE, TABLES.get, lambda numbers: [one for one in numbers if chance.random() < 0.2], PEOPLE, TEAMS,
            lambda _: Duty(off=chance.random() < 0.2), chooser=chance,
        )  # fmt: skip

    def hold(step: Any, question: HoldTurn) -> Any:
        line = served(step.team, around())
        if not line.on_duty:
            return ("nobody", 0, 0, ())
        what = chance.choice(["ring", "wait", *(["full"] if question.entering else [])])
        if what == "ring" and line.free:
            return ("ring", 1, 0, tuple(line.free[0].waves))
        return ("full", 0, 0, ()) if what == "full" else ("wait", 1, 60, ())

    def look_up(_: Any, question: LookedUp) -> Any:
        return chance.choice([("found", chance.choice(["12", "2468", "value", "x"])), ("not_found", ""), ("failed", ""), ("pending", "")])  # fmt: skip

    found = answer_source(
        flow, at, ZONE, TABLES.get, lambda numbers: [one for one in numbers if chance.random() < 0.2],
        Staff(around, lambda step: step.id), hold, lambda _step, _question: chance.random() < 0.5, look_up, caller,
    )  # fmt: skip

    def source(question: Question) -> Any:
        return ("",) * len(question.fields) if isinstance(question, SpokenFields) else found(question)

    return source


def random_caller(chance: random.Random, at: datetime) -> tuple[Touch, Caller]:
    """Somebody who calls one of the numbers."""
    touch = chance.choice(NUMBERS)
    withheld = chance.random() < 0.2
    calls = [
        EarlierCall(at - timedelta(hours=chance.choice([1, 5, 100, 1000])), chance.choice(["lost", "answered"]), chance.choice(["", "ada"]))
        for _ in range(chance.randrange(5))
    ]  # fmt: skip
    past = Past(at, known=False) if withheld else Past(at, sorted(calls, key=lambda one: one.at, reverse=True))
    shares = {f"{part}s{n}": chance.randrange(100) for part in PARTS for n in range(8)}
    visited = replace(touch, visits=chance.choice([None, 1, 3]))
    return touch, Caller(
        "" if withheld else "+14105550188", lambda: visited, lambda: past, share=shares, sign="a caller"
    )  # fmt: skip


def random_call(
    flow: Flow,
    chance: random.Random,
    most: int = 400,
    enters: Callable[[str, datetime, timedelta], None] = lambda *_: None,
) -> State | None:
    """How a call ends that is made at random while the caller stays; None for one that goes on. `enters` is told each step that it comes to, when, and
    how long the call has taken by then."""
    at = began = NOW + (UNTIL - NOW) * chance.random()
    state, (_, caller) = State(), random_caller(chance, at)
    for _ in range(most):
        events = [
            one
            for one in inputs(flow, state)
            if not isinstance(one, Gone) and not (isinstance(one, Recorded) and one.gone)
        ]
        at += timedelta(seconds=chance.choice([1, 1, 5, 20]))
        following, _ = engine.run(flow, state, chance.choice(events), answers(flow, at, chance, caller))
        for _, step in following.way:
            enters(step, at, at - began)
        state = following.state
        if state.ended:
            return state
    return None
