"""What a walk shows: every end that a call can come to and when, the ways callers can be lost, what nobody reaches, and how long it takes."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, reduce
from operator import or_

from ..calls.fates import FATES, Ending, ending
from ..flows.model.steps import ComeBack, LookUp
from ..flows.running.events import Digit
from ..flows.running.state import State
from ..flows.shown.outline import numbers
from . import spans
from .examples import Example, NoExample, NoWay, example
from .situations import Edge, Situation
from .spans import Span
from .spreading import spread
from .times import Stretch, bits
from .walk import Walk
from .when import in_words

LATE = 60.0
"""Seconds after which a call is none that was hung up at once, so that its reason is that of the place it ended in."""


@dataclass(frozen=True, slots=True)
class End:
    """One way of ending: the fate with its reason, the step at which and by whom, whether the caller chose not to be helped (`declined`), and
    whether the flow itself loses them (`is_loss`); the situations that come to it, the cells of time in which such calls end and of numbers, the
    fewest keys, and an example."""

    came: Ending
    at: str
    by: str
    declined: bool
    is_loss: bool
    situations: tuple[int, ...]
    time: int
    number: int
    keys: int
    example: Example


@dataclass(frozen=True, slots=True)
class Partly:
    """A step that calls come to at some times only: when none of up to the longest that is looked at does, as stretches and in words."""

    step: str
    stretches: tuple[Stretch, ...]
    never: str


def loses(walk: Walk, situation: Situation) -> bool:
    """Whether the flow itself has lost a caller who wanted to be helped. Whoever had an answer to its end was served, although a phone was tried
    before; and a flow that no number reaches comes back to the one that continues in it, which has its own proof."""
    state = situation.state
    if ending(state, LATE).fate != "lost" or state.ended_by != "flow" or situation.declined or state.said == "served":
        return False
    return bool(walk.world.numbers.each) or not isinstance(walk.flow.steps.get(state.at), ComeBack)


class Claims:
    """Worked out of a walk when they are asked for. An end to which no call comes is none: a way round meets its limit in one place."""

    def __init__(self, walk: Walk) -> None:
        self.walk = walk
        self._words: dict[int, str] = {}
        self._undecided: set[int] = set()

    @property
    def proven(self) -> bool:
        """Whether everything was walked, and it is known of each way of ending whether calls come to it."""
        _ = self.ends
        return not self.walk.unwalked

    @cached_property
    def _when(self) -> tuple[list[int], list[int]]:
        """For each situation the cells of time and of numbers with which a call can be in it."""
        world = self.walk.world
        return spread(self.walk.edges, world.times, world.numbers.all)

    @cached_property
    def _keys(self) -> list[float]:
        return spans.least(self.walk, lambda edge: float(isinstance(edge.event, Digit)))

    @cached_property
    def ends(self) -> tuple[End, ...]:
        """Every way of ending, answered first and lost last, each with a call that comes to it."""
        walk = self.walk
        groups: dict[tuple[Ending, str, str, bool, bool], list[int]] = {}
        for index, situation in enumerate(walk.situations):
            state = situation.state
            if state.ended:
                key = (ending(state, LATE), state.at, state.ended_by, situation.declined, loses(walk, situation))
                groups.setdefault(key, []).append(index)
        found = []
        time, number = self._when
        for (came, at, by, declined, loss), indexes in groups.items():
            easiest = sorted(indexes, key=lambda one: (self._keys[one], one))
            shown = next((call for one in easiest if (call := self._example(one))), None)
            if shown is not None:
                when, numbers = 0, 0
                for one in indexes:
                    when, numbers = when | time[one], numbers | number[one]
                keys = int(min(self._keys[one] for one in indexes))
                found.append(End(came, at, by, declined, loss, tuple(indexes), when, numbers, keys, shown))
            elif not self._undecided.isdisjoint(indexes):
                self.walk.leaves("whether calls come to some of the ways of ending that need many rounds")
        return tuple(found)

    @cached_property
    def ways(self) -> tuple[End, ...]:
        """The ends as people tell them apart: by fate, reason and step, and a lost call by whether the flow lost it or the caller chose so. Each
        with the easiest of its examples; what the flow loses first, then in the order of fates and steps."""
        groups: dict[tuple[Ending, str, bool, bool], list[End]] = {}
        for one in self.ends:
            groups.setdefault((one.came, one.at, one.is_loss, one.came.fate == "lost" and one.declined), []).append(one)
        places = {step: place for place, step in enumerate(self.walk.flow.steps)}
        found = [_together(alike) for alike in groups.values()]
        return tuple(
            sorted(
                found, key=lambda one: (not one.is_loss, FATES.index(one.came.fate), places.get(one.at, -1), one.keys)
            )
        )

    def _example(self, index: int) -> Example | None:
        try:
            return example(self.walk, index)
        except NoWay:
            return None
        except NoExample:
            self._undecided.add(index)
            return None

    @cached_property
    def losses(self) -> tuple[End, ...]:
        """The ways in which the flow loses a caller, those at most times first, then those by the fewest keys."""
        losses = [one for one in self.ways if one.is_loss]
        return tuple(sorted(losses, key=lambda one: (-self.seconds_of(one), one.keys, one.at)))

    def stretches(self, end: End) -> list[Stretch]:
        """When calls come to an end."""
        return self.walk.world.times.during(end.time)

    def when(self, end: End) -> str:
        """The same in words; many ends come at the same times."""
        return self._in_words(end.time)

    def _in_words(self, mask: int) -> str:
        if mask not in self._words:
            times = self.walk.world.times
            self._words[mask] = in_words(times.during(mask), times.zone, times.since, times.until)
        return self._words[mask]

    def only_to(self, end: End) -> tuple[str, ...]:
        """The numbers by which alone calls come to an end; none where all numbers of the flow lead to it."""
        numbers = self.walk.world.numbers
        if end.number == numbers.all:
            return ()
        return tuple(numbers.each[place].number for place in bits(end.number))

    def seconds_of(self, end: End) -> float:
        """How many seconds of the time to come these are."""
        return sum((one.until - one.since).total_seconds() for one in self.stretches(end))

    @cached_property
    def unreached(self) -> tuple[str, ...]:
        """The steps that nobody comes to, in the order of the flow."""
        entered = self.walk.entered
        return tuple(step.id for step in self.walk.flow.document.steps if step.id not in entered)

    @cached_property
    def partly(self) -> tuple[Partly, ...]:
        """The steps that calls come to at some times only, in the order of the outline; of calls no longer than is looked at (`World.longest`)."""
        times, walk = self.walk.world.times, self.walk
        # A call stays in a situation while time passes of which nothing is asked any more.
        time, _ = spread(walk.edges, times, walk.world.numbers.all, [one.known.time for one in walk.situations])
        masks: dict[str, int] = {}
        for index, edges in enumerate(self.walk.edges):
            for edge in edges:
                for _, entered in edge.way:
                    masks[entered] = masks.get(entered, 0) | time[index] & edge.time
        outside = {mask: tuple(times.outside(mask)) for mask in set(masks.values()) - {0}}
        never = {mask: in_words(rest, times.zone, times.since, times.until) for mask, rest in outside.items() if rest}
        found = [
            Partly(step.id, outside[mask], never[mask])
            for step in self.walk.flow.document.steps
            if (mask := masks.get(step.id, 0)) in never
        ]
        places = numbers(self.walk.flow.document)
        return tuple(sorted(found, key=lambda one: places.get(one.step, len(places))))

    @cached_property
    def until_rung(self) -> Span | None:
        """Until a phone rings for the caller."""
        return self._until(lambda edge: edge.rings)

    @cached_property
    def until_helped(self) -> Span | None:
        """Until somebody has answered or a message can be left."""
        return self._until(lambda edge: edge.takes or self._answers(edge))

    def _answers(self, edge: Edge) -> bool:
        before, after = self._state(edge.source), self._state(edge.target)
        return after.answered and not before.answered

    def _state(self, index: int) -> State:
        return self.walk.situations[index].state

    def _until(self, reached: Callable[[Edge], bool]) -> Span | None:
        walk = self.walk
        soon = spans.least(walk, lambda edge: spans.spent(walk, edge)[0])
        late = spans.most(walk, lambda edge: spans.spent(walk, edge)[1], reached)
        goals = [edge for edges in walk.edges for edge in edges if reached(edge)]
        if not goals:
            return None
        shortest = min(soon[one.source] + spans.spent(walk, one)[0] for one in goals)
        longest = max(
            (late[one.source] + spans.spent(walk, one)[1] for one in goals if late[one.source] >= 0), default=shortest
        )
        return Span(round(shortest, 1), round(longest, 1))

    @cached_property
    def longest_silence(self) -> tuple[float, str]:
        """The longest time in which a caller hears nothing, with the step: while keys are waited for, or a client's system."""
        found = (0.0, "")
        for index, (state, _, _) in enumerate(self.walk.situations):
            seconds = self.walk.awaited[index].most if state.phase == "waiting" else 0.0
            here = self.walk.flow.steps.get(state.at)
            if state.phase == "looking" and isinstance(here, LookUp):
                seconds = float(here.patience)
            found = max(found, (seconds, state.at))
        return found


def _together(alike: Sequence[End]) -> End:
    """Ends that people do not tell apart as one."""
    easiest = min(alike, key=lambda one: (one.keys, len(one.example.happenings)))
    time, number = reduce(or_, (one.time for one in alike)), reduce(or_, (one.number for one in alike))
    situations = tuple(index for one in alike for index in one.situations)
    return replace(
        easiest, situations=situations, time=time, number=number, declined=all(one.declined for one in alike)
    )
