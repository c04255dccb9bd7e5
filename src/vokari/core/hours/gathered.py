"""Hours made of what a calendar holds: rules without an end make the week, rules with one make seasons, closures that
come each year make days of each year, and every day that is different still is made an exception."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from zoneinfo import ZoneInfo

from . import painting
from .document import CLOSED, DAY, EMPTY_WEEK, Exception_, Hours, OneOff, Period, Season, Span, tidied
from .document import Day as Spans
from .timetable import Timetable

MOST_PERIODS = 24
MOST_EXCEPTIONS = 1000
SEASON_FROM = timedelta(days=13)
"""A rule that ends sooner than two weeks after it began is days, not a season."""
PAYS_FROM = 3
"""A season must save so many exceptions."""


@dataclass(frozen=True, slots=True)
class Rule:
    """A weekly rule: the name, the weekdays (0 is Monday), the minutes (None for whole days), the first day and the last
    (None: without an end), and whether it closes."""

    name: str
    weekdays: frozenset[int]
    minutes: tuple[int, int] | None
    first: date
    last: date | None
    closes: bool


@dataclass(frozen=True, slots=True)
class Yearly:
    """A closure of some whole days that comes each year on the same date."""

    name: str
    first: date
    days: int


@dataclass(slots=True)
class Gathered:
    """What events bring to one day: open intervals by name, closed ones, and the name of what closes the whole day."""

    opened: list[tuple[str, int, int]] = field(default_factory=list)
    cut: list[tuple[int, int]] = field(default_factory=list)
    closed: str | None = None

    def tail(self) -> "Gathered":
        """What of it goes on after midnight."""
        opened = [one for one in self.opened if one[2] > DAY]
        return Gathered(opened, [one for one in self.cut if one[1] > DAY], self.closed)


@dataclass(frozen=True, slots=True)
class Calendar:
    """A calendar as it was understood, from `first` to `last`: the rules, the closures of each year, the days one by
    one, and a sentence for everything left out. Of the day before `first` only what goes on after its midnight is known."""

    name: str
    first: date
    last: date
    rules: list[Rule]
    yearly: list[Yearly]
    days: dict[date, Gathered]
    left_out: list[str]


def to_hours(calendar: Calendar, name: str, known: Sequence[Period], new_id: Callable[[str], str]) -> Hours | str:
    """The set that a calendar describes, exact on every day that it was read for. Periods keep the ids of known ones of
    the same name; a sentence says why there can be no such set. Adds to what the calendar left out."""
    ids, periods = _periods(calendar, known, new_id)
    if len(periods) > MOST_PERIODS:
        return f"Its events have {len(periods)} names, each a period; a set of hours has at most {MOST_PERIODS}."
    wanted = _days(calendar, ids)
    week = _week(calendar, ids)
    exceptions: list[Exception_] = [
        OneOff(
            id=new_id("x"), name=one.name[:80], first=first, last=first + timedelta(days=one.days - 1), every_year=True
        )
        for one in calendar.yearly
        if (first := _next(one.first, calendar.first)) is not None
    ]
    base = Hours(name=name, periods=tuple(periods), week=week, exceptions=tuple(exceptions))
    base = _with_seasons(base, calendar, wanted, new_id)
    single = _single(base, calendar, wanted, new_id)
    if len(base.exceptions) + len(single) > MOST_EXCEPTIONS:
        return f"It would take {len(single)} exceptions; a set of hours has at most {MOST_EXCEPTIONS}."
    return base.model_copy(update={"exceptions": (*base.exceptions, *single)})


def closures(calendar: Calendar, new_id: Callable[[str], str]) -> list[Exception_]:
    """The whole days that a calendar closes, those that follow each other under one name as one exception."""
    found: list[OneOff] = []
    each_year = _yearly(calendar, new_id)
    known = {on for one in each_year for on in _range(one.first, one.last)}
    for on in _range(calendar.first, calendar.last):
        day = calendar.days.get(on)
        if day is None or day.closed is None or on in known:
            continue
        before = found[-1] if found else None
        if before and before.last == on - timedelta(days=1) and before.name == day.closed[:80]:
            found[-1] = before.model_copy(update={"last": on})
        else:
            found.append(OneOff(id=new_id("x"), name=day.closed[:80], first=on, last=on))
    return [*each_year, *found]


def _yearly(calendar: Calendar, new_id: Callable[[str], str]) -> list[OneOff]:
    """The closures of each year, from the next time on."""
    return [
        OneOff(
            id=new_id("x"), name=one.name[:80], first=first, last=first + timedelta(days=one.days - 1), every_year=True
        )
        for one in calendar.yearly
        if (first := _next(one.first, calendar.first)) is not None
    ]


def _periods(
    calendar: Calendar, known: Sequence[Period], new_id: Callable[[str], str]
) -> tuple[dict[str, str], list[Period]]:
    """The period of each name, in lower case, and all periods; events without a name are of the first."""
    periods = list(known)
    ids = {one.name.casefold(): one.id for one in known}
    names = [rule.name for rule in calendar.rules if not rule.closes]
    names += [name for on in sorted(calendar.days) for name, _, _ in calendar.days[on].opened]
    for name in names:
        if name and name.casefold() not in ids:
            periods.append(Period(id=new_id("p"), name=name[:60]))
            ids[name.casefold()] = periods[-1].id
    if not periods:
        periods.append(Period(id=new_id("p"), name="Open"))
    ids[""] = periods[0].id
    return ids, periods


Part = tuple[int, int, str]
"""An interval in minutes, counted from one midnight through all days, with its period."""


def _days(calendar: Calendar, ids: dict[str, str]) -> dict[date, Spans]:
    """What starts on each day: whole closures and closed times taken out, and of two periods at once the first."""
    order = {key: place for place, key in enumerate(dict.fromkeys(ids.values()))}
    opened: list[Part] = []
    cuts: list[tuple[int, int]] = []
    for on, day in calendar.days.items():
        midnight = on.toordinal() * DAY
        cuts += [(midnight + start, midnight + end) for start, end in day.cut]
        if day.closed is None:
            opened += [(midnight + start, midnight + end, ids[name.casefold()]) for name, start, end in day.opened]
    laid: list[Part] = []
    clashing: set[int] = set()
    for start, end, key in sorted(opened, key=lambda one: (order[one[2]], one[0])):
        holes = [(low, high) for low, high, other in laid if other != key and low < end and high > start]
        clashing |= {low // DAY for low, _ in holes}
        near = [cut for cut in cuts if cut[0] < end and cut[1] > start]
        laid += [(low, high, key) for low, high in _minus((start, end), [*holes, *near])]
    if clashing:
        many = f"{len(clashing)} {'day' if len(clashing) == 1 else 'days'}"
        calendar.left_out.append(f"Two periods overlap on {many}: the first of them was kept there.")
    found: dict[date, list[Span]] = {}
    for start, end, key in laid:
        midnight = start // DAY * DAY
        span = Span(period=key, start=start - midnight, end=end - midnight)
        found.setdefault(date.fromordinal(start // DAY), []).append(span)
    return {on: tidied(spans) for on, spans in found.items()}


def _minus(part: tuple[int, int], holes: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    left = [part]
    for low, high in holes:
        left = [
            (a, b)
            for start, end in left
            for a, b in ((start, min(end, low)), (max(start, high), end))
            if a < b
        ]  # fmt: skip
    return list(dict.fromkeys(left))


def _week(calendar: Calendar, ids: dict[str, str]) -> tuple[Spans, ...]:
    """The week of the rules that hold from the start on and have no end."""
    week: tuple[Spans, ...] = EMPTY_WEEK
    always = [one for one in calendar.rules if one.last is None and one.first <= calendar.first + timedelta(days=6)]
    for rule in reversed([one for one in always if not one.closes]):
        for day in sorted(rule.weekdays):
            start, end = rule.minutes or (0, DAY)
            week = painting.paint(week, ids[rule.name.casefold()], day, start, end)
    for rule in (one for one in always if one.closes):
        for day in sorted(rule.weekdays):
            if rule.minutes:
                week = painting.paint(week, CLOSED, day, *rule.minutes)
            else:
                week = tuple(() if index == day else spans for index, spans in enumerate(week))
    return week


def _with_seasons(base: Hours, calendar: Calendar, wanted: dict[date, Spans], new_id: Callable[[str], str]) -> Hours:
    """The set with a season for each stretch of a rule with an end, as long as it saves exceptions."""
    stretches = Counter[tuple[date, date]]()
    for rule in calendar.rules:
        late = rule.first > calendar.first + timedelta(days=6)
        if rule.last is not None or late:
            first, last = max(rule.first, calendar.first), min(rule.last or calendar.last, calendar.last)
            if last - first >= SEASON_FROM:
                stretches[first, last] += 1
    for first, last in sorted(stretches, key=lambda pair: pair[0] - pair[1]):
        days = _range(first, last)
        week = tuple(
            Counter(wanted.get(on, ()) for on in days if on.weekday() == weekday).most_common(1)[0][0]
            for weekday in range(7)
        )
        try:
            made = Season(id=new_id("x"), first=first, last=last, week=week)
            tried = Hours.model_validate({**base.model_dump(), "exceptions": [*base.exceptions, made]})
        except ValueError:
            continue
        if _different(tried, wanted, days) + PAYS_FROM <= _different(base, wanted, days):
            base = tried
    return base


def _different(hours: Hours, wanted: dict[date, Spans], days: Sequence[date]) -> int:
    table = Timetable(hours, _ANYWHERE)
    return sum(1 for on in days if table.spans_on(on) != wanted.get(on, ()))


def _single(
    base: Hours, calendar: Calendar, wanted: dict[date, Spans], new_id: Callable[[str], str]
) -> list[Exception_]:
    """The days on which something else holds than the week and the seasons say, those that follow each other as one."""
    table = Timetable(base, _ANYWHERE)
    found: list[OneOff] = []
    eve = calendar.first - timedelta(days=1)
    for on in _range(eve, calendar.last):
        spans = wanted.get(on, ())
        if table.spans_on(on) == spans or (on == eve and _tails(table.spans_on(on)) == _tails(spans)):
            continue
        day = calendar.days.get(on)
        name = (day.closed or "")[:80] if day else ""
        before = found[-1] if found else None
        if before and before.last == on - timedelta(days=1) and (before.name, before.spans) == (name, spans):
            found[-1] = before.model_copy(update={"last": on})
        else:
            found.append(OneOff(id=new_id("x"), name=name, first=on, last=on, spans=spans))
    return list(found)


def _tails(spans: Spans) -> list[tuple[str, int]]:
    """What goes on after midnight: periods, with the minute up to which."""
    return sorted((one.period, one.end - DAY) for one in spans if one.end > DAY)


_ANYWHERE = ZoneInfo("UTC")
"""Days are compared, not instants: any zone does."""


def _range(first: date, last: date) -> list[date]:
    return [first + timedelta(days=step) for step in range((last - first).days + 1)]


def _next(first: date, today: date) -> date | None:
    """The first time of a yearly date that is not past; None for a 29 February, which is taken day by day."""
    if (first.month, first.day) == (2, 29):
        return None
    year = max(first.year, today.year)
    return (
        first.replace(year=year) if first.replace(year=year) >= today or first > today else first.replace(year=year + 1)
    )
