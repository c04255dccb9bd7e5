"""Hold lines: who of a team could take the next caller, and which of the waiting callers gets whom.

All callers who wait for one team stand in one line, in order of arrival, from whatever flow they come.
"""

from collections.abc import Callable, Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil
from typing import Protocol, TypeVar

from ..flows.model.steps import HoldLine
from ..flows.questions.kinds import HoldAnswer, HoldTurn
from ..people.line_up import Around, Turns, Unit, in_turn, members_of

Caller = TypeVar("Caller", bound=Hashable)

REST_SECONDS = 30
"""How long a person who did not take a caller is left alone by the line, if somebody else can take them."""


@dataclass(frozen=True, slots=True)
class Served:
    """Those who serve a line: the free ones in the order in which they are asked, how many are on duty, and what the
    choice of each would make of the turns."""

    free: tuple[Unit, ...]
    on_duty: int
    turns: Mapping[str, Turns]


def served(key: str, around: Around, held: Collection[str] = ()) -> Served:
    """Who serves the line of a team: its people by its strategy, then those of the teams behind it. `held` are people whose
    phone rings for another caller or who have just not taken one. A team that rings all at once asks the longest idle
    first, since one caller needs one person."""
    turns: dict[str, Turns] = {}
    around = replace(around, take=turns.__setitem__)
    free: list[Unit] = []
    on_duty = 0
    seen: set[str] = set()
    at: str | None = key
    while at is not None and at not in seen:
        team = around.teams.get(at)
        if team is None:
            break
        seen.add(at)
        units = [_held(one, held) for one in members_of(at, around)]
        on_duty += sum(one.state != "off" for one in units)
        strategy = "longest_idle" if team.strategy == "all_at_once" else team.strategy
        known = {one.key for one in free}
        free += [one for one in in_turn(units, strategy, at, 1, around, team) if one.key not in known]
        at = team.then
    return Served(tuple(free), on_duty, turns)


def _held(unit: Unit, held: Collection[str]) -> Unit:
    return (
        replace(unit, state="on_call", waves=[], later=unit.all) if unit.key in held and unit.state == "free" else unit
    )


def assigned(waiting: Sequence[tuple[Caller, str]], free: Mapping[str, Sequence[str]]) -> dict[Caller, str]:
    """Which waiting caller gets which free person. `waiting` are callers with the team they wait for, in order of arrival;
    `free` the people of each team in the order in which they are asked.

    First come, first served: nobody is passed over for somebody who came later, and as many are served as can be (the
    greedy of a transversal matroid: augmenting paths in order of arrival; J. Edmonds and D. R. Fulkerson, 1965, from
    memory).
    """
    teams = dict(waiting)
    holder: dict[str, Caller] = {}

    def seat(caller: Caller, tried: set[str]) -> bool:
        for person in free.get(teams[caller], ()):
            if person in tried:
                continue
            tried.add(person)
            if person not in holder or seat(holder[person], tried):
                holder[person] = caller
                return True
        return False

    for caller, _ in waiting:
        seat(caller, set())
    return {caller: person for person, caller in holder.items()}


def wait_seconds(place: int, mean_seconds: float, on_duty: int) -> int:
    """About how long the caller at a place waits: each of those on duty is done with a call once in a mean talk (common
    practice, no source); 0 where no talk is known or nobody is there."""
    return ceil(place * mean_seconds / on_duty) if on_duty and mean_seconds > 0 else 0


def take(served_: Served, person: str, keep: Callable[[str, Turns], None]) -> None:
    """Writes down the turns of the line when the first in order takes the caller; another one takes no turn."""
    if served_.free and served_.free[0].key == person:
        for key, turns in served_.turns.items():
            keep(key, turns)


class InLine(Protocol):
    """A line as one of its callers stands in it."""

    def length(self) -> int:
        """How many wait, before this caller joins."""

    def join(self) -> None:
        """Takes the last place."""

    def person(self, line: Served) -> Unit | None:
        """Which of the free ones is this caller's, and takes the turn; None where others come first."""

    def ahead(self) -> int:
        """How many wait before this caller."""

    def mean_talk(self) -> float:
        """The mean seconds of a talk with those who serve the line; 0 where none is known."""


def turn(step: HoldLine, question: HoldTurn, line: Served, caller: InLine) -> HoldAnswer:
    """What becomes of a caller in the hold line of a step: nobody serves it, it is full, a person is theirs, or they wait."""
    if not line.on_duty:
        return ("nobody", 0, 0, ())
    if question.entering:
        if caller.length() >= step.most_callers:
            return ("full", 0, 0, ())
        caller.join()
    person = caller.person(line) if line.free else None
    if person is not None:
        return ("ring", 1, 0, tuple(person.waves))
    place = caller.ahead() + 1
    return ("wait", place, wait_seconds(place, caller.mean_talk(), line.on_duty), ())
