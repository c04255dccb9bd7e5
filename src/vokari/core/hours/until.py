"""A moment to come, as it is typed for a temporary switch: "14:00", "5pm", "tomorrow 9", "Fri 12:00", "2026-12-24 13:00"."""

import re
from datetime import date, datetime, timedelta

from .document import DAY
from .typed import DAY_WORDS, Unread, read_time

EXAMPLE = "14:00, 5 pm, tomorrow 9:30, Fri 12:00"
NIGHT_ENDS = 5 * 60
"""Before five in the morning is still "tonight"."""
_WORDS = (
    "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve",
)  # fmt: skip
_LEADING = re.compile(r"^(today|tonight|tomorrow|\d{4}-\d{2}-\d{2}|[a-z]+)\b[,\s]*(?:at\b)?\s*(.*)$", re.IGNORECASE)


def read_until(text: str, now: datetime) -> datetime | str:
    """The wall-clock moment that a text names, seen from the wall clock `now`; both without a zone. A sentence says what
    was not understood. A bare hour up to 12 is the next that comes: "until five" in the afternoon is 17:00."""
    plain = " ".join(text.lower().removeprefix("until ").split())
    if not plain:
        return f"Say until when: {EXAMPLE}."
    on, rest, named = now.date(), plain, False
    match = _LEADING.match(plain)
    if match and match.group(1) not in (*_WORDS, "noon", "midnight", "midday"):
        day = _day(match.group(1), now.date())
        if isinstance(day, str):
            return day
        on, rest, named = day, match.group(2), match.group(1) not in ("today", "tonight")
        if match.group(1) == "tonight" and not rest:
            rest = "24:00"
    if not rest:
        return f"Say at what time, too: {EXAMPLE}."
    rest = str(_WORDS.index(rest) + 1) if rest in _WORDS else rest
    try:
        minute, bare, _ = read_time(rest)
    except Unread as wrong:
        return str(wrong)
    if rest == "midnight":
        minute = DAY
    moment = _on(on, minute)
    if plain.startswith("tonight"):
        moment += timedelta(days=1) if minute < NIGHT_ENDS else timedelta(hours=12 if bare and minute < 720 else 0)
    elif bare and minute < 720 and not named and moment <= now:
        moment += timedelta(hours=12)
    if moment <= now:
        return f"{moment:%H:%M} is past. For another day say it first, as in “tomorrow 9:30”."
    return moment


def _on(on: date, minute: int) -> datetime:
    return datetime(on.year, on.month, on.day) + timedelta(minutes=minute)


def _day(word: str, today: date) -> date | str:
    if word in ("today", "tonight"):
        return today
    if word == "tomorrow":
        return today + timedelta(days=1)
    if word in DAY_WORDS:
        return today + timedelta(days=(DAY_WORDS[word] - today.weekday() - 1) % 7 + 1)
    try:
        return date.fromisoformat(word)
    except ValueError:
        return f"“{word}” is no day. Write it like this: {EXAMPLE}, or 2026-12-24 13:00."
