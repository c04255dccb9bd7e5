"""What every test of a condition says of itself, and the little that tests are told."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Protocol

from ..model.condition import Condition
from ..questions.kinds import Answer, Question

Holds = bool | None
"""Yes, no, or not known (Kleene's strong three-valued logic): a branch is taken only when its condition is true."""


@dataclass(frozen=True, slots=True)
class HoursNames:
    """What a set of hours is called, its periods by id, and the names of its exceptions."""

    name: str
    periods: Mapping[str, str]
    exceptions: tuple[str, ...] = ()


@dataclass(frozen=True)
class Names:
    """What conditions can name of a client, each by the key that flows name it by: sets of hours (the main one first), people, lead
    sources, places, areas served. `kept` are the names under which the flow keeps values; phone numbers are read as ones of `country`."""

    hours: Mapping[str, HoursNames] = field(default_factory=dict)
    people: Mapping[str, str] = field(default_factory=dict)
    sources: Mapping[str, str] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)
    areas: Mapping[str, str] = field(default_factory=dict)
    kept: tuple[str, ...] = ()
    country: str = "US"


@dataclass(frozen=True, slots=True)
class Told:
    """What a condition may look at: questions of the engine, what was typed or looked up by the names it is kept under, the language that
    is spoken, and of a junction that splits callers by shares its id, the first hundredths of its shares and all bounds (see
    `tests.Splits`)."""

    ask: Callable[[Question], Answer]
    values: Mapping[str, str] = field(default_factory=dict)
    language: str = ""
    split: str = ""
    begins: Mapping[int, int] = field(default_factory=dict)
    bounds: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Looks:
    """What conditions look at: sets of hours by key, ranges of dates, weeks typed in place, of kept values the texts that they tell
    apart, and other facts by the name of their test with what they name."""

    hours: frozenset[str] = frozenset()
    ranges: frozenset[str] = frozenset()
    weeks: frozenset[str] = frozenset()
    values: frozenset[tuple[str, str]] = frozenset()
    facts: frozenset[Condition] = frozenset()

    def __or__(self, other: "Looks") -> "Looks":
        return Looks(
            self.hours | other.hours,
            self.ranges | other.ranges,
            self.weeks | other.weeks,
            self.values | other.values,
            self.facts | other.facts,
        )


Reading = tuple[Condition, int] | str | None
"""The condition that a text begins with, and how many letters of it are read; a sentence where it is one and wrong, None where it is
none of this test's."""


class ConditionTest(Protocol):
    """One test: whether several of it joined by "or" are one with more values, and whether calls can be told of it today ("" if so, else a
    sentence that says from where it will come)."""

    merges: bool
    unknown: str

    def holds(self, condition: Condition, told: Told) -> Holds:
        """Whether it holds, asking no more than it takes."""

    def looks(self, condition: Condition) -> Looks:
        """What it looks at, for whoever must know before it is asked."""

    def words(self, condition: Condition, names: Names) -> str:
        """The condition in words: "Front desk", "an exception of Yard", "Dec 1 to Dec 24"."""

    def offered(self, names: Names) -> list[str]:
        """The words by which it can be typed, each meaning once."""

    def read(self, text: str, names: Names) -> Reading:
        """The condition that a text begins with (see `Reading`)."""

    def written(self, condition: Condition, names: Names) -> list[str]:
        """The condition as `read` reads it, as parts to be joined by "or"."""


# texts within conditions

_QUOTED = re.compile(r"\"((?:[^\"\\]|\\.)*)\"|[“„]([^”“]*)[”“]")
_PLAIN = re.compile(r"(?:(?!\s*(?:\b(?:and|or)\b|[(),]))[^\"“„:])+", re.IGNORECASE)


def free_text(text: str) -> tuple[str, int] | None:
    """The text that something begins with: in quotes, or up to the next and, or, comma or bracket; and how many letters are read."""
    quoted = _QUOTED.match(text)
    if quoted:
        words = re.sub(r"\\(.)", r"\1", quoted[1]) if quoted[1] is not None else quoted[2]
        return (words, quoted.end()) if words.strip() else None
    plain = _PLAIN.match(text)
    return (plain[0].strip(), len(plain[0].rstrip())) if plain and plain[0].strip() else None


def free_written(text: str) -> str:
    """A text as `free_text` reads it: in quotes where it would be read otherwise."""
    read = free_text(text)
    plain = read == (text, len(text)) and not re.match(r"not\b", text, re.IGNORECASE)
    return text if plain else '"' + re.sub(r'(["\\])', r"\\\1", text) + '"'


def named_in(text: str, known: Mapping[str, str]) -> tuple[str, int] | None:
    """The key of the longest name that a text begins with, as whole words, also in quotes; and how many letters are read."""
    quoted = _QUOTED.match(text)
    if quoted:
        words = free_text(text)
        key = next((key for key, name in known.items() if words and name.casefold() == words[0].casefold()), None)
        return (key, quoted.end()) if key else None
    low = text.casefold()
    for key, name in sorted(known.items(), key=lambda pair: -len(pair[1])):
        if low.startswith(name.casefold()) and not low[len(name) : len(name) + 1].isalnum():
            return key, len(name)
    return None
