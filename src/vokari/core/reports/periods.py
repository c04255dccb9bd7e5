"""Periods of a report, in days of the client's own time zone."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from .. import asked

CHOICES = {"today": 1, "7": 7, "30": 30, "90": 90}
LONGEST = 800


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
    if period.days > LONGEST:
        return f"A report covers at most {LONGEST} days."
    return period
