"""Which calls are recorded to learn from: so many a week, spread over people and hours.

Each person has an equal part of the week's number. Of a person's calls it is drawn which are recorded, so that each has the same
chance (selection sampling; source: D. Knuth, The Art of Computer Programming, volume 2, 3.4.2, algorithm S, with the number of
calls still to come estimated). No hour of the day has more than a third of them.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import ceil

HOUR_PART = 3
"""No hour of the day has more than one part in so many of the week's recordings."""


@dataclass(frozen=True, slots=True)
class Kept:
    """What was recorded in a week so far: how many calls of each person, and in each hour of the day."""

    people: Mapping[str, int] = field(default_factory=dict)
    hours: Mapping[int, int] = field(default_factory=dict)

    @property
    def total(self) -> int:
        return sum(self.people.values())

    def and_this(self, who: str, hour: int) -> "Kept":
        """With one call more."""
        people = {**self.people, who: self.people.get(who, 0) + 1}
        return Kept(people, {**self.hours, hour: self.hours.get(hour, 0) + 1})


def is_recorded(per_week: int, who: str, hour: int, kept: Kept, people: int, expected: float, draw: float) -> bool:
    """Whether a call that `who` takes in an hour of the day is recorded. `people` is among how many the week's number is spread,
    `expected` how many calls `who` will probably take in the rest of the week, this one included; `draw` is drawn evenly from 0
    to 1."""
    part = ceil(per_week / max(1, people))
    left = min(part - kept.people.get(who, 0), per_week - kept.total)
    if left <= 0 or kept.hours.get(hour, 0) >= ceil(per_week / HOUR_PART):
        return False
    return draw * max(expected, 1.0) < left
