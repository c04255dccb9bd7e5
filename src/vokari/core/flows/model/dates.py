"""Ranges of dates as they stand in conditions: "2026-12-01/2026-12-24", both included, or one day; the same without a year, as the
days of a month that XML Schema calls gMonthDay ("--12-01/--12-24"), come back every year."""

import re
from calendar import isleap, month_abbr, month_name, monthrange
from collections.abc import Iterable, Iterator
from datetime import date

_YEARLY = re.compile(r"--(\d{2})-(\d{2})")
_LEAP = 2024
"""A year that has every day of a year."""


def read_range(text: str) -> tuple[date, date] | None:
    """The first and last day of a range of one year; None when it is none, and for one that comes back every year."""
    first, _, last = text.partition("/")
    try:
        found = date.fromisoformat(first), date.fromisoformat(last or first)
    except ValueError:
        return None
    return found if found[0] <= found[1] else None


def is_range(text: str) -> bool:
    """Whether a text is a range, of one year or of every year."""
    return read_range(text) is not None or _yearly(text) is not None


def spans(text: str, first: date, last: date) -> Iterator[tuple[date, date]]:
    """The first and last day of each time that a range comes between two days, both included."""
    pair, yearly = read_range(text), _yearly(text)
    found: Iterable[tuple[date, date]]
    if pair is not None:
        found = [pair]
    elif yearly is not None:
        (month, day), (end_month, end_day) = yearly
        wraps = (end_month, end_day) < (month, day)
        years = range(max(1, first.year - 1), min(9998, last.year) + 1)
        found = ((_on(year, month, day), _on(year + wraps, end_month, end_day)) for year in years)
    else:
        return
    yield from (one for one in found if one[0] <= last and one[1] >= first)


def in_ranges(ranges: tuple[str, ...], on: date) -> bool:
    """Whether a day lies in one of the ranges."""
    return any(any(spans(text, on, on)) for text in ranges)


def range_words(text: str) -> str:
    """A range in words: "Dec 1 to Dec 24 2026", and for one of every year "Dec 1 to Dec 24", or "Dec" for the whole month."""
    yearly, pair = _yearly(text), read_range(text)
    if yearly is not None:
        (month, day), (end_month, end_day) = yearly
        if (day, end_day) == (1, monthrange(_LEAP, end_month)[1]):
            return month_abbr[month] if month == end_month else f"{month_abbr[month]} to {month_abbr[end_month]}"
        first, last = f"{month_abbr[month]} {day}", f"{month_abbr[end_month]} {end_day}"
        return first if first == last else f"{first} to {last}"
    if pair is None:
        return text
    begins, ends = pair
    year = "" if begins.year == ends.year else f" {begins.year}"
    last = f"{ends:%b} {ends.day} {ends.year}"
    return last if begins == ends else f"{begins:%b} {begins.day}{year} to {last}"


_MONTHS = {name.casefold(): n for names in (month_abbr, month_name) for n, name in enumerate(names) if name} | {
    "sept": 9
}
_MONTH = "|".join(sorted(_MONTHS, key=len, reverse=True))
_DAY = rf"(?:(?P<month{{0}}>{_MONTH})\b\.?(?:\s+(?P<day{{0}}>\d{{{{1,2}}}})(?!\d|:\d))?|(?P<only{{0}}>\d{{{{1,2}}}})(?!\d|:\d))(?:,?\s+(?P<year{{0}}>\d{{{{4}}}})\b)?"
_TYPED = re.compile(
    rf"(?:(?:in|on|from|during)\s+)?{_DAY.format(0)}(?:\s*(?:-|–|—|\bto\b|\btill\b|\buntil\b)\s*{_DAY.format(1)})?",
    re.I,
)


def typed_range(text: str) -> tuple[str, int] | str | None:
    """The range that a text begins with in words, and how many letters of it are read: "Aug", "Dec 1 to Dec 24", "Dec 1-24", "Dec 24
    2026"; a sentence where these are no days, None where it begins with none."""
    match = _TYPED.match(text)
    if match is None or match["month0"] is None:
        return None
    month, day = _MONTHS[match["month0"].casefold()], match["day0"]
    to = match["month1"] is not None or match["only1"] is not None
    if match["only1"] and not day:
        return None
    end_month = _MONTHS[match["month1"].casefold()] if match["month1"] else month
    end = match["day1"] or match["only1"]
    if not to:
        end = day
    last_year = match["year1"] or match["year0"]
    first_year = match["year0"] or last_year
    begins = (month, int(day or 1))
    ends = (end_month, int(end) if end else monthrange(int(last_year or _LEAP), end_month)[1])
    first, last = (f"{year or '-'}-{m:02}-{d:02}" for year, (m, d) in ((first_year, begins), (last_year, ends)))
    span = first if first == last else f"{first}/{last}"
    if not is_range(span):
        return f"“{match[0].strip()}” are no days in order. Write them as Dec 1 to Dec 24, or 2026-12-24 to 2026-12-26."
    return span, match.end()


def _yearly(text: str) -> tuple[tuple[int, int], tuple[int, int]] | None:
    first, _, last = text.partition("/")
    found = [_YEARLY.fullmatch(one) for one in (first, last or first)]
    days = [(int(one[1]), int(one[2])) for one in found if one]
    if len(days) < 2 or not all(1 <= month <= 12 and 1 <= day <= monthrange(_LEAP, month)[1] for month, day in days):
        return None
    return days[0], days[1]


def _on(year: int, month: int, day: int) -> date:
    """A day of a year; for the 29th of February the 28th in years without it."""
    return date(year, month, 28 if (month, day) == (2, 29) and not isleap(year) else day)
