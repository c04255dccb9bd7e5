"""Hours as iCalendar (RFC 5545): the week as rules, seasons as rules with an end, other days one by one, closures as
whole-day events, and the time zone with them."""

from collections.abc import Iterable, Sequence
from datetime import UTC, date, datetime, time, timedelta
from itertools import groupby

from icalendar import Calendar, Event, vDuration, vRecur

from ..core.hours.document import DAY, Day, Season, Span
from ..core.hours.timetable import Timetable, occurrences

AHEAD = timedelta(days=400)
"""How far exceptions are written out; the week itself goes on for ever."""
REFRESH = timedelta(hours=6)
CLOSED_PREFIX = "Closed"

_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


def write(timetable: Timetable, key: str, stamp: datetime) -> bytes:
    """A calendar of what is open from the week of the day before `stamp` on, whose tail may hold still. `key` makes the
    events' ids, which stay the same from one writing to the next."""
    first = stamp.astimezone(timetable.zone).date() - timedelta(days=1)
    first -= timedelta(days=first.weekday())
    last = first + AHEAD
    calendar = Calendar()
    calendar.add("prodid", "-//Vokari//Hours//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", timetable.hours.name)
    calendar.add("x-wr-timezone", timetable.zone.key)
    calendar.add("name", timetable.hours.name)
    calendar.add("refresh-interval", vDuration(REFRESH), parameters={"VALUE": "DURATION"})
    for event in _events(timetable, first, last):
        event.add("dtstamp", stamp)
        event.add("uid", f"{key}-{event.pop('x-vokari-part')}@hours.example")
        calendar.add_component(event)
    if any(isinstance(event["dtstart"].dt, datetime) for event in calendar.walk("VEVENT")):
        calendar.add_missing_timezones(first, last)
    made: bytes = calendar.to_ical()
    return made


def _events(timetable: Timetable, first: date, last: date) -> Iterable[Event]:
    days = [first + timedelta(days=step) for step in range((last - first).days + 1)]
    left = {on: set(spans) for on, spans in effective(timetable, days).items()}
    yield from _weekly(timetable, timetable.hours.week, first, None, days, left)
    for one in timetable.exceptions:
        if isinstance(one, Season):
            for year in range(first.year, last.year + 1):
                for begins, ends in occurrences(one, year):
                    begins, ends = max(begins, first), min(ends, last)
                    if begins <= ends:
                        yield from _weekly(timetable, one.week, begins, ends, days, left)
    for on in days:
        for span in sorted(left[on], key=lambda one: (one.start, one.end)):
            yield _timed(timetable, on, span)
    yield from _closures(timetable, days)


def effective(timetable: Timetable, days: Sequence[date]) -> dict[date, list[Span]]:
    """What is really open from each day on: a tail ends where the next day cuts it, and gives way to what starts there."""
    found: dict[date, list[Span]] = {on: [] for on in days}
    for on in days:
        following = on + timedelta(days=1)
        ruling = timetable.ruling(following)
        holes = [(span.start + DAY, min(span.end, DAY) + DAY) for span in timetable.spans_on(following)]
        for span in timetable.spans_on(on):
            parts = [(span.start, min(span.end, DAY) if ruling and ruling.cuts else span.end)]
            for low, high in holes:
                parts = [part for one in parts for part in _without(one, low, high)]
            for start, end in parts:
                turn = start // DAY
                target = found.get(on + timedelta(days=turn))
                if target is not None:
                    target.append(Span(period=span.period, start=start - turn * DAY, end=end - turn * DAY))
    return found


def _without(part: tuple[int, int], low: int, high: int) -> list[tuple[int, int]]:
    if high <= part[0] or low >= part[1]:
        return [part]
    return [piece for piece in ((part[0], low), (high, part[1])) if piece[0] < piece[1]]


def _weekly(
    timetable: Timetable, week: Sequence[Day], begins: date, ends: date | None, days: Sequence[date],
    left: dict[date, set[Span]],
) -> Iterable[Event]:  # fmt: skip
    """A rule for each interval of a week; days on which it does not hold are left out of it. Takes what it covers from
    `left`."""
    usual = timetable.hours.periods[0].id
    rules: dict[Span, list[int]] = {}
    for index, day in enumerate(week):
        for span in day:
            rules.setdefault(span if span.period else span.model_copy(update={"period": usual}), []).append(index)
    for span, weekdays in sorted(rules.items(), key=lambda pair: (pair[1][0], pair[0].start)):
        wanted = [on for on in days if on.weekday() in weekdays and begins <= on and (ends is None or on <= ends)]
        holds = [on for on in wanted if span in left[on]]
        if not holds:
            continue
        event = _timed(timetable, wanted[0], span, f"{f'{begins:%Y%m%d}-' if ends else ''}{_DAYS[weekdays[0]]}")
        rule: dict[str, object] = {"FREQ": "WEEKLY", "BYDAY": [_DAYS[index] for index in weekdays]}
        if ends is not None:
            rule["UNTIL"] = _moment(timetable, wanted[-1], span.start).astimezone(UTC)
        event.add("rrule", vRecur(rule))
        missing = [_moment(timetable, on, span.start) for on in wanted if span not in left[on]]
        if missing:
            event.add("exdate", missing)
        for on in holds:
            left[on].discard(span)
        yield event


def _timed(timetable: Timetable, on: date, span: Span, part: str = "") -> Event:
    event = Event()
    event.add("summary", timetable.hours.names.get(span.period, span.period))
    event.add("dtstart", _moment(timetable, on, span.start))
    event.add("dtend", _moment(timetable, on, span.end))
    event["x-vokari-part"] = f"{part or f'{on:%Y%m%d}'}-{span.start}-{span.end}-{span.period}"
    return event


def _moment(timetable: Timetable, on: date, minute: int) -> datetime:
    return datetime.combine(on, time(), timetable.zone) + timedelta(minutes=minute)


def _closures(timetable: Timetable, days: Sequence[date]) -> Iterable[Event]:
    """A whole-day event for each run of days on which an exception leaves nothing open that would be otherwise."""

    def why(on: date) -> tuple[str, str] | None:
        ruling = timetable.ruling(on)
        shut = ruling is not None and not timetable.spans_on(on) and bool(timetable.hours.week[on.weekday()])
        return (ruling.id, ruling.name) if ruling and shut else None

    for reason, run in groupby(days, why):
        if reason is None:
            continue
        closed = list(run)
        event = Event()
        event.add("summary", f"{CLOSED_PREFIX}: {reason[1]}" if reason[1] else CLOSED_PREFIX)
        event.add("dtstart", closed[0])
        event.add("dtend", closed[-1] + timedelta(days=1))
        event["x-vokari-part"] = f"{closed[0]:%Y%m%d}-closed"
        yield event
