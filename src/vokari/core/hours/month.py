"""A month of a set of hours as a calendar: what starts on each day and why."""

from dataclasses import dataclass
from datetime import date, timedelta

from .document import Day
from .timetable import Ruling, Timetable


@dataclass(frozen=True, slots=True)
class MonthDay:
    """A day of the calendar: the spans that start on it, and the exception that governs it. `inside`: of the month."""

    on: date
    spans: Day
    ruling: Ruling | None
    inside: bool


def month(timetable: Timetable, year: int, number: int) -> list[list[MonthDay]]:
    """The weeks of a month, Monday first, whole weeks."""
    first = date(year, number, 1)
    following = date(year + number // 12, number % 12 + 1, 1)
    day = first - timedelta(days=first.weekday())
    weeks = []
    while day < following:
        week = []
        for _ in range(7):
            week.append(MonthDay(day, timetable.spans_on(day), timetable.ruling(day), day.month == number))
            day += timedelta(days=1)
        weeks.append(week)
    return weeks
