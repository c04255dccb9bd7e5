"""Where clocks change, and what that does to a set of hours."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

from .document import CLOSED
from .timetable import Timetable, offsets


@dataclass(frozen=True, slots=True)
class ClockChange:
    """The instant at which a zone's clocks change, the wall clock before and after it, and what that does, in words.

    `jump` is what is added to the wall clock, in minutes: 60 in a usual spring, -60 in its autumn.
    """

    at: datetime
    jump: int
    from_words: str
    to_words: str
    effects: tuple[str, ...]


def clock_changes(timetable: Timetable, since: datetime, until: datetime) -> list[ClockChange]:
    """The changes of the zone's clocks from one instant to another, with what each does to the hours."""
    parts = list(offsets(timetable.zone, int(since.timestamp()), int(until.timestamp())))
    found = []
    for (_, turn, before), (_, _, after) in pairwise(parts):
        old, new = turn + before, turn + after
        effects = _skipped(timetable, old, new) if new > old else _repeated(timetable, new, old)
        found.append(
            ClockChange(
                datetime.fromtimestamp(turn, UTC), (after - before) // 60, _wall(old), _wall(new), tuple(effects)
            )
        )  # fmt: skip
    return found


def _wall(seconds: int) -> str:
    return f"{datetime.fromtimestamp(seconds, UTC):%H:%M}"


def _standings(timetable: Timetable, low: int, high: int) -> list[tuple[int, int, str]]:
    """What holds on the wall clock between two of its seconds: start and end in seconds, and the period's id."""
    found = []
    for day in range(low // 86400, (high - 1) // 86400 + 1):
        on = date(1970, 1, 1) + timedelta(days=day)
        for piece in timetable.pieces(on):
            start, end = max(low, day * 86400 + piece.start * 60), min(high, day * 86400 + piece.end * 60)
            if start < end:
                found.append((start, end, piece.standing.period))
    return found


def _skipped(timetable: Timetable, low: int, high: int) -> list[str]:
    names = timetable.hours.names
    effects = []
    for start, end, period in _standings(timetable, low, high):
        if period != CLOSED:
            effects.append(
                f"{names[period]} loses {(end - start) // 60} minutes: {_wall(start)} to {_wall(end)} never comes."
            )
    return effects


def _repeated(timetable: Timetable, low: int, high: int) -> list[str]:
    names = timetable.hours.names
    parts = _standings(timetable, low, high)
    effects = [
        f"{names[period]} counts {(end - start) // 60} minutes twice: {_wall(start)} to {_wall(end)} comes again."
        for start, end, period in parts
        if period != CLOSED
    ]
    last, first = parts[-1][2], parts[0][2]
    if first != last and first != CLOSED:
        effects.append(f"{names[first]} ended in it, and opens again at {_wall(low)}.")
    return effects
