"""What every test of a condition says of itself, and the little that tests are told."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Protocol

from ..model.condition import Condition
from ..questions.kinds import Answer, Question

Holds = bool | None
"""Yes, no, or not known (Kleene's strong three-valued logic): a branch is taken only when its condition is true."""


@dataclass(frozen=True, slots=True)
class HoursNames:
    """What a set of hours is called, and its periods by id."""

    name: str
    periods: Mapping[str, str]


Names = Mapping[str, HoursNames]
"""The sets of hours of a client, by the key that flows name them by."""


@dataclass(frozen=True, slots=True)
class Told:
    """What a condition may look at: questions of the engine, and what was typed or looked up, by the names it is kept under."""

    ask: Callable[[Question], Answer]
    values: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Looks:
    """What conditions look at: sets of hours by key, ranges of dates, weeks typed in place, and of kept values the texts that they
    tell apart."""

    hours: frozenset[str] = frozenset()
    ranges: frozenset[str] = frozenset()
    weeks: frozenset[str] = frozenset()
    values: frozenset[tuple[str, str]] = frozenset()

    def __or__(self, other: "Looks") -> "Looks":
        return Looks(
            self.hours | other.hours, self.ranges | other.ranges, self.weeks | other.weeks, self.values | other.values
        )


class ConditionTest(Protocol):
    """One test: whether it can be typed today, and whether several of it joined by "or" are one with more values."""

    runs: bool
    merges: bool

    def holds(self, condition: Condition, told: Told) -> Holds:
        """Whether it holds, asking no more than it takes."""

    def looks(self, condition: Condition) -> Looks:
        """What it looks at, for whoever must know before it is asked."""

    def words(self, condition: Condition, names: Names) -> str:
        """The condition in words: "Front desk", "an exception of Yard", "Dec 1 to Dec 24"."""

    def offered(self, names: Names) -> list[str]:
        """The words by which it can be typed, each meaning once."""

    def read(self, text: str, names: Names) -> tuple[Condition, int] | str | None:
        """The condition that a text begins with, and how many letters of it are read; a sentence where it is one and wrong, None
        where it is none of this test's."""

    def written(self, condition: Condition, names: Names) -> list[str]:
        """The condition as `read` reads it, as parts to be joined by "or"."""
