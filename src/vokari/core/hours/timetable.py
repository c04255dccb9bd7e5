"""What holds at a moment and why, and when it changes: a set of hours made ready to answer.

An instant belongs to a period when its local wall-clock time does. So a skipped hour never happens, and in a repeated
hour the same part of the day is gone through twice.
"""

import copy
import itertools
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Literal, NamedTuple
from zoneinfo import ZoneInfo

from .document import CLOSED, DAY, Day, Exception_, Hours, OneOff, PublicHolidays, Season, Span
from .public_days import public_days

Kind = Literal["", "season", "holiday", "days", "switch"]
"""Why something holds: the week itself (empty), or the kind of exception."""

STRENGTH: dict[Kind, int] = {"season": 1, "holiday": 2, "days": 4}
SEASON_ON_HOLIDAYS = 3
"""A season that is told to hold on holidays too is stronger than they are, and weaker than a one-off day."""


@dataclass(frozen=True, slots=True)
class Ruling:
    """The exception that governs a day: its kind, id and name, the spans that start on the day, whether it cuts."""

    kind: Kind
    id: str
    name: str
    spans: Day
    cuts: bool


@dataclass(frozen=True, slots=True)
class Standing:
    """What holds: a period's id or CLOSED, and the exception that makes it so (empty where the week does)."""

    period: str
    kind: Kind = ""
    id: str = ""
    name: str = ""

    @property
    def is_open(self) -> bool:
        return self.period != CLOSED

    @property
    def is_exception(self) -> bool:
        return self.kind != ""


class Stretch(NamedTuple):
    """From one instant up to another, in UTC, the same holds."""

    since: datetime
    until: datetime
    standing: Standing


@dataclass(frozen=True, slots=True)
class Switch:
    """A temporary switch: from one instant up to another a period, or being closed, holds whatever else would."""

    since: datetime
    until: datetime
    period: str = CLOSED
    id: str = ""
    name: str = ""


class Piece(NamedTuple):
    """A part of a local day, in minutes, in which one thing holds."""

    start: int
    end: int
    standing: Standing


class Timetable:
    """A set of hours in its time zone, with exceptions shared from lists, which come before its own, and switches."""

    def __init__(
        self, hours: Hours, zone: ZoneInfo, shared: Sequence[Exception_] = (), switches: Sequence[Switch] = ()
    ) -> None:
        self.hours = hours
        self.zone = zone
        self.exceptions = (*shared, *hours.exceptions)
        self.switches = tuple(switches)
        self._first = hours.periods[0].id
        self._years: dict[int, dict[int, Ruling]] = {}
        self._standings: dict[Standing, Standing] = {}
        self._days: dict[int, tuple[tuple[int, ...], tuple[Piece, ...]]] = {}

    @property
    def exception_names(self) -> tuple[str, ...]:
        """The names by which an exception can hold, each once: of days and seasons, and of the public holidays that count."""
        found: list[str] = []
        for one in self.exceptions:
            found += (
                [pick.name for pick in one.picked]
                if isinstance(one, PublicHolidays)
                else [one.name]
                if one.name
                else []
            )
        return tuple(dict.fromkeys(found))

    def at(self, instant: datetime) -> Standing:
        """What holds at an aware instant, and why."""
        for switch in reversed(self.switches):
            if switch.since <= instant < switch.until:
                return Standing(switch.period, "switch", switch.id, switch.name)
        local = instant.astimezone(self.zone)
        ordinal = local.toordinal()
        starts, pieces = self._days.get(ordinal) or self._day(ordinal)
        return pieces[bisect_right(starts, local.hour * 60 + local.minute) - 1].standing

    def switched(self, switches: Sequence[Switch]) -> "Timetable":
        """The same with other switches; what is prepared already is shared."""
        other = copy.copy(self)
        other.switches = tuple(switches)
        return other

    def ruling(self, on: date) -> Ruling | None:
        """The exception that governs a day, if one does."""
        return self._year(on.year).get(on.toordinal())

    def spans_on(self, on: date) -> Day:
        """The spans that start on a day, with every period named."""
        ruling = self.ruling(on)
        spans = self.hours.week[on.weekday()] if ruling is None else ruling.spans
        return tuple(self._named(span) for span in spans)

    def pieces(self, on: date) -> tuple[Piece, ...]:
        """The parts of a local day from midnight to midnight, in order and without gaps."""
        return (self._days.get(on.toordinal()) or self._day(on.toordinal()))[1]

    def stretches(self, since: datetime, until: datetime) -> list[Stretch]:
        """What holds from one instant up to another, in order and without gaps; neighbours differ."""
        changes = self._changes(int(since.timestamp()), int(until.timestamp()))
        edges = [since, *(datetime.fromtimestamp(start, UTC) for start, _ in changes[1:]), until]
        whole = list(map(Stretch, edges, edges[1:], (standing for _, standing in changes)))
        for switch in self.switches:
            whole = _overlaid(whole, switch)
        return whole

    def _changes(self, since: int, until: int) -> list[tuple[int, Standing]]:
        """The seconds, since 1970, at which something else begins to hold. Standings are compared by identity: each is
        made once."""
        found: list[tuple[int, Standing]] = []
        before: Standing | None = None
        for start, end, offset in offsets(self.zone, since, until):
            first, last = start + offset, end + offset
            for day in range(first // 86400, (last - 1) // 86400 + 1):
                midnight = day * 86400
                whole = first <= midnight and last >= midnight + 86400
                for low, high, standing in (self._days.get(day + _EPOCH) or self._day(day + _EPOCH))[1]:
                    if standing is before:
                        continue
                    begin = midnight + low * 60
                    if not whole:
                        if midnight + high * 60 <= first or begin >= last:
                            continue
                        begin = max(begin, first)
                    before = standing
                    found.append((begin - offset, standing))
        return found

    def _named(self, span: Span) -> Span:
        return span if span.period else span.model_copy(update={"period": self._first})

    def _standing(self, period: str, ruling: Ruling | None) -> Standing:
        made = Standing(period, ruling.kind, ruling.id, ruling.name) if ruling else Standing(period)
        return self._standings.setdefault(made, made)

    def _day(self, ordinal: int) -> tuple[tuple[int, ...], tuple[Piece, ...]]:
        """Today's spans over the tail of the day before, over being closed."""
        today, yesterday = date.fromordinal(ordinal), date.fromordinal(ordinal - 1)
        ruling, before = self.ruling(today), self.ruling(yesterday)
        marks: list[Standing] = []
        laid: list[tuple[int, int, int]] = []
        closed = self._standing(CLOSED, ruling)
        if not (ruling and ruling.cuts):
            for span in self.spans_on(yesterday):
                if span.end > DAY:
                    laid.append((0, span.end - DAY, len(marks)))
                    marks.append(self._standing(span.period, before))
        for span in self.spans_on(today):
            laid.append((span.start, min(span.end, DAY), len(marks)))
            marks.append(self._standing(span.period, ruling))
        edges = sorted({0, DAY, *(edge for start, end, _ in laid for edge in (start, end))})
        pieces: list[Piece] = []
        for start, end in itertools.pairwise(edges):
            top = max((mark for low, high, mark in laid if low <= start < high), default=-1)
            standing = marks[top] if top >= 0 else closed
            if pieces and pieces[-1].standing is standing:
                pieces[-1] = Piece(pieces[-1].start, end, standing)
            else:
                pieces.append(Piece(start, end, standing))
        made = (tuple(piece.start for piece in pieces), tuple(pieces))
        self._days[ordinal] = made
        return made

    def _year(self, year: int) -> dict[int, Ruling]:
        """The ruling of each exceptional day of a year, by ordinal; the strongest, and of equals the latest, stays."""
        known = self._years.get(year)
        if known is None:
            known = {}
            ranked = sorted(self.exceptions, key=_strength)
            for one in ranked:
                for on, ruling in _days_of(one, year):
                    known[on] = ruling
            self._years[year] = known
        return known


_EPOCH = date(1970, 1, 1).toordinal()


def _strength(one: Exception_) -> int:
    if isinstance(one, Season):
        return SEASON_ON_HOLIDAYS if one.on_holidays else STRENGTH["season"]
    return STRENGTH["days"] if isinstance(one, OneOff) else STRENGTH["holiday"]


def _days_of(one: Exception_, year: int) -> Iterator[tuple[int, Ruling]]:
    """The days of a year on which an exception holds, each with what it brings."""
    if isinstance(one, PublicHolidays):
        picked = {pick.name: pick.spans for pick in one.picked}
        for day in public_days(one.country, one.region, year):
            if day.name in picked and (one.observed or not day.observed):
                yield day.on.toordinal(), Ruling("holiday", one.id, day.name, picked[day.name], one.cuts)
        return
    begins = {first.toordinal() for first, _ in _whole(one, year)}
    kind: Kind = "days" if isinstance(one, OneOff) else "season"
    for first, last in occurrences(one, year):
        for ordinal in range(first.toordinal(), last.toordinal() + 1):
            spans = one.spans if isinstance(one, OneOff) else one.week[(ordinal - 1) % 7]
            yield ordinal, Ruling(kind, one.id, one.name, spans, one.cuts and ordinal in begins)


def occurrences(one: OneOff | Season, year: int) -> list[tuple[date, date]]:
    """The first and last day, both included, of each time that a dated exception holds in a year, cut at its ends."""
    clipped = [(max(first, date(year, 1, 1)), min(last, date(year, 12, 31))) for first, last in _whole(one, year)]
    return [(first, last) for first, last in clipped if first <= last]


def _whole(one: OneOff | Season, year: int) -> list[tuple[date, date]]:
    """The first and last day of each time that a dated exception holds and that may touch a year, wherever it begins."""
    shifts = (year - one.first.year - 1, year - one.first.year) if one.every_year else (0,)
    return [
        (_moved(one.first, shift, later=True), _moved(one.last, shift, later=False)) for shift in shifts if shift >= 0
    ]


def _moved(on: date, years: int, *, later: bool) -> date:
    """The same day so many years on; 29 February becomes 1 March as a first day, and 28 February as a last one."""
    try:
        return on.replace(year=on.year + years)
    except ValueError:
        return date(on.year + years, 3, 1) if later else date(on.year + years, 2, 28)


def _overlaid(stretches: list[Stretch], switch: Switch) -> list[Stretch]:
    """The stretches with a switch laid over them."""
    found: list[Stretch] = []
    inner = Standing(switch.period, "switch", switch.id, switch.name)
    for one in stretches:
        cuts = [one.since, *(edge for edge in (switch.since, switch.until) if one.since < edge < one.until), one.until]
        for since, until in itertools.pairwise(cuts):
            standing = inner if switch.since <= since < switch.until else one.standing
            if found and found[-1].standing == standing:
                found[-1] = Stretch(found[-1].since, until, standing)
            else:
                found.append(Stretch(since, until, standing))
    return found


# the zone


def offsets(zone: ZoneInfo, since: int, until: int) -> Iterator[tuple[int, int, int]]:
    """The parts of a range of instants in which a zone's offset stays: first second, second after the last, offset.

    Instants are seconds since 1970, offsets seconds east of UTC. Looks once a day, as no zone changes twice in one.
    """
    start, offset = since, _offset(zone, since)
    at = since
    while at < until:
        following = min(at + 86400, until)
        later = _offset(zone, following)
        if later != offset:
            turn = _turn(zone, at, following, offset)
            yield start, turn, offset
            start, offset = turn, later
        at = following
    if start < until:
        yield start, until, offset


def _offset(zone: ZoneInfo, at: int) -> int:
    return int(datetime.fromtimestamp(at, zone).utcoffset().total_seconds())  # type: ignore[union-attr]


def _turn(zone: ZoneInfo, low: int, high: int, offset: int) -> int:
    """The second at which an offset ends that holds at `low` and no longer at `high`."""
    while high - low > 1:
        middle = (low + high) // 2
        if _offset(zone, middle) == offset:
            low = middle
        else:
            high = middle
    return high


def open_minutes(week: Sequence[Day], period: str = "") -> int:
    """The minutes a week in which a period holds, or any of them; overlaps of one period count once."""
    covered: set[tuple[int, int]] = set()
    for index, day in enumerate(week):
        for span in day:
            if period in ("", span.period):
                covered.add((index * DAY + span.start, index * DAY + span.end))
    total, reached = 0, 0
    wrapped = sorted((start - turn, end - turn) for start, end in covered for turn in (0, 7 * DAY))
    for start, end in wrapped:
        low, high = max(start, reached, 0), min(end, 7 * DAY)
        if high > low:
            total += high - low
            reached = high
    return total


def opened_for(stretches: Sequence[Stretch]) -> timedelta:
    """How long anything is open in these stretches."""
    return sum((one.until - one.since for one in stretches if one.standing.is_open), timedelta())
