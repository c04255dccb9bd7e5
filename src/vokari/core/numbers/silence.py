"""Numbers that have gone silent against their own past.

Calls of one number come about as a Poisson process: with m calls expected in a time, none come with the chance
exp(-m). Source: the Poisson distribution, any textbook of statistics. Weekdays even out over whole weeks, so the past
is taken in whole weeks.
"""

import math
from dataclasses import dataclass

RARE = 0.001
"""A silence that by chance would come less often than this is told."""

SHORTEST_PAST = 28
"""Days of past that are needed before a silence can be judged."""

LEAST_CALLS = 4
"""Calls in the past that are needed."""


@dataclass(frozen=True, slots=True)
class Silence:
    """A silence that chance hardly explains: its days, the calls expected in them, and the chance of none."""

    days: float
    expected: float
    chance: float

    @property
    def words(self) -> str:
        """The reason in words."""
        rate = self.expected / self.days
        usual = f"{rate:.1f} calls a day" if rate >= 1 else f"one call in {1 / rate:.0f} days"
        odds = "less than one in a million" if self.chance < 1e-6 else f"about one in {_round(1 / self.chance):,}"
        return (
            f"silent for {self.days:.0f} days; at its usual {usual} about {self.expected:.0f} calls would have come,"
            f" and the odds of none are {odds}"
        )


def judge(calls_before: int, days_before: float, silent_days: float) -> Silence | None:
    """The silence of a number that had so many calls in the days before its last call, and none in the days since."""
    if days_before < SHORTEST_PAST or calls_before < LEAST_CALLS or silent_days <= 0:
        return None
    expected = calls_before / days_before * silent_days
    chance = math.exp(-expected)
    return Silence(silent_days, expected, chance) if chance < RARE else None


def _round(value: float) -> int:
    """To two figures, since more would promise too much."""
    power = 10 ** max(0, math.floor(math.log10(value)) - 1)
    return int(round(value / power) * power)
