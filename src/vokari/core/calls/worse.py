"""Whether a version of a flow loses more callers than the one before it."""

from dataclasses import dataclass
from math import sqrt

FEWEST = 20
"""Calls that both must have had, so that a handful says nothing."""
CLEARLY, POINTS = 2.33, 0.05
"""The one-sided 1 % point of the normal distribution, and by how much the share must have grown to matter."""


@dataclass(frozen=True, slots=True)
class Lost:
    """How many calls a version had, and how many of them were lost."""

    calls: int
    lost: int

    @property
    def share(self) -> float:
        return self.lost / self.calls if self.calls else 0.0


def is_worse(before: Lost, after: Lost) -> bool:
    """Whether the share of lost calls has grown, by 5 points at least and more than chance explains: the pooled test of two proportions at
    1 % (any handbook of statistics, for instance J. L. Fleiss, Statistical Methods for Rates and Proportions)."""
    if min(before.calls, after.calls) < FEWEST or after.share - before.share < POINTS:
        return False
    both = (before.lost + after.lost) / (before.calls + after.calls)
    spread = sqrt(both * (1 - both) * (1 / before.calls + 1 / after.calls))
    return spread > 0 and (after.share - before.share) / spread > CLEARLY
