"""How the times of those who answer cover a client's hours: where nobody could be rung."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from .timetable import Stretch, Timetable


@dataclass(frozen=True, slots=True)
class Cover:
    """Of the times in which a client is open: how long that is, how much of it somebody can be rung, and the gaps."""

    wanted: timedelta
    covered: timedelta
    gaps: tuple[tuple[datetime, datetime], ...]


def cover(
    wanted: Timetable | None, periods: Collection[str], members: Sequence[Timetable], since: datetime, until: datetime
) -> Cover:
    """Compares members' own times with the periods that are wanted (none named: any of them; no timetable: always)."""
    if wanted is None:
        open_times = [(since, until)]
    else:
        open_times = _open(wanted.stretches(since, until), periods)
    free = _joined([pair for member in members for pair in _open(member.stretches(since, until), ())])
    gaps = [gap for one in open_times for gap in _minus(one, free)]
    whole = sum((b - a for a, b in open_times), timedelta())
    missing = sum((b - a for a, b in gaps), timedelta())
    return Cover(whole, whole - missing, tuple(gaps))


Times = list[tuple[datetime, datetime]]


def _open(stretches: Sequence[Stretch], periods: Collection[str]) -> Times:
    chosen = [
        (one.since, one.until)
        for one in stretches
        if (one.standing.period in periods if periods else one.standing.is_open)
    ]
    return _joined(chosen)


def _joined(times: Times) -> Times:
    joined: Times = []
    for since, until in sorted(times):
        if joined and since <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(until, joined[-1][1]))
        else:
            joined.append((since, until))
    return joined


def _minus(whole: tuple[datetime, datetime], holes: Times) -> Times:
    left, at = [], whole[0]
    for since, until in holes:
        if until <= at or since >= whole[1]:
            continue
        if since > at:
            left.append((at, since))
        at = max(at, until)
    if at < whole[1]:
        left.append((at, whole[1]))
    return left
