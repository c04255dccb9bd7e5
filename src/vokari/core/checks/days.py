"""What deserves a second look in the exceptions of a set of hours or of a shared list."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from ..hours.document import Exception_, Hours, OneOff, PublicHolidays, Season
from ..hours.public_days import public_days
from ..hours.timetable import Timetable, occurrences

LOOK_FROM_MONTH = 10
"""From October on, the holidays of the next year should have been looked at. Common practice, no source."""


@dataclass(frozen=True, slots=True)
class Warning_:
    """A sentence about an exception, by its id."""

    exception: str
    kind: str
    sentence: str


def coming(one: Exception_, first: date, last: date) -> list[tuple[date, date, str]]:
    """When an exception holds between two days, both included: first day, last day, and the name of what it is."""
    found: list[tuple[date, date, str]] = []
    for year in range(first.year, last.year + 1):
        if isinstance(one, PublicHolidays):
            picked = {pick.name for pick in one.picked}
            found += [
                (day.on, day.on, f"{day.name} (observed)" if day.observed else day.name)
                for day in public_days(one.country, one.region, year)
                if day.name in picked and (one.observed or not day.observed)
            ]
        else:
            found += [(low, high, one.name) for low, high in occurrences(one, year)]
    return sorted((low, high, name) for low, high, name in found if high >= first and low <= last)


def warnings_of(exceptions: Sequence[Exception_], today: date) -> list[Warning_]:
    """What can be said of exceptions alone: past ones, a 29 February, holidays nobody has looked at."""
    found = []
    for one in exceptions:
        called = f"“{one.name}”" if one.name else "This exception"
        if isinstance(one, PublicHolidays):
            next_year = today.year + 1
            if today.month >= LOOK_FROM_MONTH and one.seen_until < next_year:
                sentence = f"The holidays of {next_year} in {called} have not been looked at yet."
                found.append(Warning_(one.id, "unseen", sentence))
            if not one.picked:
                found.append(Warning_(one.id, "no_pick", f"{called} picks no holiday."))
            continue
        if not one.every_year and one.last < today:
            found.append(Warning_(one.id, "past", f"{called} is past."))
        if one.every_year and one.first.month == 2 and one.first.day == 29 and one.first == one.last:
            found.append(Warning_(one.id, "leap", f"{called} is on 29 February, which comes in leap years only."))
    return found


def idle(hours: Hours, timetable: Timetable, shared: Sequence[Exception_], today: date) -> list[Warning_]:
    """The exceptions that change nothing on any day of the next two years: what holds would hold without them."""
    found = []
    last = today + timedelta(days=730)
    for one in hours.exceptions:
        days = coming(one, today, last)
        if not days:
            continue
        others = tuple(other for other in hours.exceptions if other is not one)
        without = Timetable(hours.model_copy(update={"exceptions": others}), timetable.zone, shared)
        if all(_same(timetable, without, low, high) for low, high, _ in days):
            called = f"“{one.name}”" if one.name else "This exception"
            found.append(Warning_(one.id, "idle", f"{called} changes nothing: the same holds without it."))
    return found


def _same(one: Timetable, other: Timetable, first: date, last: date) -> bool:
    day = first
    while day <= last:
        if _plain(one, day) != _plain(other, day):
            return False
        day += timedelta(days=1)
    return True


def _plain(timetable: Timetable, day: date) -> list[tuple[int, int, str]]:
    """What holds through a day and its tail into the next, without why."""
    plain: list[tuple[int, int, str]] = []
    for turn in (0, 1):
        for start, end, standing in timetable.pieces(day + timedelta(days=turn)):
            if plain and plain[-1][2] == standing.period:
                plain[-1] = (plain[-1][0], end + turn * 1440, standing.period)
            else:
                plain.append((start + turn * 1440, end + turn * 1440, standing.period))
    return plain


def is_day(one: Exception_, on: date) -> bool:
    """Whether an exception is a one-off for just this day."""
    return isinstance(one, OneOff) and one.first == one.last == on and not one.every_year


def kind_words(one: Exception_) -> str:
    """What kind of exception this is, in words."""
    if isinstance(one, PublicHolidays):
        return "public holidays"
    return "season" if isinstance(one, Season) else "day" if one.first == one.last else "days"
