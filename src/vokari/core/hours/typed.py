"""Hours as typed text: "Mon-Thu 7:30-12, 13-16; Sat 9-1", in 12- or 24-hour forms, read and written.

An end that is not after its start, says neither am nor pm and has no leading zero nor an hour past 12 is taken as the
afternoon's, where the start is of that kind too or says am: 9-1 and 9am-1 are from nine to one. Any other end that is
not after its start lies in the next day.
"""

import re
from collections.abc import Mapping, Sequence

from .document import DAY, DAY_NAMES, Day, Span, clock, tidied

Pair = tuple[int, int]
"""Start and end in minutes from the midnight of the day of the start."""

EXAMPLE = "Mon-Thu 7:30-12, 13-16; Sat 9-1"
LONGEST_TEXT = 2000

DAY_WORDS = {
    "mo": 0, "mon": 0, "monday": 0, "mondays": 0, "tu": 1, "tue": 1, "tues": 1, "tuesday": 1, "tuesdays": 1,
    "we": 2, "wed": 2, "weds": 2, "wednesday": 2, "wednesdays": 2, "th": 3, "thu": 3, "thur": 3, "thurs": 3,
    "thursday": 3, "thursdays": 3, "fr": 4, "fri": 4, "friday": 4, "fridays": 4, "sa": 5, "sat": 5, "saturday": 5,
    "saturdays": 5, "su": 6, "sun": 6, "sunday": 6, "sundays": 6,
}  # fmt: skip
_GROUPS = {
    "daily": range(7), "always": range(7), "every day": range(7), "all week": range(7), "all days": range(7),
    "weekdays": range(5), "weekends": range(5, 7), "weekend": range(5, 7), "weekday": range(5),
}  # fmt: skip
_ROUND = ("round the clock", "all day", "24 hours", "24h", "24/7")
_TIME = r"(?:(\d{1,2})(?:[:.h](\d{2}))?|(\d{2})(\d{2}))\s*(am|pm|a\.m\.|p\.m\.|a|p)?|(noon|midday|midnight)"
_BETWEEN = re.compile(
    r"[;\n]|(?:(?<=\d)|(?<=[ap]m))\s*,\s*(?=(?:mo|tu|we|th|fr|sa|su|dail|every)[a-z]*\b)", re.IGNORECASE
)
"""Between groups of days; a comma too, where times stand before it and a day after it."""
_NEXT_DAY = re.compile(r"\s*(?:\+\s*1|next day)\s*$")
_ONE_TIME = re.compile(rf"^\s*(?:{_TIME})\s*$", re.IGNORECASE)
_TO = re.compile(r"\s*(?:-|–|—|\bto\b|\btill\b|\buntil\b)\s*", re.IGNORECASE)


class Unread(ValueError):
    """Text that is no time; the sentence says what."""


def read_week(text: str, period: str = "") -> tuple[Day, ...] | str:
    """The seven days that a text tells of, every span of `period`; or a sentence that says what was not understood."""
    if len(text) > LONGEST_TEXT:
        return f"This is too long: a week takes at most {LONGEST_TEXT} letters."
    days: list[list[Span]] = [[] for _ in range(7)]
    try:
        for part in _parts(text):
            chosen, rest = _days_and_rest(part)
            for start, end in _pairs(rest):
                for index in chosen:
                    days[index].append(Span(period=period, start=start, end=end))
    except Unread as wrong:
        return str(wrong)
    return tuple(tidied(day) for day in days)


def read_day(text: str, periods: Mapping[str, str], usual: str = "") -> Day | str:
    """The spans of one day: "9-12, 13-16", or with names of periods "Front desk 9-12; Workshop 13-16".

    `periods` maps ids to names; spans without a name are of `usual`. Empty and "closed" give no spans.
    """
    if len(text) > LONGEST_TEXT:
        return f"This is too long: a day takes at most {LONGEST_TEXT} letters."
    by_name = {name.casefold(): key for key, name in periods.items()}
    spans: list[Span] = []
    try:
        for part in _parts(text):
            name = next((one for one in sorted(by_name, key=len, reverse=True) if part.casefold().startswith(one)), "")
            rest = part[len(name) :].lstrip(" :") if name else part
            if not name and not re.match(r"\d|noon|mid|closed|round|all day|24", rest, re.IGNORECASE):
                known = ", ".join(periods.values())
                raise Unread(f"“{part}” begins with no time and no period of this set ({known}).")
            spans += [Span(period=by_name.get(name, usual), start=a, end=b) for a, b in _pairs(rest)]
    except Unread as wrong:
        return str(wrong)
    day = tidied(spans)
    for one, other in ((a, b) for i, a in enumerate(day) for b in day[i + 1 :]):
        if one.period != other.period and one.start < other.end and other.start < one.end:
            names = [periods.get(span.period, "one period") for span in (one, other)]
            return f"{names[0]} and {names[1]} overlap from {clock(max(one.start, other.start))}."
    return day


def _parts(text: str) -> list[str]:
    return [part.strip(" .,") for part in _BETWEEN.split(text) if part.strip(" .,")]


def _days_and_rest(part: str) -> tuple[list[int], str]:
    """The days that a part begins with, and its times."""
    lowered = part.lower()
    for words, group in _GROUPS.items():
        if re.match(rf"{words}\b", lowered):
            return list(group), part[len(words) :].lstrip(" :")
    found: list[int] = []
    rest = part
    while True:
        match = re.match(
            r"\s*(?:,|and\b|&|\+)?\s*([A-Za-z]+)\.?(?:\s*(?:-|–|—|\bto\b)\s*([A-Za-z]+)\.?)?(?=[\s,:&+]|\d|$)", rest
        )
        if not match or match.group(1).lower() not in DAY_WORDS:
            break
        first = DAY_WORDS[match.group(1).lower()]
        last = DAY_WORDS.get((match.group(2) or match.group(1)).lower())
        if last is None:
            raise Unread(f"“{match.group(2)}” is no day of the week.")
        found += [(first + step) % 7 for step in range((last - first) % 7 + 1)]
        rest = rest[match.end() :]
    rest = rest.lstrip(" :,")
    if not found:
        word = (re.match(r"\S+", part) or re.match("", part) or [""])[0]
        if re.match(r"[\d(]|noon|mid", part, re.IGNORECASE):
            raise Unread(f"Say the days first, as in {EXAMPLE}.")
        raise Unread(f"“{word}” is no day of the week. Write days, then times: {EXAMPLE}.")
    if not rest:
        raise Unread(f"“{part}” says no times. Write them after the days, as in {EXAMPLE}, or closed.")
    return list(dict.fromkeys(found)), rest


def _pairs(text: str) -> list[Pair]:
    """The intervals of a text such as "7:30-12, 13-16"."""
    lowered = text.strip().lower()
    if lowered in ("closed", "shut", "off", ""):
        return []
    if lowered in _ROUND:
        return [(0, DAY)]
    return [_pair(one) for one in re.split(r",|\band\b|&", lowered) if one.strip()]


def _pair(text: str) -> Pair:
    sides = _TO.split(_NEXT_DAY.sub("", text.strip()))
    next_day = bool(_NEXT_DAY.search(text))
    if len(sides) != 2:
        raise Unread(f"“{text.strip()}” is no interval. Write one as 9-12 or 9:30am-1pm.")
    (start, start_bare, start_half), (end, end_bare, end_half) = read_time(sides[0]), read_time(sides[1])
    if start_half == "" and end_half and start_bare and start < 720:
        both = start + (720 if end_half == "p" else 0)
        start = both if both < end or end == 0 else start
    if start == DAY:
        raise Unread(f"“{text.strip()}” starts at the end of the day: 24:00 can only end an interval.")
    if next_day and end <= start:
        return start, end + DAY
    if end == start and not (start_bare and end_bare):
        raise Unread(f"“{text.strip()}” has no length. For the whole day write 0-24.")
    forenoon = (start_bare and start_half == "") or start_half == "a"
    if end <= start and end_bare and forenoon and end + 720 > start and 60 <= end < 720:
        end += 720
    if end <= start:
        end += DAY
    if end - start > DAY:
        raise Unread(f"“{text.strip()}” is longer than 24 hours.")
    return start, end


def read_time(text: str) -> tuple[int, bool, str]:
    """One time, or Unread: minutes from midnight; whether the form leaves am or pm open; and which half of the day it says, if it does."""
    match = _ONE_TIME.match(text)
    if not match:
        raise Unread(f"“{text.strip()}” is no time. Write times as 7:30, 730am, 13 or noon.")
    hour_text, minutes, hh, mm, half, word = match.groups()
    if word:
        return (720, False, "p") if word.lower() in ("noon", "midday") else (0, False, "a")
    hour, minute = int(hour_text or hh), int(minutes or mm or 0)
    if minute > 59:
        raise Unread(f"“{text.strip()}” has {minute} minutes: an hour has 60.")
    if half:
        if not 1 <= hour <= 12:
            raise Unread(f"“{text.strip()}” is no time: with am or pm an hour is 1 to 12.")
        letter = half[0].lower()
        return hour % 12 * 60 + minute + (720 if letter == "p" else 0), False, letter
    if hour > 24 or (hour == 24 and minute):
        raise Unread(f"“{text.strip()}” is no time: a day has 24 hours.")
    bare = 1 <= hour <= 12 and not (hour_text or hh).startswith("0")
    return hour * 60 + minute, bare, ""


# writing


def write_week(week: Sequence[Day]) -> str:
    """The days and times of spans, days with the same times together: "Mon-Thu 07:30-12:00, 13:00-16:00; Sat 09:00-13:00".

    What is written is read back as the same; an end in the next day has a leading zero, which says so.
    """
    texts = [write_times(day) for day in week]
    parts: list[str] = []
    done: set[int] = set()
    for index, text in enumerate(texts):
        if not text or index in done:
            continue
        same = [other for other in range(7) if texts[other] == text]
        done |= set(same)
        parts.append(f"{write_days(same)} {text}")
    return "; ".join(parts)


def write_days(days: Sequence[int]) -> str:
    """Days of the week, 0 for Monday, in order and those that follow each other as a range: "Mon-Thu, Sat"."""
    if len(days) == 7:
        return "Daily"
    runs: list[list[int]] = []
    for day in days:
        if runs and runs[-1][-1] == day - 1:
            runs[-1].append(day)
        else:
            runs.append([day])
    names = []
    for run in runs:
        first, last = DAY_NAMES[run[0]], DAY_NAMES[run[-1]]
        names.append(first if len(run) == 1 else f"{first}-{last}" if len(run) > 2 else f"{first}, {last}")
    return ", ".join(names)


def write_times(day: Sequence[Span]) -> str:
    """The times of a day's spans: "07:30-12:00, 13:00-16:00"."""
    return ", ".join(_times(span.start, span.end) for span in day)


def _times(start: int, end: int) -> str:
    """An interval as it is read back; "+1" says that it ends in the next day where the times alone would not."""
    text = f"{clock(start)}-{clock(end)}"
    if end - start == DAY and start:
        return f"{text}+1"
    return text if _pair(text) == (start, end) else f"{text}+1"


def write_day(day: Sequence[Span], periods: Mapping[str, str], usual: str = "") -> str:
    """A day as `read_day` reads it, with the names of periods other than `usual`; "closed" for no spans."""
    keys = list(dict.fromkeys(span.period for span in day))
    parts = []
    for key in keys:
        times = write_times([span for span in day if span.period == key])
        parts.append(times if key in ("", usual) else f"{periods.get(key, key)} {times}")
    return "; ".join(parts) or "closed"
