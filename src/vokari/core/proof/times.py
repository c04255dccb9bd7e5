"""The time that a proof looks at, as cells: kinds of stretches in which all hours, dates and people's times say the same, with what may follow
within one call."""

import itertools
from collections.abc import Callable, Hashable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from ..flows.model.dates import in_ranges, spans
from ..flows.model.steps import HoldLine, Ring
from ..flows.questions.knowledge import Cells, Moment
from ..flows.running.flow import Flow
from ..hours.in_place import week_table
from ..hours.timetable import Timetable

PASSES = 3
"""How many edges of stretches one call is followed over."""


@dataclass(frozen=True, slots=True)
class Asked:
    """What of time a flow asks: sets of hours by key, those of them whose exceptions it names, ranges of dates and weeks typed in place; `duty`
    are sets of hours of which it only matters whether they are open, and `days` those on which people come or go, with what tells them
    apart."""

    hours: Mapping[str, Timetable]
    exceptions: frozenset[str] = frozenset()
    ranges: tuple[str, ...] = ()
    weeks: tuple[str, ...] = ()
    duty: Mapping[str, Timetable] = field(default_factory=dict)
    edges: frozenset[date] = frozenset()
    of_day: Callable[[date], Hashable] = lambda _: None


@dataclass(frozen=True, slots=True)
class Stretch:
    """From one instant up to another, in UTC; `kind` is the number of what holds then."""

    since: datetime
    until: datetime
    kind: int


class Times:
    """The cells of time. A call begins in one of the `first`; each of those stands for all stretches after which the same can
    follow within a call of at most `longest`. When time passes a call is in the next cell of its chain."""

    def __init__(
        self, asked: Asked, zone: ZoneInfo, since: datetime, until: datetime, longest: timedelta = timedelta(hours=1)
    ) -> None:
        self.zone, self.since, self.until = zone, since, until
        self.whole, kinds = _stretches(asked, zone, since, until)
        chains: dict[tuple[int, ...], list[int]] = {}
        for index in range(len(self.whole)):
            chains.setdefault(_chain(self.whole, index, longest), []).append(index)
        moments: list[Moment] = []
        self._next: list[int] = []
        self._begins: list[int] = []
        self._places: dict[int, list[int]] = {}
        self.first = 0
        for chain, found in chains.items():
            begins = len(moments)
            self._places[begins] = found
            self.first |= 1 << begins
            for place, kind in enumerate(chain):
                moments.append(kinds[kind])
                self._next.append(begins + place + 1 if place + 1 < len(chain) else -1)
                self._begins.append(begins)
        self.cells = Cells(moments)
        self._passed: dict[int, int] = {}

    def seen_by(self, see: Callable[[Moment], Moment]) -> "Times":
        """The same time with what some of it looks like to somebody else, cell by cell."""
        found = copy(self)
        found.cells = Cells([see(one) for one in self.cells.each])
        return found

    @property
    def structure(self) -> list[object]:
        """What tells these cells from others, as JSON-ready values: when which kind of stretch begins, and what may follow what."""
        begins = [(one.since.timestamp(), one.kind) for one in self.whole]
        return [begins, self.until.timestamp(), self._next, self._begins, sorted(self._places.items())]

    def passed(self, time: int) -> int:
        """The cells in which calls are that time passes for, of those in which they were."""
        found = self._passed.get(time)
        if found is None:
            found = sum(1 << after for index in bits(time) if (after := self._next[index]) >= 0)
            self._passed[time] = found
        return found

    def following(self, index: int) -> list[int]:
        """A cell and those that may follow it in a call."""
        found = [index]
        while (after := self._next[found[-1]]) >= 0:
            found.append(after)
        return found

    def parts(self, labels: Sequence[Hashable]) -> tuple[int, ...]:
        """The cells in parts, in each of which the same follows within a call, of what each cell is labelled with: an edge of time at which the
        label stays is none."""
        found: dict[Hashable, int] = {}
        for index in range(len(labels)):
            way = tuple(label for label, _ in itertools.groupby(labels[one] for one in self.following(index)))
            found[way] = found.get(way, 0) | 1 << index
        return tuple(found.values())

    def during(self, time: int) -> list[Stretch]:
        """The stretches in which calls are that are in some cells, in order."""
        return [self.whole[place] for place in sorted(self._during(time))]

    def outside(self, time: int) -> list[Stretch]:
        """All other stretches, in order."""
        inside = self._during(time)
        return [one for place, one in enumerate(self.whole) if place not in inside]

    def _during(self, time: int) -> set[int]:
        return {
            place + index - self._begins[index] for index in bits(time) for place in self._places[self._begins[index]]
        }  # fmt: skip

    def beginnings(self, time: int) -> list[int]:
        """The places, among all stretches, in which calls may have begun that are in some cells now, in order."""
        return sorted({place for index in bits(time) for place in self._places[self._begins[index]]})


LONGEST, TALK = timedelta(hours=2), timedelta(hours=1)


def longest(flow: Flow) -> timedelta:
    """How long a call may take as far as times that pass meanwhile are looked at: each step once and every wait to its end, at most two hours,
    and an hour of talk where something follows it."""
    seconds = 0.0
    for step in flow.steps.values():
        if isinstance(step, HoldLine):
            seconds += step.longest_wait + 60
        elif isinstance(step, Ring):
            seconds += 60 * max(1, len(step.to)) * step.rounds
        else:
            seconds += 60
    talks = any(isinstance(one, Ring | HoldLine) and one.after in flow.steps for one in flow.steps.values())
    return min(LONGEST, timedelta(seconds=seconds)) + (TALK if talks else timedelta())


def bits(mask: int) -> list[int]:
    """The places of the bits that are set."""
    found = []
    while mask:
        low = mask & -mask
        found.append(low.bit_length() - 1)
        mask ^= low
    return found


def lowest(mask: int) -> int:
    """The place of the first bit that is set."""
    return (mask & -mask).bit_length() - 1


def _chain(whole: Sequence[Stretch], index: int, longest: timedelta) -> tuple[int, ...]:
    """The kinds of a stretch and of those that a call which begins in it may come to."""
    chain, meanwhile = [whole[index].kind], timedelta()
    for one in whole[index + 1 : index + 1 + PASSES]:
        if meanwhile >= longest:
            break
        chain.append(one.kind)
        meanwhile += one.until - one.since
    return tuple(chain)


def _stretches(
    asked: Asked, zone: ZoneInfo, since: datetime, until: datetime
) -> tuple[list[Stretch], list[Moment]]:  # fmt: skip
    """The stretches of a time, and a moment of each kind of them."""
    first, last = since.astimezone(zone).date(), until.astimezone(zone).date()
    days = set(asked.edges)
    days |= {
        edge for text in asked.ranges for begins, ends in spans(text, first, last) for edge in (begins, ends + timedelta(days=1))
    }  # fmt: skip
    weeks = {text: table for text in asked.weeks if (table := week_table(text, zone)) is not None}
    changes: dict[datetime, dict[tuple[str, str], Hashable]] = {since: {}}
    for name, tables in (("hours", asked.hours), ("week", weeks), ("duty", asked.duty)):
        for key, table in tables.items():
            for begins, _, standing in table.stretches(since, until):
                said: Hashable = standing.is_open
                if name == "hours":
                    said = (
                        standing.period, standing.is_exception,
                        standing.name if key in asked.exceptions and standing.is_exception else "",
                    )  # fmt: skip
                changes.setdefault(begins, {})[name, key] = said
    for day in days:
        at = datetime(day.year, day.month, day.day, tzinfo=zone).astimezone(since.tzinfo)
        if since < at < until:
            changes.setdefault(at, {})
    now: dict[tuple[str, str], Hashable] = {}
    numbers: dict[Hashable, int] = {}
    kinds: list[Moment] = []
    found: list[Stretch] = []
    edges = [*sorted(changes), until]
    for at, ends in itertools.pairwise(edges):
        now |= changes[at]
        day = at.astimezone(zone).date()
        what = (*now.items(), *(in_ranges((text,), day) for text in asked.ranges), asked.of_day(day))
        kind = numbers.setdefault(what, len(numbers))
        if kind == len(kinds):
            kinds.append(_moment(at, day, now))
        if found and found[-1].kind == kind:
            found[-1] = Stretch(found[-1].since, ends, kind)
        else:
            found.append(Stretch(at, ends, kind))
    return found, kinds


def _moment(at: datetime, day: date, now: Mapping[tuple[str, str], Hashable]) -> Moment:
    hours = {key: said for (name, key), said in now.items() if name == "hours"}
    return Moment(
        at,
        {key: (said[0], said[1]) for key, said in hours.items()},  # type: ignore[index]
        day,
        frozenset(key for (name, key), said in now.items() if name == "week" and said),
        {key: said[2] for key, said in hours.items() if said[1]},  # type: ignore[index]
    )
