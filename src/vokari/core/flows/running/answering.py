"""Answering the engine's questions from a client's hours, the moment, and who is on a call: live, rehearsed or simulated."""

from collections.abc import Callable, Collection, Mapping, Sequence
from datetime import datetime
from typing import Protocol
from zoneinfo import ZoneInfo

from ...hours.in_place import week_table
from ...hours.timetable import Timetable
from ..model.dates import in_ranges
from ..model.steps import HoldLine, LookUp, Ring
from ..model.values import DialedDestination
from ..questions.facts import Fact
from ..questions.kinds import (
    Answer,
    AnswerSource,
    AnybodyFree,
    Availability,
    CanBeRung,
    Extensions,
    HoldAnswer,
    HoldTurn,
    InDates,
    InTimes,
    LineUp,
    LineUpAnswer,
    LookedUp,
    LookedUpAnswer,
    Question,
    RecordThis,
    Rung,
    SpokenFields,
    WhatHolds,
    WhichException,
    everyone_free,
)
from .facts import Caller
from .flow import Flow

Tables = Callable[[str], Timetable | None]
"""Finds a set of hours, made ready, by the key that flows name it by; None for one that is gone."""


class Staff(Protocol):
    """The client's people at a moment, for steps that name people or teams, or whose order is a matter of turns."""

    def line_up(self, step: Ring, round_: int) -> LineUpAnswer:
        """Whose turn it is in a round of a step."""

    def states(self, step: Ring | HoldLine, phones: Sequence[Rung]) -> tuple[Availability, ...]:
        """Which phones of a line-up can be rung now."""

    def anybody_free(self, step: Ring) -> bool:
        """Whether anybody whom a step rings can be rung now."""

    def extensions(self) -> tuple[str, ...]:
        """The extensions that callers may dial, in order."""

    def person_at(self, extension: str) -> str:
        """The key of the person who has an extension; empty for nobody."""


class Nobody:
    """A client without people."""

    def line_up(self, step: Ring, round_: int) -> LineUpAnswer:
        return ((), ("off",), False)

    def states(self, step: Ring | HoldLine, phones: Sequence[Rung]) -> tuple[Availability, ...]:
        return tuple("off" for _ in phones)

    def anybody_free(self, step: Ring) -> bool:
        return False

    def extensions(self) -> tuple[str, ...]:
        return ()

    def person_at(self, extension: str) -> str:
        return ""


HoldTurns = Callable[[HoldLine, HoldTurn], HoldAnswer]
"""What becomes of a caller who comes to, or waits in, the hold line of a step."""


Recorded = Callable[[Ring | HoldLine, RecordThis], bool]
"""Whether a call that somebody takes at a step is one of those that are recorded."""


LookUps = Callable[[LookUp, LookedUp], LookedUpAnswer]
"""What a client's own system answers."""


FieldValues = Callable[[SpokenFields], tuple[str, ...]]
"""What is filled into the fields of spoken words."""


def not_filled(question: SpokenFields) -> tuple[str, ...]:
    """A client of which nothing is said."""
    return ("",) * len(question.fields)


NOBODY = Nobody()
NOT_KNOWN = Caller()
"""A caller of whom nothing is known."""


def nothing_known(_step: LookUp, _question: LookedUp) -> LookedUpAnswer:
    """A client whose system is not asked."""
    return ("failed", "")


def not_recorded(_step: Ring | HoldLine, _question: RecordThis) -> bool:
    """A client whose calls are not among those that are recorded."""
    return False


def nobody_waits(_step: HoldLine, _question: HoldTurn) -> HoldAnswer:
    """A client without people: nobody is available."""
    return ("nobody", 0, 0, ())


def no_tables(_: str) -> Timetable | None:
    """A client without hours."""
    return None


def dialed(step: Ring, extension: str, staff: Staff) -> Ring:
    """The step with the person whose extension was dialed in the place of whoever that is; without anybody in it where nobody has it."""
    if not any(isinstance(one, DialedDestination) for one in step.to):
        return step
    who = staff.person_at(extension) if extension else ""
    to = (one.person(who) if isinstance(one, DialedDestination) and who else one for one in step.to)
    return step.model_copy(update={"to": tuple(to)})


def answer_source(
    flow: Flow, at: datetime, zone: ZoneInfo, tables: Tables, busy: Callable[[Collection[str]], Collection[str]],
    staff: Staff = NOBODY, hold_turn: HoldTurns = nobody_waits,
    recorded: Recorded = not_recorded, look_up: LookUps = nothing_known, caller: Caller = NOT_KNOWN,
    fields: FieldValues = not_filled,
) -> AnswerSource:  # fmt: skip
    """Answers for one event of a call at an instant. `zone` is the client's; `busy` gives the numbers, of those it is
    asked for, that are on another call; `recorded` whether a call is recorded; `caller` is what is known of whoever calls.
    Hours that are gone count as closed in a Junction, and as no limit on a phone."""

    def source(question: Question) -> Answer:
        if isinstance(question, WhatHolds):
            table = tables(question.hours)
            if table is None:
                return ("closed", False)
            standing = table.at(at)
            return (standing.period, standing.is_exception)
        if isinstance(question, WhichException):
            table = tables(question.hours)
            return table.at(at).name if table else ""
        if isinstance(question, Fact):
            return caller.answer(question)
        if isinstance(question, Extensions):
            return staff.extensions()
        if isinstance(question, SpokenFields):
            return fields(question)
        if isinstance(question, InDates):
            return in_ranges(question.ranges, at.astimezone(zone).date())
        if isinstance(question, InTimes):
            return any(table.at(at).is_open for week in question.weeks if (table := week_table(week, zone)))
        step = flow.steps.get(question.step)
        if isinstance(question, LookedUp):
            return look_up(step, question) if isinstance(step, LookUp) else ("failed", "")
        if isinstance(question, RecordThis):
            return isinstance(step, Ring | HoldLine) and recorded(step, question)
        if isinstance(question, HoldTurn):
            return hold_turn(step, question) if isinstance(step, HoldLine) else ("nobody", 0, 0, ())
        if isinstance(question, CanBeRung) and isinstance(step, Ring | HoldLine):
            return staff.states(step, question.phones)
        if not isinstance(step, Ring) or isinstance(question, CanBeRung):
            return everyone_free(question)
        if isinstance(question, LineUp):
            return staff.line_up(dialed(step, question.dialed, staff), question.round)
        phones = {one.id: one for one in step.to}
        if isinstance(question, AnybodyFree):
            step = dialed(step, question.dialed, staff)
            return "free" in _states(phones) if step.is_plain else staff.anybody_free(step)
        return _states({one: phones.get(one) for one in question.destinations})

    def _states(phones: Mapping[str, object]) -> tuple[Availability, ...]:
        numbers = {key: str(getattr(one, "number", "")) for key, one in phones.items()}
        engaged = set(busy([number for number in numbers.values() if number]))
        return tuple(_state(one, numbers[key], engaged) for key, one in phones.items())

    def _state(phone: object, number: str, engaged: Collection[str]) -> Availability:
        if not number:
            return "off"
        key = getattr(phone, "hours", None)
        table = tables(key) if key else None
        if table is not None and not table.at(at).is_open:
            return "off"
        return "on_call" if number in engaged else "free"

    return source
