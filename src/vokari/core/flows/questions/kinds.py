"""What the engine must be told from outside. Each question is a frozen value with finitely many answers that make a difference.

A question says of an answer whether it fits, and gives its classes: one answer of each class that makes a difference, with what
is known once it was given (see `knowledge`).
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from ..model.dates import in_ranges
from ..model.values import Answered
from .facts import (
    Fact,
    FactAnswer,
    HasCalled,
    LastCallCameTo,
    LastSpokeWith,
    OfContact,
    OfTouch,
    Where,
    WhichShare,
    Withheld,
)
from .knowledge import Knowledge

Availability = Literal["free", "on_call", "off"]
AVAILABILITIES: tuple[Availability, ...] = ("free", "on_call", "off")


@dataclass(frozen=True, slots=True)
class Rung:
    """A phone of a line-up: whose it is (the key of a person or the id of a destination), the name, the number or SIP
    address, for how many seconds it rings, the key of the team by which the person is rung, and what counts as answered there."""

    who: str
    name: str
    to: str
    seconds: int
    team: str = ""
    answered: Answered = "picked_up"


WhoIsFreeAnswer = tuple[Availability, ...]
"""One state a phone, in the order of the question."""
WhatHoldsAnswer = tuple[str, bool]
"""The id of the period that holds, or "closed", and whether an exception makes it so."""
LineUpAnswer = tuple[tuple[tuple[Rung, ...], ...], tuple[Availability, ...], bool]
"""The waves of phones in the order of their turn, the states of those who have no phone to be rung at, and whether another
round follows this one. Who of a wave can be rung is asked for when it comes up (`CanBeRung`)."""
HeldState = Literal["ring", "wait", "full", "nobody"]
HoldAnswer = tuple[HeldState, int, int, tuple[tuple[Rung, ...], ...]]
"""What becomes of a caller in a hold line: a person is free and rung in these waves; they wait, at which place and for
about how many seconds (0: not known); the line is full; or nobody is available."""
LookedUpAnswer = tuple[Literal["pending", "found", "not_found", "failed"], str]
"""What a look-up gave, and the value where it was found."""
LOOKED_UP_LONGEST = 200

Answer = (
    WhoIsFreeAnswer | WhatHoldsAnswer | bool | LineUpAnswer | HoldAnswer | LookedUpAnswer | tuple[str, ...] | FactAnswer
)
Classes = list[tuple[Answer, Knowledge]]
"""The answers of a question that make a difference, each with what is known once it was given."""

_SOMEBODY = (Rung("somebody", "Somebody", "+14105550100", 20),)


def _states(count: int, known: Knowledge) -> Classes:
    """The states of so many phones: which of the states occur is all that makes a difference to the exits."""
    found: Classes = []
    for size in range(1, min(count, len(AVAILABILITIES)) + 1):
        for states in combinations(AVAILABILITIES, size):
            padding: WhoIsFreeAnswer = (states[-1],) * (count - size)
            found.append((states + padding, known))
    return found


def _are_states(answer: object, count: int) -> bool:
    return isinstance(answer, tuple) and len(answer) == count and all(state in AVAILABILITIES for state in answer)


@dataclass(frozen=True, slots=True)
class WhoIsFree:
    """For each destination of a step about to be rung: free, on another call, or off duty. One entry a destination."""

    step: str
    round: int
    destinations: tuple[str, ...]

    def classes(self, known: Knowledge) -> Classes:
        return _states(len(self.destinations), known)

    def fits(self, answer: object) -> bool:
        return _are_states(answer, len(self.destinations))


@dataclass(frozen=True, slots=True)
class CanBeRung:
    """For each phone of a line-up's wave that is about to be rung: free, on another call, or off duty. One entry a phone;
    `round` is 0 in a hold line."""

    step: str
    round: int
    phones: tuple[Rung, ...]

    def classes(self, known: Knowledge) -> Classes:
        return _states(len(self.phones), known)

    def fits(self, answer: object) -> bool:
        return _are_states(answer, len(self.phones))


@dataclass(frozen=True, slots=True)
class AnybodyFree:
    """Whether anybody whom a Ring step rings can be rung at this moment: before a caller is asked for a name. `dialed` is the
    extension that the caller dialed, if they did and the step rings by it."""

    step: str
    dialed: str = ""

    def classes(self, known: Knowledge) -> Classes:
        return [(True, known), (False, known)]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


@dataclass(frozen=True, slots=True)
class WhatHolds:
    """Which period of a set of hours holds now, by the key that flows name the set by, and is it an exception. Hours that are
    gone are closed."""

    hours: str

    def classes(self, known: Knowledge) -> Classes:
        return [*known.by_time(self, lambda moment: moment.holds.get(self.hours, ("closed", False)))]

    def fits(self, answer: object) -> bool:
        return (
            isinstance(answer, tuple)
            and len(answer) == 2
            and isinstance(answer[0], str)
            and isinstance(answer[1], bool)
        )


@dataclass(frozen=True, slots=True)
class WhichException:
    """The name of the exception of a set of hours that holds now; empty for none, and for one without a name."""

    hours: str

    def classes(self, known: Knowledge) -> Classes:
        return [*known.by_time(self, lambda moment: moment.exceptions.get(self.hours, ""))]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, str)


@dataclass(frozen=True, slots=True)
class InDates:
    """Whether today, in the client's time, lies in one of some ranges of dates: "2026-12-01/2026-12-24", both included."""

    ranges: tuple[str, ...]

    def classes(self, known: Knowledge) -> Classes:
        return [*known.by_time(self, lambda moment: in_ranges(self.ranges, moment.day))]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


@dataclass(frozen=True, slots=True)
class InTimes:
    """Whether now, in the client's time, lies in one of some weeks as `hours.typed` writes them: "Mon-Fri 08:00-12:00"."""

    weeks: tuple[str, ...]

    def classes(self, known: Knowledge) -> Classes:
        return [*known.by_time(self, lambda moment: any(week in moment.weeks for week in self.weeks))]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


SOME_EXTENSION = "739"
"""Stands for all extensions of people where every way of a call is walked."""


@dataclass(frozen=True, slots=True)
class Extensions:
    """The extensions of the client's people, for a menu that lets callers dial them."""

    step: str

    def classes(self, known: Knowledge) -> Classes:
        return [(answer, after) for answer, after in known.settle(Extensions(""), ((SOME_EXTENSION,), ()))]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, tuple) and all(isinstance(one, str) and one.isdigit() for one in answer)


@dataclass(frozen=True, slots=True)
class LineUp:
    """Whose turn it is in one round of a Ring step with people or teams, or one whose order is a matter of turns. `dialed` as in
    `AnybodyFree`."""

    step: str
    round: int
    dialed: str = ""

    def classes(self, known: Knowledge) -> Classes:
        """Somebody or nobody in turn, for the last time or not."""
        return [(((_SOMEBODY,), (), False), known), (((_SOMEBODY,), (), True), known), (((), ("off",), False), known)]

    def fits(self, answer: object) -> bool:
        if not isinstance(answer, tuple) or len(answer) != 3:
            return False
        waves, states, more = answer
        return (
            all(isinstance(wave, tuple) and wave and all(isinstance(one, Rung) for one in wave) for wave in waves)
            and all(state in ("off", "on_call") for state in states)
            and isinstance(more, bool)
        )


@dataclass(frozen=True, slots=True)
class HoldTurn:
    """Whether it is a caller's turn in the hold line of a step. `entering`: they come to it now; `but`: the person who has
    just not taken them."""

    step: str
    entering: bool
    but: str = ""

    def classes(self, known: Knowledge) -> Classes:
        states: list[HoldAnswer] = [("ring", 1, 0, (_SOMEBODY,)), ("wait", 1, 60, ()), ("nobody", 0, 0, ())]
        if self.entering:
            states.append(("full", 0, 0, ()))
        return [(state, known) for state in states]

    def fits(self, answer: object) -> bool:
        if not isinstance(answer, tuple) or len(answer) != 4:
            return False
        what, place, seconds, waves = answer
        known = what in ("wait", "nobody") or (what == "full" and self.entering) or (what == "ring" and bool(waves))
        return known and isinstance(place, int) and isinstance(seconds, int)


@dataclass(frozen=True, slots=True)
class RecordThis:
    """Whether this call is one of those that are recorded, by what their step records for: `who` has taken it (the key of a person
    or the id of a destination), `source` is the lead source that a key of the flow stated, if one did."""

    step: str
    who: str
    source: str = ""

    def classes(self, known: Knowledge) -> Classes:
        return [(True, known), (False, known)]

    def fits(self, answer: object) -> bool:
        return isinstance(answer, bool)


@dataclass(frozen=True, slots=True)
class LookedUp:
    """What a client's own system answers. `visit` tells one entry of a step from another."""

    step: str
    visit: int

    def classes(self, known: Knowledge) -> Classes:
        found: list[LookedUpAnswer] = [("found", "value"), ("not_found", ""), ("failed", ""), ("pending", "")]
        return [(answer, known) for answer in found]

    def fits(self, answer: object) -> bool:
        if not isinstance(answer, tuple) or len(answer) != 2:
            return False
        return answer[0] in ("found", "not_found", "failed", "pending") and isinstance(answer[1], str)


@dataclass(frozen=True, slots=True)
class SpokenFields:
    """What is filled into fields of words that a step is about to say, in a language: fields as they are written, each with its value;
    empty for one that is not known. No value makes a difference to where the call goes."""

    step: str
    fields: tuple[str, ...]
    language: str

    def classes(self, known: Knowledge) -> Classes:
        return [(("",) * len(self.fields), known)]

    def fits(self, answer: object) -> bool:
        return (
            isinstance(answer, tuple)
            and len(answer) == len(self.fields)
            and all(isinstance(one, str) and len(one) <= SPOKEN_LONGEST for one in answer)
        )


SPOKEN_LONGEST = 300
"""Letters of the longest value of a field."""

Question = (
    WhoIsFree | CanBeRung | AnybodyFree | WhatHolds | WhichException | InDates | InTimes | LineUp | HoldTurn | RecordThis
    | LookedUp | Extensions | SpokenFields | Fact
)  # fmt: skip
Answers = dict[Question, Answer]
AnswerSource = Callable[[Question], Answer]


def everyone_free(question: Question) -> Answer:
    """The answer of a world in which every phone is free, nobody is known by name, nothing is known of the caller, all hours are closed
    and no date and no time is near."""
    match question:
        case WhichException():
            return ""
        case Extensions():
            return ()
        case SpokenFields():
            return ("",) * len(question.fields)
        case Withheld():
            return False
        case WhichShare():
            return 0
        case Where():
            return (None, "", 100)
        case HasCalled() | LastCallCameTo() | LastSpokeWith() | OfTouch() | OfContact():
            return None
        case WhatHolds():
            return ("closed", False)
        case InDates() | InTimes() | RecordThis():
            return False
        case AnybodyFree():
            return True
        case LineUp():
            return ((), ("off",), False)
        case HoldTurn():
            return ("nobody", 0, 0, ())
        case LookedUp():
            return ("failed", "")
        case CanBeRung():
            return _free(len(question.phones))
        case WhoIsFree():
            return _free(len(question.destinations))


def _free(count: int) -> WhoIsFreeAnswer:
    free: Availability = "free"
    return (free,) * count
