"""Hours for tests: short ways to write them, random ones, and a plain evaluation straight from the rules."""

from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from hypothesis import strategies as st

from vokari.core.hours.document import Hours, OneOff, PublicHolidays, Season, Span
from vokari.core.hours.public_days import public_days
from vokari.core.hours.typed import read_day, read_week

PERIODS = {"desk": "Front desk", "shop": "Workshop"}


def week(**texts: str) -> tuple[tuple[Span, ...], ...]:
    """A week from typed text by period id."""
    days: list[list[Span]] = [[] for _ in range(7)]
    for period, text in texts.items():
        read = read_week(text, period)
        assert not isinstance(read, str), read
        for index, spans in enumerate(read):
            days[index] += spans
    return tuple(tuple(day) for day in days)


def day(text: str) -> tuple[Span, ...]:
    read = read_day(text, PERIODS, "desk")
    assert not isinstance(read, str), read
    return read


def hours(*exceptions: object, zone: str | None = None, **texts: str) -> Hours:
    """A set with a front desk and a workshop."""
    periods = [{"id": key, "name": name} for key, name in PERIODS.items()]
    raw: dict[str, Any] = {"name": "Yard", "time_zone": zone, "periods": periods, "week": week(**texts)}
    return Hours.model_validate({**raw, "exceptions": exceptions})


def closed(first: str, last: str = "", **more: Any) -> OneOff:
    ident = "x" + first.replace("-", "")
    fields = {"id": ident, "name": ident, "first": date.fromisoformat(first), "last": date.fromisoformat(last or first)}
    return OneOff(**{**fields, **more})


def season(first: str, last: str, days: tuple[tuple[Span, ...], ...], **more: Any) -> Season:
    ident = "s" + first.replace("-", "")
    fields = {"id": ident, "name": ident, "first": date.fromisoformat(first), "last": date.fromisoformat(last)}
    return Season(**{**fields, "week": days, **more})


def plainly(one: Hours, zone: ZoneInfo, instant: datetime) -> tuple[str, bool]:
    """What holds, and whether by an exception: the rules read out one after the other, with nothing prepared."""
    local = instant.astimezone(zone)
    minute = local.hour * 60 + local.minute
    today, yesterday = local.date(), local.date() - timedelta(days=1)
    spans, exceptional, cuts = plain_day(one, today)
    for span in spans:
        if span.start <= minute < span.end:
            return span.period, exceptional
    if not cuts:
        before, was_exceptional, _ = plain_day(one, yesterday)
        for span in before:
            if span.start <= minute + 1440 < span.end:
                return span.period, was_exceptional
    return "closed", exceptional


def plain_day(one: Hours, on: date) -> tuple[tuple[Span, ...], bool, bool]:
    """The spans that start on a day, whether an exception brings them, and whether it cuts the day before."""
    best, found = 0, None
    for rule in one.exceptions:
        if isinstance(rule, OneOff) and rule.first <= on <= rule.last and best <= 4:
            best, found = 4, (rule.spans, True, rule.cuts and on == rule.first)
        if isinstance(rule, PublicHolidays) and best <= 2:
            for holiday in public_days(rule.country, rule.region, on.year):
                pick = next((pick for pick in rule.picked if pick.name == holiday.name), None)
                if holiday.on == on and pick and (rule.observed or not holiday.observed):
                    best, found = 2, (pick.spans, True, rule.cuts)
        strength = 3 if isinstance(rule, Season) and rule.on_holidays else 1
        if isinstance(rule, Season) and rule.first <= on <= rule.last and best <= strength:
            best, found = strength, (rule.week[on.weekday()], True, rule.cuts and on == rule.first)
    return found or (one.week[on.weekday()], False, False)


_times = st.tuples(st.integers(0, 287), st.integers(1, 288)).map(lambda pair: (pair[0] * 5, (pair[0] + pair[1]) * 5))


@st.composite
def random_days(draw: st.DrawFn) -> tuple[Span, ...]:
    """A day of spans of two periods that do not overlap on the day itself."""
    spans: list[Span] = []
    for start, end in draw(st.lists(_times, max_size=3)):
        if all(end <= one.start or start >= one.end for one in spans):
            spans.append(Span(period=draw(st.sampled_from(["desk", "shop"])), start=start, end=end))
    return tuple(spans)


@st.composite
def random_hours(draw: st.DrawFn) -> Hours:
    """A set with one sort of week, a few one-off days and seasons in 2026, some across midnight."""
    texts = draw(st.sampled_from(["Mon-Thu 7:30-12, 13-16; Sat 9-1", "Daily 22-06:00", "Fri-Sun 18-02:00", ""]))
    one = hours(desk=texts)
    exceptions: list[OneOff | Season] = []
    for n in range(draw(st.integers(0, 4))):
        first = date(2026, 1, 1) + timedelta(days=draw(st.integers(0, 360)))
        last = first + timedelta(days=draw(st.integers(0, 40)))
        cuts = draw(st.booleans())
        if draw(st.booleans()):
            spans = draw(random_days())
            exceptions.append(OneOff(id=f"e{n}", name=f"E{n}", first=first, last=last, cuts=cuts, spans=spans))
        else:
            days = (draw(random_days()), *(() for _ in range(6)))
            on = draw(st.booleans())
            exceptions.append(Season(id=f"e{n}", first=first, last=last, cuts=cuts, week=days, on_holidays=on))
    try:
        return Hours.model_validate({**one.model_dump(), "exceptions": [e.model_dump() for e in exceptions]})
    except ValueError:
        return one
