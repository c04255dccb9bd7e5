"""Periods of a report, in days of the client's own time zone."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from .. import asked

AGAINST = {"": "nothing", "before": "the period before", "year": "a year before"}
CHOICES = {"today": 1, "7": 7, "30": 30, "90": 90}


@dataclass(frozen=True, slots=True)
class Period:
    """From one day to another, both included."""

    first: date
    last: date

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1

    def instants(self, zone: ZoneInfo) -> tuple[datetime, datetime]:
        """The instants at which the first day begins and the last one is over, in UTC."""
        begin = datetime.combine(self.first, time(0), zone)
        end = datetime.combine(self.last + timedelta(days=1), time(0), zone)
        return begin.astimezone(UTC), end.astimezone(UTC)

    def before(self, against: str) -> "Period | None":
        """The period that it is compared with: as many days right before it, or the same days a year earlier (February 28 for a
        29th); None for nothing."""
        if against == "before":
            return Period(self.first - timedelta(days=self.days), self.first - timedelta(days=1))
        if against == "year":
            return Period(_year_before(self.first), _year_before(self.last))
        return None

    @property
    def months(self) -> "Period | None":
        """The calendar months that lie in it whole."""
        first = self.first if self.first.day == 1 else _next_month(self.first)
        last = (self.last + timedelta(days=1)).replace(day=1) - timedelta(days=1)
        return Period(first, last) if first <= last else None


Part = Literal["day", "week", "month", "year"]
_PARTS: tuple[tuple[int, Part], ...] = ((46, "day"), (840, "week"), (3660, "month"))
"""What a bar of a chart covers, by the longest period, in days, for which it does; beyond that it is a year."""


def part_of(period: Period) -> Part:
    """What a bar covers in a chart of this period."""
    return next((part for longest, part in _PARTS if period.days <= longest), "year")


def parts(period: Period) -> list[Period]:
    """A period in the parts of its chart: days, weeks from its first day on, or the months or years that lie in it, if only
    partly."""
    part = part_of(period)
    found = []
    begin = period.first
    while begin <= period.last:
        following = _next(begin, part)
        found.append(Period(begin, min(following - timedelta(days=1), period.last)))
        begin = following
    return found


def _next(begin: date, part: Part) -> date:
    match part:
        case "day" | "week":
            return begin + timedelta(days=1 if part == "day" else 7)
        case "month":
            return _next_month(begin)
        case "year":
            return date(begin.year + 1, 1, 1)


def _year_before(day: date) -> date:
    return day.replace(year=day.year - 1, day=28 if (day.month, day.day) == (2, 29) else day.day)


def _next_month(day: date) -> date:
    return date(day.year + day.month // 12, day.month % 12 + 1, 1)


def latest(days: int, today: date) -> Period:
    """The last so many days up to today, today included."""
    return Period(today - timedelta(days=days - 1), today)


def chosen(choice: str, first: str, last: str, today: date) -> Period | str:
    """The period that a form asks for: one of CHOICES, or `own` with two ISO dates. A sentence says what is wrong."""
    if choice != "own":
        return latest(CHOICES.get(choice, 30), today)
    begin, end = asked.day(first), asked.day(last)
    if begin is None or end is None:
        return "Give both days, as in 2026-11-24, in the years 2000 to 2099."
    period = Period(begin, end)
    if period.days < 1:
        return "The last day lies before the first."
    return period
