"""Which take of a prompt is played at a moment: a stretch of time for each, seasonal ones over the others."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Stretch:
    """A take that plays from a moment up to, but not including, another (None: on). One that is `seasonal` plays over the others and
    gives back by itself."""

    take: int
    since: datetime
    until: datetime | None = None
    seasonal: bool = False

    def covers(self, at: datetime) -> bool:
        return self.since <= at and (self.until is None or at < self.until)


def playing(stretches: Iterable[Stretch], at: datetime) -> int | None:
    """The take that plays at a moment: of those whose stretch it lies in a seasonal one before others, and the one that began last; None
    where no stretch covers it."""
    found = [one for one in stretches if one.covers(at)]
    return max(found, key=lambda one: (one.seasonal, one.since, one.take)).take if found else None


def boundaries(stretches: Iterable[Stretch], since: datetime, until: datetime) -> list[datetime]:
    """The moments after `since` and before `until` at which another take begins to play, in order."""
    some = list(stretches)
    edges = {edge for one in some for edge in (one.since, one.until) if edge is not None and since < edge < until}
    found, before = [], playing(some, since)
    for edge in sorted(edges):
        now = playing(some, edge)
        if now != before:
            found.append(edge)
        before = now
    return found
