"""What the engine must be told from outside. Each question is a frozen value with finitely many answers."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass
from itertools import combinations, product
from typing import Any, Literal

from .state import Rung

Availability = Literal["free", "on_call", "off"]
AVAILABILITIES: tuple[Availability, ...] = ("free", "on_call", "off")
WhoIsFreeAnswer = tuple[Availability, ...]
WhatHoldsAnswer = tuple[str, bool]
"""The id of the period that holds, or "closed", and whether an exception makes it so."""


def _classes_of(count: int) -> list[WhoIsFreeAnswer]:
    """The states of so many phones, one answer of each class that makes a difference to the exits: which states occur."""
    found: list[WhoIsFreeAnswer] = []
    for size in range(1, min(count, len(AVAILABILITIES)) + 1):
        for states in combinations(AVAILABILITIES, size):
            padding: WhoIsFreeAnswer = (states[-1],) * (count - size)
            found.append(states + padding)
    return found


def _are_states(answer: object, count: int) -> bool:
    return isinstance(answer, tuple) and len(answer) == count and all(state in AVAILABILITIES for state in answer)


@dataclass(frozen=True, slots=True)
class WhoIsFree:
    """For each destination of a step about to be rung: free, on another call, or off duty. One entry a destination."""

    step: str
    round: int
    destinations: tuple[str, ...]

    def answers(self) -> Iterator[WhoIsFreeAnswer]:
        """Every answer there is."""
        return product(AVAILABILITIES, repeat=len(self.destinations))

    def classes(self) -> list[WhoIsFreeAnswer]:
        """One answer of each class that makes a difference to the exits."""
        return _classes_of(len(self.destinations))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return _are_states(answer, len(self.destinations))


@dataclass(frozen=True, slots=True)
class CanBeRung:
    """For each phone of a line-up's wave that is about to be rung: free, on another call, or off duty. One entry a phone;
    `round` is 0 in a hold line."""

    step: str
    round: int
    phones: tuple[Rung, ...]

    def answers(self) -> Iterator[WhoIsFreeAnswer]:
        """Every answer there is."""
        return product(AVAILABILITIES, repeat=len(self.phones))

    def classes(self) -> list[WhoIsFreeAnswer]:
        """One answer of each class that makes a difference to the exits."""
        return _classes_of(len(self.phones))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return _are_states(answer, len(self.phones))


@dataclass(frozen=True, slots=True)
class AnybodyFree:
    """Whether anybody whom a Ring step rings can be rung at this moment: before a caller is asked for a name."""

    step: str

    def answers(self) -> Iterator[bool]:
        """Every answer there is."""
        return iter((True, False))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return isinstance(answer, bool)


@dataclass(frozen=True, slots=True)
class WhatHolds:
    """Which period of a set of hours holds now, by the key that flows name the set by, and is it an exception."""

    hours: str

    def answers(self, periods: Sequence[str]) -> Iterator[WhatHoldsAnswer]:
        """Every answer there is for a set with these periods."""
        return product((*periods, "closed"), (False, True))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return (
            isinstance(answer, tuple)
            and len(answer) == 2
            and isinstance(answer[0], str)
            and isinstance(answer[1], bool)
        )


@dataclass(frozen=True, slots=True)
class InDates:
    """Whether today, in the client's time, lies in one of some ranges of dates: "2026-12-01/2026-12-24", both included."""

    ranges: tuple[str, ...]

    def answers(self) -> Iterator[bool]:
        """Every answer there is."""
        return iter((True, False))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return isinstance(answer, bool)


LineUpAnswer = tuple[tuple[tuple[Rung, ...], ...], tuple[Availability, ...], bool]
"""The waves of phones in the order of their turn, the states of those who have no phone to be rung at, and whether another
round follows this one. Who of a wave can be rung is asked for when it comes up (`CanBeRung`)."""


@dataclass(frozen=True, slots=True)
class LineUp:
    """Whose turn it is in one round of a Ring step with people or teams, or one whose order is a matter of turns."""

    step: str
    round: int

    def classes(self) -> list[LineUpAnswer]:
        """One answer of each class that makes a difference to the exits: somebody or nobody in turn, for the last time or
        not."""
        one = (Rung("somebody", "Somebody", "+14105550100", 20),)
        return [((one,), (), False), ((one,), (), True), ((), ("off",), False)]

    def fits(self, answer: object) -> bool:
        """Whether a value has the form of an answer."""
        if not isinstance(answer, tuple) or len(answer) != 3:
            return False
        waves, states, more = answer
        return (
            all(isinstance(wave, tuple) and wave and all(isinstance(one, Rung) for one in wave) for wave in waves)
            and all(state in ("off", "on_call") for state in states)
            and isinstance(more, bool)
        )


HeldState = Literal["ring", "wait", "full", "nobody"]
HoldAnswer = tuple[HeldState, int, int, tuple[tuple[Rung, ...], ...]]
"""What becomes of a caller in a hold line: a person is free and rung in these waves; they wait, at which place and for
about how many seconds (0: not known); the line is full; or nobody is available."""


@dataclass(frozen=True, slots=True)
class HoldTurn:
    """Whether it is a caller's turn in the hold line of a step. `entering`: they come to it now; `but`: the person who has
    just not taken them."""

    step: str
    entering: bool
    but: str = ""

    def classes(self) -> list[HoldAnswer]:
        """One answer of each class that makes a difference to the exits."""
        rung: HoldAnswer = ("ring", 1, 0, ((Rung("somebody", "Somebody", "+14105550100", 20),),))
        found: list[HoldAnswer] = [rung, ("wait", 1, 60, ()), ("nobody", 0, 0, ())]
        return [*found, ("full", 0, 0, ())] if self.entering else found

    def fits(self, answer: object) -> bool:
        """Whether a value has the form of an answer."""
        if not isinstance(answer, tuple) or len(answer) != 4:
            return False
        what, place, seconds, waves = answer
        known = what in ("wait", "nobody") or (what == "full" and self.entering) or (what == "ring" and bool(waves))
        return known and isinstance(place, int) and isinstance(seconds, int)


@dataclass(frozen=True, slots=True)
class RecordThis:
    """Whether this call is one of those that are recorded, of `in_hundred` in a hundred."""

    step: str
    in_hundred: int

    def answers(self) -> Iterator[bool]:
        """Every answer there is."""
        return iter((True, False))

    def fits(self, answer: object) -> bool:
        """Whether a value is one of the answers."""
        return isinstance(answer, bool)


LookedUpAnswer = tuple[Literal["pending", "found", "not_found", "failed"], str]
"""What a look-up gave, and the value where it was found."""
LOOKED_UP_LONGEST = 200


@dataclass(frozen=True, slots=True)
class LookedUp:
    """What a client's own system answers. `visit` tells one entry of a step from another."""

    step: str
    visit: int

    def classes(self) -> list[LookedUpAnswer]:
        """One answer of each class that makes a difference to the exits."""
        return [("found", "value"), ("not_found", ""), ("failed", ""), ("pending", "")]

    def fits(self, answer: object) -> bool:
        """Whether a value has the form of an answer."""
        if not isinstance(answer, tuple) or len(answer) != 2:
            return False
        return answer[0] in ("found", "not_found", "failed", "pending") and isinstance(answer[1], str)


Question = WhoIsFree | CanBeRung | AnybodyFree | WhatHolds | InDates | LineUp | HoldTurn | RecordThis | LookedUp
Answer = WhoIsFreeAnswer | WhatHoldsAnswer | bool | LineUpAnswer | HoldAnswer | LookedUpAnswer
Answers = dict[Question, Answer]
AnswerSource = Callable[[Question], Answer]


def everyone_free(question: Question) -> Answer:
    """The answer of a world in which every phone is free, nobody is known by name, all hours are closed and no date is near."""
    if isinstance(question, WhatHolds):
        return ("closed", False)
    if isinstance(question, InDates | RecordThis):
        return False
    if isinstance(question, AnybodyFree):
        return True
    if isinstance(question, LineUp):
        return ((), ("off",), False)
    if isinstance(question, HoldTurn):
        return ("nobody", 0, 0, ())
    if isinstance(question, LookedUp):
        return ("failed", "")
    free: Availability = "free"
    return (free,) * len(question.phones if isinstance(question, CanBeRung) else question.destinations)


def dump(answers: Answers) -> list[dict[str, Any]]:
    """The answers as JSON-ready values, as the log of a call keeps them."""
    found: list[dict[str, Any]] = []
    for q, a in answers.items():
        answer: Any = list(a) if isinstance(a, tuple) else a
        match q:
            case LineUp():
                asked: dict[str, Any] = {"ask": "line_up", "step": q.step, "round": q.round}
                waves, states, more = answer
                answer = [[[asdict(one) for one in wave] for wave in waves], list(states), more]
            case HoldTurn():
                asked = {"ask": "hold_turn", "step": q.step, "entering": q.entering, "but": q.but}
                *said, waves = answer
                answer = [*said, [[asdict(one) for one in wave] for wave in waves]]
            case WhoIsFree():
                asked = {"ask": "who_is_free", "step": q.step, "round": q.round, "destinations": list(q.destinations)}
            case CanBeRung():
                phones = [asdict(one) for one in q.phones]
                asked = {"ask": "can_be_rung", "step": q.step, "round": q.round, "phones": phones}
            case AnybodyFree():
                asked = {"ask": "anybody_free", "step": q.step}
            case WhatHolds():
                asked = {"ask": "what_holds", "hours": q.hours}
            case LookedUp():
                asked = {"ask": "looked_up", "step": q.step, "visit": q.visit}
            case RecordThis():
                asked = {"ask": "record_this", "step": q.step, "in_hundred": q.in_hundred}
            case InDates():
                asked = {"ask": "in_dates", "ranges": list(q.ranges)}
        found.append({**asked, "answer": answer})
    return found


def load(raw: list[dict[str, Any]]) -> Answers:
    """The answers that `dump` wrote."""
    return {_question(one): _answer(one) for one in raw}


def _answer(raw: dict[str, Any]) -> Answer:
    found: Any = raw["answer"]
    if raw["ask"] == "line_up":
        waves, states, more = found
        return (tuple(tuple(Rung(**one) for one in wave) for wave in waves), tuple(states), more)
    if raw["ask"] == "hold_turn":
        what, place, seconds, waves = found
        return (what, place, seconds, tuple(tuple(Rung(**one) for one in wave) for wave in waves))
    return tuple(found) if isinstance(found, list) else found


def _question(raw: dict[str, Any]) -> Question:
    if raw["ask"] == "what_holds":
        return WhatHolds(raw["hours"])
    if raw["ask"] == "line_up":
        return LineUp(raw["step"], raw["round"])
    if raw["ask"] == "can_be_rung":
        return CanBeRung(raw["step"], raw["round"], tuple(Rung(**one) for one in raw["phones"]))
    if raw["ask"] == "anybody_free":
        return AnybodyFree(raw["step"])
    if raw["ask"] == "hold_turn":
        return HoldTurn(raw["step"], raw["entering"], raw["but"])
    if raw["ask"] == "looked_up":
        return LookedUp(raw["step"], raw["visit"])
    if raw["ask"] == "record_this":
        return RecordThis(raw["step"], raw["in_hundred"])
    if raw["ask"] == "in_dates":
        return InDates(tuple(raw["ranges"]))
    return WhoIsFree(raw["step"], raw["round"], tuple(raw["destinations"]))
