"""Hours in words: what holds now, why and until when, as one sentence; the next changes; a week read back."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from .timetable import Standing, Stretch, Timetable

FAR = timedelta(days=400)
NEAR = timedelta(days=15)


@dataclass(frozen=True, slots=True)
class Now:
    """What holds at a moment: the standing, until when (None: for the next year), and what holds then."""

    standing: Standing
    until: datetime | None
    following: Standing | None


def now(timetable: Timetable, at: datetime) -> Now:
    """What holds at an instant and what comes after it. Exceptions that change nothing of the times do not count."""
    for reach in (NEAR, FAR):
        stretches = timetable.stretches(at, at + reach)
        other = next((one for one in stretches if one.standing.period != stretches[0].standing.period), None)
        if other is not None:
            return Now(stretches[0].standing, other.since, other.standing)
    return Now(stretches[0].standing, None, None)


def changes(timetable: Timetable, since: datetime, until: datetime) -> list[Stretch]:
    """The moments at which another period, or being closed, begins to hold, the first stretch being what holds at once."""
    found: list[Stretch] = []
    for one in timetable.stretches(since, until):
        if found and found[-1].standing.period == one.standing.period:
            found[-1] = Stretch(found[-1].since, one.until, found[-1].standing)
        else:
            found.append(one)
    return found


def sentence(timetable: Timetable, at: datetime, zone: ZoneInfo | None = None) -> str:
    """What holds, why and until when: "Closed (Thanksgiving Day), opens tomorrow 07:30"; told in another zone if wanted."""
    known = now(timetable, at)
    names = timetable.hours.names
    zone = zone or timetable.zone
    what = _called(known.standing, names)
    why = reason(known.standing)
    head = f"{what} ({why})" if why else what
    if known.until is None or known.following is None:
        return f"{head}, for the next year" if known.standing.is_open else f"{head}, with no opening in the next year"
    when = when_words(known.until, at, zone)
    if not known.following.is_open:
        return f"{head}, closes {when}"
    if not known.standing.is_open:
        opens = f"{head}, opens {when}"
        return opens if len(timetable.hours.periods) == 1 else f"{opens} ({names.get(known.following.period, '')})"
    return f"{head} until {when}, then {names.get(known.following.period, '')}"


def _called(standing: Standing, names: dict[str, str]) -> str:
    return f"{names.get(standing.period, standing.period)} open" if standing.is_open else "Closed"


def reason(standing: Standing) -> str:
    """The exception that makes it so, in a few words; empty where the week does."""
    usual = {"": "", "season": "a season", "holiday": "a holiday", "days": "an exception", "switch": "a switch"}
    return standing.name or usual[standing.kind]


def when_words(moment: datetime, at: datetime, zone: ZoneInfo) -> str:
    """A moment to come, seen from another: "18:30", "tomorrow 07:30", "Mon 07:30", "Mon, Jan 4, 07:30"."""
    local, today = moment.astimezone(zone), at.astimezone(zone).date()
    days = (local.date() - today).days
    if days <= 0:
        return f"{local:%H:%M}"
    if days == 1:
        return f"tomorrow {local:%H:%M}"
    if days < 7:
        return f"{local:%a %H:%M}"
    year = f" {local.year}" if local.year != today.year else ""
    return f"{local:%a}, {local:%b} {local.day}{year}, {local:%H:%M}"


def length(minutes: float) -> str:
    """Minutes as "42 h 30 min"."""
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest} min" if hours and rest else f"{hours} h" if hours else f"{rest} min"
