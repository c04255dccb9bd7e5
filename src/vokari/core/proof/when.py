"""When, in words: the stretches of the time to come in which something can happen, as people say it."""

from collections import Counter
from collections.abc import Collection, Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from .times import Stretch

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
ALWAYS = "at any time"
MOST = 3
"""How many times are named before the rest is counted."""
USUAL = 0.6
"""The part of all weeks from which on a time is one of every week."""

Weekly = tuple[int, str, int, str]
"""A time of the week: its first weekday, when it begins, how many days later it ends, and when."""


def in_words(stretches: Sequence[Stretch], zone: ZoneInfo, since: datetime, until: datetime, most: int = MOST) -> str:
    """The times in words, so many of them before the rest is counted: "at any time", "Sat 06:30-09:00", "Fri, Dec 25", "Thu, Nov 26, 08:00 to 16:00
    and 4 more times". Years are said where they are not the first."""
    times = _joined(stretches)
    if sum(((end - begin) for begin, end in times), timedelta()) >= (until - since) * 0.9999:
        return ALWAYS
    local = [(begin.astimezone(zone), end.astimezone(zone)) for begin, end in times]
    weeks = max(1.0, (until - since) / timedelta(days=7))
    of_week = [_weekly(begin, end) for begin, end in local]
    usual = {one for one, count in Counter(of_week).items() if count >= USUAL * weeks}
    found = _week_words(usual)
    found += [_day_words(*one, since.year) for one, weekly in zip(local, of_week, strict=True) if weekly not in usual]
    more = len(found) - most
    return (
        f"{'; '.join(found[:most])}{f' and {more} more times' if more > 1 else f'; {found[most]}' if more == 1 else ''}"
    )


def moment(at: datetime, zone: ZoneInfo) -> str:
    """A moment in words: "Thu, Nov 26, 08:00"."""
    local = at.astimezone(zone)
    return f"{DAYS[local.weekday()]}, {local:%b} {local.day}, {local:%H:%M}"


def _joined(stretches: Sequence[Stretch]) -> list[tuple[datetime, datetime]]:
    found: list[tuple[datetime, datetime]] = []
    for one in sorted(stretches, key=lambda one: one.since):
        if found and one.since <= found[-1][1]:
            found[-1] = (found[-1][0], max(one.until, found[-1][1]))
        else:
            found.append((one.since, one.until))
    return found


def _weekly(begin: datetime, end: datetime) -> Weekly:
    return begin.weekday(), f"{begin:%H:%M}", (end.date() - begin.date()).days, f"{end:%H:%M}"


def _week_words(times: Collection[Weekly]) -> list[str]:
    """Times of the week in words; the same time of days that follow each other is said once."""
    found: list[str] = []
    alike: dict[tuple[str, int, str], list[int]] = {}
    for day, begins, days, ends in sorted(times):
        alike.setdefault((begins, days, ends), []).append(day)
    for (begins, days, ends), on in alike.items():
        if days > 1 or (days == 1 and ends != "00:00" and ends > begins):
            found += [f"{DAYS[day]} {begins} to {DAYS[(day + days) % 7]} {ends}" for day in on]
        else:
            found.append(f"{_days(on)} {begins}-{'24:00' if ends == '00:00' else ends}")
    return found


def _days(on: Sequence[int]) -> str:
    parts: list[list[int]] = []
    for day in on:
        if parts and day == parts[-1][-1] + 1:
            parts[-1].append(day)
        else:
            parts.append([day])
    return ", ".join(DAYS[one[0]] if len(one) == 1 else f"{DAYS[one[0]]}-{DAYS[one[-1]]}" for one in parts)


def _day_words(begin: datetime, end: datetime, year: int) -> str:
    """One stretch in words; whole days without their hours."""
    if _is_midnight(begin) and _is_midnight(end):
        last = end - timedelta(days=1)
        return _day(begin, year) if last.date() == begin.date() else f"{_day(begin, year)} to {_day(last, year)}"
    head = f"{_day(begin, year)}, {begin:%H:%M}"
    if begin.date() == end.date() or end - begin <= timedelta(days=1):
        return f"{head} to {'24:00' if _is_midnight(end) else f'{end:%H:%M}'}"
    return f"{head} to {_day(end, year)}, {end:%H:%M}"


def _is_midnight(at: datetime) -> bool:
    return f"{at:%H:%M}" == "00:00"


def _day(at: datetime, year: int) -> str:
    """A day in words, with its year where that is another."""
    return f"{DAYS[at.weekday()]}, {at:%b} {at.day}{f', {at.year}' if at.year != year else ''}"
