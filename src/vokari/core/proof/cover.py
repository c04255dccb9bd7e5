"""Cover: who would be rung at each time, and what becomes of callers if nobody answers, as the walk shows it."""

from bisect import bisect_left, bisect_right
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from functools import cached_property, reduce
from operator import or_

from ..calls.fates import Fate, ending
from ..flows.model.steps import Menu
from .claims import LATE, loses
from .situations import Edge
from .times import bits
from .walk import Walk

TOLD: tuple[Fate, ...] = ("lost", "message_left", "served", "turned_away")
"""Which fate is told of a time in which several can come: what is lost must be seen, and a message is what callers who want a person leave."""
NEAR = timedelta(days=60)
"""Exceptional days that lie further apart are told apart."""
SECOND = timedelta(seconds=1)
NOTHING = ""
"""The key of those who press nothing."""


@dataclass(frozen=True, slots=True)
class Cover:
    """Who would be rung, in the order of their names, and the fate if nobody answers (empty: the call never ends there, or no call comes)."""

    who: tuple[str, ...]
    fate: Fate | str

    @property
    def is_gap(self) -> bool:
        """Whether callers are lost."""
        return self.fate == "lost"

    @property
    def is_thin(self) -> bool:
        """Whether one person is all there is."""
        return len(self.who) == 1


@dataclass(frozen=True, slots=True)
class Covered:
    """A stretch of time with its cover."""

    since: datetime
    until: datetime
    cover: Cover


@dataclass(frozen=True, slots=True)
class Exceptional:
    """Days on which an exception of a name holds and the cover is the same by the clock: the stretches of the first of them."""

    days: tuple[date, ...]
    name: str
    stretches: tuple[Covered, ...]


@dataclass(frozen=True, slots=True)
class Line:
    """What one key of a menu, or pressing nothing, comes to: the step it leads to, and the cover in each period by id; in those in which nobody comes to
    the menu (`unasked`), that of all calls."""

    menu: str
    keys: str
    name: str
    to: str
    cells: Mapping[str, Cover]
    unasked: frozenset[str]


class Covers:
    """Worked out of a walk when it is asked for."""

    def __init__(self, walk: Walk) -> None:
        self.walk = walk

    @cached_property
    def _time(self) -> list[int]:
        """For each situation the cells of time in which a call that nobody has answered comes to it, at the moment it is made."""
        return self._from({0: self.walk.world.times.first})

    def _from(self, starts: Mapping[int, int], but: str = "") -> list[int]:
        """The same of calls that go on from some situations; where there is a step from which they do not go on again, none goes round."""
        walk = self.walk
        time = [0] * len(walk.situations)
        for index, mask in starts.items():
            time[index] |= mask
        todo = [*starts]
        while todo:
            at = todo.pop()
            for edge in walk.edges[at]:
                came = time[at] & edge.time if edge.event is not None and not (but and edge.limit) else 0
                if came | time[edge.target] == time[edge.target] or self._answers(edge):
                    continue
                back = any(step == but for _, step in edge.way)
                # Who comes back has heard what was said on the way; where they go on to with keys pressed early is told of those keys.
                if not back or edge.way[-1][1] == but:
                    time[edge.target] |= came
                if not back:
                    todo.append(edge.target)
        return time

    def _answers(self, edge: Edge) -> bool:
        """Whether somebody answers then, or the caller chooses not to be helped."""
        before, after = self.walk.situations[edge.source], self.walk.situations[edge.target]
        return (after.state.answered and not before.state.answered) or (after.declined and not before.declined)

    def _said(self, time: Sequence[int]) -> tuple[dict[str, int], dict[Fate, int]]:
        """The cells of time in which each phone can ring, and in which each fate can come."""
        who: dict[str, int] = {}
        fates: dict[Fate, int] = {}
        for situation, mask in zip(self.walk.situations, time, strict=True):
            if not mask:
                continue
            state = situation.state
            came = {ending(state, LATE).fate} if state.ended else set[Fate]()
            came |= {state.said} if state.said else set()
            for fate in came if loses(self.walk, situation) else came - {"lost"}:
                fates[fate] = fates.get(fate, 0) | mask
            for leg in state.ring.legs if state.ring else ():
                name = leg.rung.name or leg.rung.to if leg.rung else self._name(state.at, leg.destination)
                who[name] = who.get(name, 0) | mask
        return who, fates

    def _name(self, step: str, index: int) -> str:
        phone = self.walk.flow.steps[step].to[index]  # type: ignore[union-attr, index]
        return str(getattr(phone, "name", "") or getattr(phone, "number", "") or getattr(phone, "address", ""))

    def _of(self, said: tuple[dict[str, int], dict[Fate, int]], mask: int) -> Cover:
        who, fates = said
        fate = next((one for one in TOLD if fates.get(one, 0) & mask), "")
        return Cover(tuple(sorted(name for name, cells in who.items() if cells & mask)), fate)

    @cached_property
    def _cells(self) -> dict[int, Cover]:
        said = self._said(self._time)
        return {cell: self._of(said, 1 << cell) for cell in bits(self.walk.world.times.first)}

    @cached_property
    def whole(self) -> list[Covered]:
        """All the time that was walked, in order; neighbours differ."""
        times = self.walk.world.times
        by_place = {place: cell for cell in self._cells for place in times.beginnings(1 << cell)}
        found: list[Covered] = []
        for place, one in enumerate(times.whole):
            cover = self._cells[by_place[place]]
            if found and found[-1].cover == cover:
                found[-1] = Covered(found[-1].since, one.until, cover)
            else:
                found.append(Covered(one.since, one.until, cover))
        return found

    def between(self, since: datetime, until: datetime) -> list[Covered]:
        """The part of it from one instant up to another."""
        first = bisect_right(self.whole, since, key=lambda one: one.until)
        last = bisect_left(self.whole, until, key=lambda one: one.since)
        return [Covered(max(one.since, since), min(one.until, until), one.cover) for one in self.whole[first:last]]

    @cached_property
    def exceptions(self) -> list[Exceptional]:
        """The days on which an exception of hours holds that the flow asks, or that those have whom it rings, with their cover."""
        times = self.walk.world.times
        names: dict[date, set[str]] = {}
        for table in self.walk.world.tables.values():
            for begins, ends, standing in table.stretches(times.since, times.until):
                day, last = begins.astimezone(times.zone).date(), (ends - SECOND).astimezone(times.zone).date()
                while standing.is_exception and day <= last:
                    names.setdefault(day, set()).add(standing.name)
                    day += timedelta(days=1)
        found: list[Exceptional] = []
        alike: dict[Hashable, int] = {}
        for day in sorted(names):
            name, stretches = ", ".join(sorted(names[day] - {""})), self._day(day)
            clock = tuple((one.since.astimezone(times.zone).time(), one.cover) for one in stretches)
            place = alike.get((name, clock))
            if place is not None and day - found[place].days[-1] < NEAR:
                found[place] = replace(found[place], days=(*found[place].days, day))
            else:
                alike[name, clock] = len(found)
                found.append(Exceptional((day,), name, stretches))
        return found

    def _day(self, day: date) -> tuple[Covered, ...]:
        zone = self.walk.world.times.zone
        begins, ends = (datetime(one.year, one.month, one.day, tzinfo=zone) for one in (day, day + timedelta(days=1)))
        return tuple(self.between(begins, ends))

    @cached_property
    def lines(self) -> list[Line]:
        """The keys of the menus that callers come to first, each with its cover in each period."""
        walk, flow = self.walk, self.walk.flow
        starts: dict[tuple[str, str], dict[int, int]] = {}
        seen, todo = {0}, [0]
        while todo:
            at = todo.pop()
            here = flow.steps.get(walk.situations[at].state.at)
            for edge in walk.edges[at]:
                mask = self._time[at] & edge.time if edge.event is not None else 0
                if not mask or self._answers(edge):
                    continue
                if isinstance(here, Menu) and edge.way:
                    if edge.limit or any(step == here.id for _, step in edge.way):
                        continue
                    begun = starts.setdefault((here.id, edge.way[0][0]), {})
                    begun[edge.target] = begun.get(edge.target, 0) | mask
                elif edge.target not in seen:
                    seen.add(edge.target)
                    todo.append(edge.target)
        found: list[Line] = []
        of_all = self._said(self._time)
        for step in flow.document.steps:
            if not isinstance(step, Menu):
                continue
            ways = [(one.id, one.keys, one.name, one.to) for one in step.branches]
            ways.append(("nothing", NOTHING, "", step.nothing))
            for by, keys, name, to in ways:
                if (step.id, by) not in starts:
                    continue
                come = starts[step.id, by]
                asked = reduce(or_, come.values())
                unasked = frozenset(label for label, mask in self.periods.items() if not asked & mask)
                said = self._said(self._from(come, step.id))
                cells = {
                    label: self._of(of_all if label in unasked else said, mask) for label, mask in self.periods.items()
                }
                found.append(Line(step.id, keys, name, to or "", cells, unasked))
        return found

    @cached_property
    def hours(self) -> str:
        """The set of hours by which the flow asks for most periods; empty where it asks for none."""
        times = self.walk.world.times
        keys = {key for cell in bits(times.first) for key in times.cells.each[cell].holds}
        return max(sorted(keys), key=lambda key: len(self._periods(key)), default="")

    @cached_property
    def periods(self) -> dict[str, int]:
        """The cells of time of each of its periods ("closed": of none), as far as no exception holds."""
        return self._periods(self.hours)

    def _periods(self, hours: str) -> dict[str, int]:
        times = self.walk.world.times
        found: dict[str, int] = {}
        for cell in bits(times.first):
            period, exceptional = times.cells.each[cell].holds.get(hours, ("", False))
            if not exceptional:
                found[period] = found.get(period, 0) | 1 << cell
        return found
