"""Painting a week: intervals drawn, moved, stretched and cut. What is painted lies on top; others give way.

A week here is the seven days of spans of all periods. A period of "" paints being closed, which only cuts.
"""

from collections.abc import Iterable, Sequence

from .document import CLOSED, DAY, WEEK, Day, Span, tidied

SNAPS = (5, 15, 30)
SHORTEST = 5


def paint(week: Sequence[Day], period: str, day: int, start: int, end: int) -> tuple[Day, ...]:
    """Lays an interval over a day. `start` may lie before or past the day, which then is another one."""
    day, start, end = _settled(day, start, end)
    cut = _cut(week, day * DAY + start, day * DAY + end, keep=period)
    if period in ("", CLOSED):
        return cut
    return _with(cut, day, Span(period=period, start=start, end=end))


def replace(week: Sequence[Day], day: int, old: Span, to_day: int, start: int, end: int) -> tuple[Day, ...]:
    """Moves or stretches an interval: it leaves its place and is painted at the new one."""
    return paint(remove(week, day, old), old.period, to_day, start, end)


def remove(week: Sequence[Day], day: int, old: Span) -> tuple[Day, ...]:
    """Takes an interval out; nothing happens when it is not there."""
    days = list(week)
    days[day % 7] = tuple(span for span in days[day % 7] if span != old)
    return tuple(days)


def copy_day(week: Sequence[Day], source: int, targets: Iterable[int]) -> tuple[Day, ...]:
    """Gives other days the intervals that start on one; what they had themselves goes."""
    days = list(week)
    for target in targets:
        days[target] = ()
    painted = tuple(days)
    for target in targets:
        for span in week[source]:
            painted = paint(painted, span.period, target, span.start, span.end)
    return painted


def of_period(week: Sequence[Day], period: str) -> tuple[Day, ...]:
    """The days with the spans of one period only."""
    return tuple(tuple(span for span in day if span.period == period) for day in week)


def merged(weeks: Iterable[Sequence[Day]]) -> tuple[Day, ...]:
    """The weeks of several periods as one, unchecked: the caller looks for clashes."""
    together: list[list[Span]] = [[] for _ in range(7)]
    for week in weeks:
        for index, day in enumerate(week):
            together[index] += day
    return tuple(tuple(sorted(day, key=lambda one: (one.start, one.end))) for day in together)


def _settled(day: int, start: int, end: int) -> tuple[int, int, int]:
    """The interval on the day of its start, between SHORTEST minutes and a day long."""
    day, start, end = (day + start // DAY) % 7, start % DAY, end - start // DAY * DAY
    return day, start, max(start + SHORTEST, min(end, start + DAY))


def _with(week: Sequence[Day], day: int, span: Span) -> tuple[Day, ...]:
    days = list(week)
    days[day] = tidied((*days[day], span))
    return tuple(days)


def _cut(week: Sequence[Day], start: int, end: int, keep: str) -> tuple[Day, ...]:
    """The week without what lies between two minutes of it, which comes round on Monday; `keep` is left whole."""
    days: list[list[Span]] = [[] for _ in range(7)]
    for index, day in enumerate(week):
        for span in day:
            if span.period == keep:
                days[index].append(span)
                continue
            parts = [(index * DAY + span.start, index * DAY + span.end)]
            for turn in (-WEEK, 0, WEEK):
                parts = [part for one in parts for part in _without(one, (start + turn, end + turn))]
            for low, high in parts:
                at = low // DAY
                days[at % 7].append(Span(period=span.period, start=low - at * DAY, end=high - at * DAY))
    return tuple(tidied(day) for day in days)


def _without(whole: tuple[int, int], hole: tuple[int, int]) -> list[tuple[int, int]]:
    low, high = max(whole[0], hole[0]), min(whole[1], hole[1])
    if low >= high:
        return [whole]
    return [part for part in ((whole[0], low), (high, whole[1])) if part[0] < part[1]]
