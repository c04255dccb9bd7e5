"""Hours from iCalendar files (RFC 5545): rules without an end make the week, rules with one make seasons, what is left
makes exceptions; and what cannot be said in hours is listed, never dropped in silence.

Recurrences are worked out by recurring-ical-events; what is here decides what they mean for a client's hours.
"""

import math
from collections.abc import Iterable, Sequence
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from typing import Any
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events
from icalendar import Event

from ..core.hours.document import DAY
from ..core.hours.gathered import Calendar, Gathered, Rule, Yearly

LARGEST = 1_000_000
MOST_EVENTS = 1500
MOST_TURNS = 60_000
"""How many times all events of a file may come before they are too many."""
AHEAD = timedelta(days=396)
"""Thirteen months: how far ahead events that come again are taken one by one."""
OLDEST = date(1990, 1, 1)

CLOSED_WORDS = ("closed", "closure", "shut", "holiday")
_PARTS = {"VTODO": "a task", "VJOURNAL": "a journal entry", "VFREEBUSY": "busy times", "VALARM": "an alarm"}
_SIMPLE_WEEKLY = {"FREQ", "BYDAY", "INTERVAL", "WKST", "UNTIL", "COUNT"}
_WEEKDAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")


def read(data: bytes, zone: ZoneInfo, first: date, periods: Iterable[str] = ()) -> Calendar | str:
    """Reads a file for a set of hours in a zone, from a day on; a sentence says why it cannot be read at all.

    A whole-day event closes, unless it is called as one of `periods`; a timed one opens the period of its name, unless
    its name says that it closes.
    """
    if len(data) > LARGEST:
        return f"This file is too large: at most {LARGEST // 1_000_000} MB."
    try:
        parsed = icalendar.Calendar.from_ical(data)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError, RecursionError) as error:
        said = str(error).splitlines()[0][:120] if str(error) else "it has no calendar in it"
        return f"This is no iCalendar file: {said}"
    if parsed.name != "VCALENDAR":
        return "This is no iCalendar file: it does not begin with a calendar."
    events = parsed.walk("VEVENT")
    if len(events) > MOST_EVENTS:
        return f"This file has {len(events)} events; at most {MOST_EVENTS} are read."
    known = {name.casefold() for name in periods}
    last = first + AHEAD
    left_out = [
        f"{_PARTS[part.name].capitalize()} is left out: “{_summary(part)}”."
        for part in parsed.walk()
        if part.name in _PARTS
    ]
    made = Calendar(str(parsed.get("X-WR-CALNAME", parsed.get("NAME", "")))[:60], first, last, [], [], {}, left_out)
    kept = []
    for event in events:
        wrong = _problem_of(event)
        if wrong:
            left_out.append(f"“{_summary(event)}” is left out: {wrong}.")
        else:
            kept.append(event)
    turns = sum(_turns(event, last) for event in kept)
    if turns > MOST_TURNS:
        return f"Its events come {turns} times until {last.isoformat()}; at most {MOST_TURNS} are read."
    for event in kept:
        _take_rule(made, event, zone, known)
    wrong = _expand(made, kept, zone, known)
    return wrong or made


def _summary(event: Any) -> str:
    return " ".join(str(event.get("SUMMARY", "")).split())[:60] or "without a name"


def _problem_of(event: Event) -> str:
    """Why an event cannot be taken; empty when it can."""
    if event.errors:
        name, said = event.errors[0]
        return f"its {name or 'content'} cannot be read ({str(said)[:80]})"
    start = _value(event, "DTSTART")
    if start is None:
        return "it has no start"
    if str(event.get("STATUS", "")).upper() == "CANCELLED":
        return "it is canceled" if event.get("RECURRENCE-ID") is None else ""
    if str(event.get("TRANSP", "")).upper() == "TRANSPARENT" and isinstance(start, datetime):
        return "it is marked as free time"
    length = _length(event, start)
    if length <= timedelta():
        return "it has no length"
    if isinstance(start, datetime) and length > timedelta(days=1):
        return "it is longer than 24 hours"
    rules = event.get("RRULE")
    if isinstance(rules, list):
        return "it has two rules of recurrence"
    if event.get("EXRULE") is not None:
        return "rules of exclusion (EXRULE) are not read"
    if rules is None:
        return ""
    frequency = str(rules.get("FREQ", [""])[0]).upper()
    if frequency in ("SECONDLY", "MINUTELY", "HOURLY"):
        return f"it comes again {frequency.lower()}"
    if frequency not in ("DAILY", "WEEKLY", "MONTHLY", "YEARLY"):
        return "its rule says no frequency that is known"
    if any(not isinstance(one, int) or one < 1 for one in rules.get("INTERVAL", [1])):
        return "its rule has no interval that can be (RFC 5545, 3.3.10: 1 or more)"
    if _day(start) < OLDEST:
        return f"it comes again since {_day(start).year}: too long ago"
    return ""


def _value(event: Event, name: str) -> date | datetime | None:
    found = event.get(name)
    value = getattr(found, "dt", None)
    return value if isinstance(value, date) else None


def _day(value: date | datetime) -> date:
    return value.date() if isinstance(value, datetime) else value


def _length(event: Event, start: date | datetime) -> timedelta:
    """How long an event is on the wall clock; a whole-day one without an end is a day long (RFC 5545, 3.6.1)."""
    end = _value(event, "DTEND")
    duration = getattr(event.get("DURATION"), "dt", None)
    if isinstance(duration, timedelta):
        return duration
    if end is None:
        return timedelta() if isinstance(start, datetime) else timedelta(days=1)
    if isinstance(start, datetime) != isinstance(end, datetime):
        return timedelta()
    if isinstance(start, datetime) and isinstance(end, datetime):
        if (start.tzinfo is None) != (end.tzinfo is None):
            return timedelta()
        if start.tzinfo != end.tzinfo:
            return end - start
        return end.replace(tzinfo=None) - start.replace(tzinfo=None)
    return end - start


def _turns(event: Event, last: date) -> int:
    """About how often an event comes until a day, which bounds the work."""
    rule = event.get("RRULE")
    dates = sum(len(getattr(one, "dts", [])) for one in _several(event.get("RDATE")))
    if rule is None:
        return 1 + dates
    days = max(0, (last - _day(event["DTSTART"].dt)).days)
    each = {"DAILY": 1, "WEEKLY": 7, "MONTHLY": 30, "YEARLY": 365}[str(rule["FREQ"][0]).upper()]
    widened = each if any(name.startswith("BY") for name in rule) and each > 1 else 1
    a_day = math.prod(max(1, len(rule.get(name, []))) for name in ("BYHOUR", "BYMINUTE", "BYSECOND"))
    return (days * widened // each + 1) * a_day + dates


def _several(value: Any) -> list[Any]:
    return [] if value is None else value if isinstance(value, list) else [value]


def _take_rule(made: Calendar, event: Event, zone: ZoneInfo, known: set[str]) -> None:
    """Keeps what an event says of all weeks or all years; sentences for what goes on past the last day."""
    rule, start = event.get("RRULE"), event["DTSTART"].dt
    if rule is None or event.get("RECURRENCE-ID") is not None:
        return
    until = rule.get("UNTIL", [None])[0]
    ends = _day(until) if until is not None else None
    endless = until is None and rule.get("COUNT") is None
    frequency = str(rule["FREQ"][0]).upper()
    whole = not isinstance(start, datetime)
    simple = set(rule) <= {"FREQ", "INTERVAL"} and rule.get("INTERVAL", [1])[0] == 1
    if frequency == "YEARLY" and whole and endless and simple and not _opens(event, known):
        made.yearly.append(Yearly(_called(event), start, max(1, _length(event, start).days)))
        return
    weekdays = _weekly_days(rule, frequency, start)
    if (
        weekdays
        and (whole or _same_clock(start.tzinfo, zone, made.first))
        and (not whole or _length(event, start).days == 1)
    ):
        minutes = None
        if isinstance(start, datetime):
            begins = start.hour * 60 + start.minute
            minutes = (begins, begins + max(1, int(_length(event, start).total_seconds()) // 60))
        elif _opens(event, known):
            minutes = (0, DAY)
        made.rules.append(Rule(
            _called(event), weekdays, minutes, _day(start), None if endless else ends or made.last, not _opens(event, known)
        ))  # fmt: skip
        if not endless or _day(start) <= made.first + timedelta(days=6):
            return
    if endless or (ends and ends > made.last):
        made.left_out.append(f"“{_summary(event)}” goes on after {made.last.isoformat()}: it is taken up to then.")


def _weekly_days(rule: Any, frequency: str, start: date | datetime) -> frozenset[int]:
    """The weekdays of a rule that is the same each week; empty for any other."""
    if frequency not in ("DAILY", "WEEKLY") or set(rule) - _SIMPLE_WEEKLY or rule.get("INTERVAL", [1])[0] != 1:
        return frozenset()
    named = [str(one) for one in rule.get("BYDAY", [])]
    if any(one not in _WEEKDAYS for one in named):
        return frozenset()
    if named:
        return frozenset(_WEEKDAYS.index(one) for one in named)
    return frozenset(range(7)) if frequency == "DAILY" else frozenset({start.weekday()})


def _same_clock(theirs: tzinfo | None, zone: ZoneInfo, first: date) -> bool:
    """Whether a zone shows the same wall clock as the set's through the time that is read; times without one do."""
    if theirs is None:
        return True
    noons = (datetime.combine(first + timedelta(days=step), time(12)) for step in range(0, AHEAD.days, 5))
    return all(theirs.utcoffset(noon) == zone.utcoffset(noon) for noon in noons)


def _opens(event: Event, known: set[str]) -> bool:
    summary = _summary(event).casefold()
    if _closing(summary):
        return False
    return isinstance(event["DTSTART"].dt, datetime) or summary in known


def _closing(summary: str) -> bool:
    return any(summary.startswith(word) for word in CLOSED_WORDS)


def _called(event: Event) -> str:
    """The name of a period or a closure: "Closed: Staff outing" is called Staff outing."""
    summary = _summary(event)
    head, colon, rest = summary.partition(":")
    if colon and rest.strip() and _closing(head.casefold()):
        return rest.strip()
    return "" if summary == "without a name" else summary


def _expand(made: Calendar, events: Sequence[Event], zone: ZoneInfo, known: set[str]) -> str:
    """Fills the days one by one."""
    plain = icalendar.Calendar()
    for event in events:
        rule = event.get("RRULE")
        if rule is not None and "UNTIL" not in rule and "COUNT" not in rule:
            start = event["DTSTART"].dt
            end = made.last + timedelta(days=2)
            timed = isinstance(start, datetime)
            rule["UNTIL"] = [datetime.combine(end, time(), UTC) if timed and start.tzinfo else datetime.combine(end, time()) if timed else end]  # fmt: skip
        plain.add_component(event)
    try:
        found = recurring_ical_events.of(plain).between(made.first - timedelta(days=2), made.last + timedelta(days=1))
    except (ValueError, TypeError, KeyError, OverflowError, AttributeError) as error:
        return f"Its recurrences cannot be worked out: {str(error)[:120]}"
    if len(found) > MOST_TURNS:
        return f"Its events come {len(found)} times until {made.last.isoformat()}; at most {MOST_TURNS} are read."
    rounded = set()
    for event in found:
        if str(event.get("STATUS", "")).upper() == "CANCELLED":
            continue
        start, end = event["DTSTART"].dt, event["DTEND"].dt
        if not isinstance(start, datetime):
            for step in range(min(max(1, (end - start).days), AHEAD.days + 3)):
                _whole_day(made, event, start + timedelta(days=step), known)
            continue
        local, until = _local(start, zone), _local(end, zone)
        if local.second or until.second:
            rounded.add(_summary(event))
        _timed(made, event, local, until, known)
    made.left_out.extend(f"“{name}” has seconds, which are dropped." for name in sorted(rounded))
    eve = made.first - timedelta(days=1)
    for on in [on for on in made.days if not eve <= on <= made.last]:
        del made.days[on]
    if eve in made.days:
        made.days[eve] = made.days[eve].tail()
    return ""


def _local(moment: datetime, zone: ZoneInfo) -> datetime:
    """The set's own wall clock; a time without a zone is on it already."""
    return moment.astimezone(zone).replace(tzinfo=None) if moment.tzinfo else moment


def _whole_day(made: Calendar, event: Event, on: date, known: set[str]) -> None:
    day = made.days.setdefault(on, Gathered())
    if _opens(event, known):
        day.opened.append((_called(event), 0, DAY))
    else:
        day.closed = day.closed or _called(event)


def _timed(made: Calendar, event: Event, start: datetime, end: datetime, known: set[str]) -> None:
    begins = start.hour * 60 + start.minute
    lasts = int((end.replace(second=0) - start.replace(second=0)).total_seconds()) // 60
    if lasts <= 0:
        return
    day = made.days.setdefault(start.date(), Gathered())
    ends = begins + min(lasts, DAY)
    if _opens(event, known):
        day.opened.append((_called(event), begins, ends))
    else:
        day.cut.append((begins, ends))
