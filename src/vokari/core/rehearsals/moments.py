"""The moment at which a kept rehearsal calls: what it means, made into an instant, and the other way round."""

from collections.abc import Mapping
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..flows.model.kept import OnDate, OnHoliday, OnWeekday, When
from ..hours.timetable import Standing, Timetable

AHEAD = timedelta(days=430)
"""How far ahead a day is looked for: longer than a year, so that a yearly holiday is always found."""
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def instant(when: When, tables: Mapping[str, Timetable], zone: ZoneInfo, now: datetime) -> datetime | None:
    """The next moment, from `now` on, that is meant; None where there is none, as for a date that is over. A weekday is one on which no
    exception holds at that time, unless each is one."""
    if isinstance(when, OnDate):
        at = _on(when.date, when.at, zone)
        return at if at >= now else None
    today = now.astimezone(zone).date()
    usual = None
    for number in range(AHEAD.days):
        day = today + timedelta(days=number)
        if isinstance(when, OnWeekday) and day.weekday() != when.day:
            continue
        at = _on(day, when.at, zone)
        if at < now:
            continue
        standings = [table.at(at) for table in tables.values()]
        if isinstance(when, OnHoliday):
            if any(_is_meant(one, when.name) for one in standings):
                return at
        elif not any(one.is_exception for one in standings):
            return at
        else:
            usual = usual or at
    return usual


def meanings(at: datetime, tables: Mapping[str, Timetable], zone: ZoneInfo) -> list[When]:
    """What a moment can stand for, the likeliest first: the exception that holds then, the day of the week, that day."""
    local = at.astimezone(zone)
    clock = f"{local:%H:%M}"
    standings = [table.at(at) for table in tables.values()]
    named = dict.fromkeys(one.name for one in standings if one.is_exception and one.name)
    exceptions: list[When] = [OnHoliday(name=name, at=clock) for name in named]
    weekday = OnWeekday(day=local.weekday(), at=clock)
    whole_day = any(one.kind in ("holiday", "days") for one in standings)
    return (
        [*exceptions, weekday, OnDate(date=local.date(), at=clock)]
        if whole_day
        else [weekday, *exceptions, OnDate(date=local.date(), at=clock)]
    )


def in_words(when: When) -> str:
    """“a Sunday at 10:00”, “the next public holiday at 09:00”, “Christmas Day at 09:00”, “2026-12-24 at 09:00”."""
    match when:
        case OnWeekday():
            return f"a {DAYS[when.day]} at {when.at}"
        case OnHoliday():
            return f"{when.name or 'the next public holiday'} at {when.at}"
        case OnDate():
            return f"{when.date} at {when.at}"


def _is_meant(standing: Standing, name: str) -> bool:
    return standing.name.casefold() == name.casefold() if name else standing.kind == "holiday"


def _on(day: date, at: str, zone: ZoneInfo) -> datetime:
    hour, minute = at.split(":")
    return datetime.combine(day, time(int(hour), int(minute)), zone)
