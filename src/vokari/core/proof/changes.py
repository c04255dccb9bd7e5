"""What changes for callers from one version of a flow to another, the largest first."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, reduce
from operator import or_
from typing import NamedTuple

from ..calls.fates import FATES, Fate, ending
from ..flows.running.events import Digit, Leg, Recorded, Silence
from ..flows.running.flow import Flow
from .abreast import Abreast, Edge, Pair
from .claims import LATE
from .joint import worlds
from .observed import Unlike
from .situations import Situation
from .spreading import reached, spread
from .walk import MOST, MOST_STEPS, Walk
from .world import Client, World

MOST_ROOTS = 40
"""Situations that are followed from one way of going apart."""
NOBODY = "nobody answers"
ROUND = "the call has gone round too often"
_AFTER: Mapping[str, str] = {
    "answered": "somebody picks up", "accepted": "somebody takes the call", "refused": "the key is not pressed", "busy": "a phone is busy",
    "declined": "somebody declines", "rang_out": NOBODY, "unreachable": "a phone is unreachable", "machine": "a mailbox answers",
    "ended": "the talk is over",
}  # fmt: skip


class Met(NamedTuple):
    """Where a difference is met: by which keys, after what then happened ("" for nothing but the keys), in which cells of time and numbers, by whom."""

    keys: str
    after: str
    time: int
    number: int
    told: frozenset[tuple[Hashable, Hashable]]
    effort: int


@dataclass(frozen=True)
class Change:
    """One difference, with where it is met, and where calls go apart by it, the fates that can follow, before and now."""

    unlike: Unlike
    met: tuple[Met, ...]
    fates_before: tuple[Fate, ...] = ()
    fates_after: tuple[Fate, ...] = ()

    @property
    def time(self) -> int:
        return reduce(or_, (one.time for one in self.met), 0)


@dataclass
class Changes:
    """What two versions differ in for callers, worked out of a walk of both."""

    abreast: Abreast

    @property
    def compared(self) -> bool:
        """Whether everything was compared."""
        return not self.abreast.unwalked

    @property
    def limits(self) -> tuple[int, int] | None:
        """How often a call may enter one step before it goes to the rescue, before and now, where that differs and calls can go round."""
        before, after = self.abreast.before.flow, self.abreast.after.flow
        pairs = [(before.document, after.document)]
        pairs += [(one, after.inner[key]) for key, one in sorted(before.inner.items()) if key in after.inner]
        differ = ((old.entry_limit, new.entry_limit) for old, new in pairs if old.entry_limit != new.entry_limit)
        return next(differ, None) if self.abreast.rounds else None

    @cached_property
    def _when(self) -> tuple[list[int], list[int]]:
        """For each pair the cells of time and of numbers with which a call can be in it."""
        world = self.abreast.before
        return spread(self.abreast.edges, world.times, world.numbers.all)

    @cached_property
    def _ways(self) -> list[Edge | None]:
        """For each pair the last edge of the way to it by the least that a caller does."""
        cost: dict[int, int] = {0: 0}
        last: list[Edge | None] = [None] * len(self.abreast.pairs)
        todo = [0]
        while todo:
            at = todo.pop(0)
            for edge in self.abreast.edges[at]:
                there = cost[at] + _effort(edge)
                if edge.target >= 0 and there < cost.get(edge.target, there + 1):
                    cost[edge.target], last[edge.target] = there, edge
                    todo.append(edge.target)
        return last

    def _way(self, index: int) -> list[Edge]:
        found: list[Edge] = []
        while (edge := self._ways[index]) is not None:
            found.append(edge)
            index = edge.source
        return found[::-1]

    @cached_property
    def all(self) -> list[Change]:
        """All changes: those by which calls go apart first, then by the time in which they are met, then by the fewest keys."""
        groups: dict[Unlike, list[tuple[Edge, Met]]] = {}
        time, number = self._when
        for index, edges in enumerate(self.abreast.edges):
            for edge in edges:
                if not edge.unlike or not time[index] & edge.time:
                    continue
                way = [*self._way(index), edge]
                keys, after = _steps(way)
                told = frozenset[tuple[Hashable, Hashable]]().union(*(one.told for one in way))
                effort = sum(map(_effort, way))
                met = Met(keys, after, time[index] & edge.time, number[index] & edge.number, told, effort)
                for unlike in edge.unlike:
                    groups.setdefault(unlike, []).append((edge, met))
        fates = self._fates(
            {one: self._stands([edge for edge, _ in found]) for one, found in groups.items() if one.parts}
        )
        found = [
            Change(unlike, tuple(met for _, met in met_), *fates.get(unlike, ((), ())))
            for unlike, met_ in groups.items()
        ]
        return sorted(
            found, key=lambda one: (not one.unlike.parts, -self.seconds_of(one), min(met.effort for met in one.met))
        )

    def _stands(self, edges: Sequence[Edge]) -> list[Pair]:
        """Where calls stand after they have gone apart, as far as it makes a difference to what can follow."""
        pairs = dict.fromkeys(edge.roots or self.abreast.pairs[edge.target] for edge in edges)
        return list(pairs)[:MOST_ROOTS]

    def _fates(self, roots: Mapping[Unlike, Sequence[Pair]]) -> dict[Unlike, tuple[tuple[Fate, ...], tuple[Fate, ...]]]:
        """For each way of going apart the fates that can follow, before and now."""
        before, after = self.abreast.before, self.abreast.after
        pairs = [pair for some in roots.values() for pair in some]
        old = [Situation(one.before, one.known._replace(moments=before.times.cells)) for one in pairs]
        new = [Situation(one.after, one.known._replace(moments=after.times.cells)) for one in pairs]
        ends = iter(
            zip(_reached(before, old, self.abreast.check), _reached(after, new, self.abreast.check), strict=True)
        )
        found = {}
        for unlike, some in roots.items():
            was, now = zip(*(next(ends) for _ in some), strict=True)
            found[unlike] = _in_order(was), _in_order(now)
        return found

    def seconds_of(self, change: Change) -> float:
        """How many seconds of the time to come calls meet it in."""
        stretches = self.abreast.before.times.during(change.time)
        return sum((one.until - one.since).total_seconds() for one in stretches)


def _effort(edge: Edge) -> int:
    event = edge.event
    if edge.limit or event is None:
        return 60 if edge.limit else 30
    return 3 if isinstance(event, Digit) else 6 if isinstance(event, Silence) else 1


def _steps(way: Sequence[Edge]) -> tuple[str, str]:
    """The keys of a way, and what happened since the last of them; of one that goes round too often those since then."""
    keys, after = "", ""
    for place, edge in enumerate(way):
        if edge.limit:
            return _steps(way[place + 1 :])[0], ROUND
    for edge in way:
        match edge.event:
            case Digit():
                keys, after = keys + edge.event.key, NOBODY if edge.unrung else ""
            case Silence():
                after = "nothing is pressed"
            case Leg():
                after = _AFTER[edge.event.outcome]
            case Recorded():
                after = "a message was recorded" if edge.event.voice else "no message was left"
    return keys, after


def _in_order(each: Sequence[frozenset[Fate]]) -> tuple[Fate, ...]:
    fates = frozenset[Fate]().union(*each)
    return tuple(one for one in FATES if one in fates)


def _reached(world: World, roots: Sequence[Situation], check: Callable[[], None]) -> list[frozenset[Fate]]:
    """The fates that can be come to from some situations, without going round."""
    if not roots:
        return []
    walk = Walk(world.flow, world, MOST, check, roots=roots)
    found = []
    for root in walk.roots:
        seen = reached([root], lambda one: [edge.target for edge in walk.edges[one]])
        ended = (state for one in seen if (state := walk.situations[one].state).ended)
        found.append(frozenset(ending(state, LATE).fate for state in ended))
    return found


def changes(
    before: tuple[Flow, Client], after: tuple[Flow, Client], since: datetime, until: datetime, called: Mapping[str, str] | None = None,
    check: Callable[[], None] = lambda: None, most: int = MOST, most_steps: int = MOST_STEPS,
) -> Changes:  # fmt: skip
    """What changes for callers from one flow, with its client, to another."""
    old, new = worlds(before, after, since, until)
    return Changes(Abreast(old, new, called, most, check, most_steps))
