"""The walk: every situation a call of a flow can come to, by the engine itself, each once.

A situation is where a call stands, as far as later steps can tell, and what is known on the way there. Counters are left out of it: a way
round is walked once, and every step that a way round enters leads, once, to the rescue.
"""

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from heapq import heappop, heappush

from ..flows.model.steps import Announcement
from ..flows.model.walks import parts
from ..flows.questions.facts import Touch
from ..flows.running.canonical import canonical
from ..flows.running.events import Digit, Event, Gone, Leg, Recorded
from ..flows.running.flow import Flow
from ..flows.running.inputs import inputs
from ..flows.running.state import State
from ..flows.running.steps.voicemail import MESSAGE_SECONDS
from ..flows.running.turn import Passage
from .earlier import Earlier, Found, Limit, LookedAt, Standing, left
from .noted import noted
from .outcomes import Awaited, Outcomes, full
from .situations import Edge, Situation
from .spreading import reached
from .times import lowest
from .view import view
from .world import World

MOST = 60_000
"""Situations that are walked at most."""
MOST_STEPS = 600_000
"""Steps of calls that are taken at most."""


class Walk:
    """The situations of a flow in a world, each reached by edges from the first. `check` is called now and then, and may raise to end the
    walk. `unwalked` says in words what was not reached; empty: all of it was. Where calls are met that have come
    somewhere already, these are its `roots`, and no limit is followed. What is `standing` of an earlier walk is taken over, so that the walk
    finds the same as without, and `anew` are the situations that were walked all the same."""

    def __init__(
        self, flow: Flow, world: World, most: int = MOST, check: Callable[[], None] = lambda: None, roots: Sequence[Situation] = (),
        standing: Standing | None = None,
    ) -> None:  # fmt: skip
        self.flow, self.world, self.most, self.check = flow, world, most, check
        self.anew: list[int] = []
        self.situations: list[Situation] = []
        self.edges: list[list[Edge]] = []
        self.awaited: list[Awaited] = []
        self.unwalked: list[str] = []
        self.rounds: list[tuple[int, ...]] = []
        self._runs, self._steps = noted(flow)
        self.outcomes = Outcomes(self._runs, self._steps, world, self.leaves)
        self._standing = standing
        self._looked_at: list[LookedAt] = []
        self._limits: dict[Limit, Found] = {}
        self._numbers: dict[Situation, int] = {}
        self._todo: list[int] = []
        begins = roots or [Situation(State(), world.beginning)]
        self.roots = [
            self._place(Situation(canonical(flow, state), self.outcomes.kept(state, known), declined), Awaited(0, 0))
            for state, known, declined in begins
        ]
        self._go_on()
        if not roots:
            self._go_round()

    # walking

    def _go_on(self) -> None:
        """Breadth first, so that the first way found to a situation has the fewest events."""
        at = 0
        while at < len(self._todo):
            self.check()
            if len(self.situations) > self.most:
                self.leaves(f"more than {self.most:,} situations: beyond that nothing was walked")
                break
            if self.outcomes.steps > MOST_STEPS:
                self.leaves(f"more than {MOST_STEPS:,} steps of calls: beyond that nothing was walked")
                break
            index = self._todo[at]
            at += 1
            self._expand(index)
        self._todo = []

    def _expand(self, index: int) -> None:
        situation = self.situations[index]
        if situation.state.ended:
            return
        if self._standing and (stood := self._standing.found(situation)):
            self.edges[index], self._looked_at[index] = self._taken_over(index, stood[0]), stood[1]
            return
        self.anew.append(index)
        with self._steps.noting() as looked_at:
            looked_at.add(situation.state.at)
            self.edges[index] = [*self._passing(index), *self._happening(index)]
        self._looked_at[index] = frozenset(looked_at)

    def _passing(self, index: int) -> Iterator[Edge]:
        """The edge of time that passes, where it makes a difference."""
        state, known, declined = self.situations[index]
        if state.phase != "new" and (passed := self.world.times.passed(known.time)):
            interest = self.world.interest(state.at)
            if interest.asks_time and (closed := self.world.closed(passed, interest)) != known.time:
                later = Situation(state, known._replace(time=closed), declined)
                yield Edge(index, self._place(later, self.awaited[index]), None)

    def _happening(self, index: int) -> Iterator[Edge]:
        """The edges of all that can happen in a situation."""
        state = self.situations[index].state
        for event in events(self._runs, state):
            yield from self._taken(index, event, state)

    def _taken_over(self, index: int, edges: list[Edge]) -> list[Edge]:
        """Edges of an earlier walk as those of a situation of this one."""
        assert self._standing is not None
        self.outcomes.steps += len(edges)
        found = []
        for edge in edges:
            target = self._place(self._standing.situations[edge.target], edge.lasts or self.awaited[index])
            found.append(Edge(index, target, *edge[2:]))
        return found

    def leaves(self, words: str) -> None:
        """Says once what is not walked."""
        if words not in self.unwalked:
            self.unwalked.append(words)

    def _taken(self, index: int, event: Event, state: State, limit: str = "") -> Iterator[Edge]:
        """The edges of one event: one for each answer that makes a difference."""
        _, known, declined = self.situations[index]
        lost = declined or self._declines(state, event)
        way, outcomes = self.outcomes.of(state, event, known, full=bool(limit))
        for one in outcomes:
            passed = (*way, *one.way)
            if limit and not any(by == "rescue" for by, _ in passed) and one.state.phase not in ("parting", "ended"):
                continue
            target = self._place(Situation(one.state, one.kept, lost), one.lasts or self.awaited[index])
            yield Edge(
                index,
                target,
                event,
                one.answers,
                passed,
                one.known.time,
                one.known.number,
                one.rings,
                one.takes,
                limit,
                one.ends,
                one.lasts,
            )

    def _declines(self, state: State, event: Event) -> bool:
        """Whether the caller leaves no message where they could, or cuts an answer short before half of it was heard."""
        if isinstance(event, Recorded):
            return state.phase == "recording" and event.voice < MESSAGE_SECONDS
        here = self.flow.steps.get(state.at)
        return (
            isinstance(event, Digit)
            and not event.heard_half
            and isinstance(here, Announcement)
            and here.counts_as == "served"
        )

    def _place(self, situation: Situation, lasts: Awaited) -> int:
        """The number of a situation, which is walked from later when it is new."""
        found = self._numbers.get(situation)
        if found is not None:
            known = self.awaited[found]
            if lasts.least < known.least or lasts.most > known.most:
                self.awaited[found] = Awaited(min(known.least, lasts.least), max(known.most, lasts.most))
            return found
        found = len(self.situations)
        self._numbers[situation] = found
        self.situations.append(situation)
        self.edges.append([])
        self.awaited.append(lasts)
        self._looked_at.append(frozenset())
        self._todo.append(found)
        return found

    # going round

    def _go_round(self) -> None:
        """Ways round, and where each of the steps on them leads once it has been entered too often, there and wherever a call comes from
        there. What is found then may go round in turn."""
        known: set[tuple[int, ...]] = set()
        while not self.unwalked:
            before = len(self._limits)
            for part in self._parts():
                inside = set(part)
                steps = {
                    step for one in part for edge in self.edges[one] if edge.target in inside for _, step in edge.way
                }
                if part not in known:
                    known.add(part)
                    self.rounds.append(part)
                for index in reached(part, lambda one: [edge.target for edge in self.edges[one]]):
                    self._leave(index, steps)
            if len(self._limits) == before:
                break
            self._go_on()

    def _parts(self) -> list[tuple[int, ...]]:
        """The sets of situations from which a way leads back to themselves."""
        return parts(
            range(len(self.situations)), lambda one: [edge.target for edge in self.edges[one] if edge.event is not None]
        )

    def _leave(self, index: int, steps: set[str]) -> None:
        """The edges by which calls that have entered some steps too often leave a situation."""
        for edge in list(self.edges[index]):
            if edge.event is None or edge.limit:
                continue
            for _, step in edge.way:
                if step in steps and (index, edge.event, step) not in self._limits:
                    self._limits[index, edge.event, step] = found = self._limit(index, edge.event, step)
                    self.edges[index].extend(found[0])

    def _limit(self, index: int, event: Event, step: str) -> Found:
        """The edges of an event by which a step is entered too often."""
        situation = self.situations[index]
        if self._standing and (stood := self._standing.limit(situation, event, step)):
            return self._taken_over(index, stood[0]), stood[1]
        with self._steps.noting() as looked_at:
            looked_at.add(situation.state.at)
            found = list(self._taken(index, event, full(self.flow, situation.state, step), limit=step))
        return found, frozenset(looked_at)

    # going on from it later

    def left(self) -> Earlier | None:
        """What a later walk can take over; None where this one did not reach all."""
        if self.unwalked:
            return None
        found = [
            ([edge for edge in edges if not edge.limit], looked_at)
            for edges, looked_at in zip(self.edges, self._looked_at, strict=True)
        ]
        seen = self._standing.view if self._standing else view(self.flow, self.world)
        return left(self.world, seen, self.situations, found, self._limits)

    # ways

    @cached_property
    def _easiest(self) -> dict[int, Edge]:
        """The last edge of the easiest way to each situation: by few events, most of which happen by themselves."""
        cost, last = {0: 0}, dict[int, Edge]()
        todo = [(0, 0)]
        while todo:
            so_far, index = heappop(todo)
            if so_far > cost[index]:
                continue
            for edge in self.edges[index]:
                there = so_far + _effort(edge)
                if there < cost.get(edge.target, there + 1):
                    cost[edge.target], last[edge.target] = there, edge
                    heappush(todo, (there, edge.target))
        return last

    def way_to(self, index: int) -> list[Edge]:
        """The edges from the first situation to one, by the easiest way."""
        found: list[Edge] = []
        while index:
            found.append(self._easiest[index])
            index = found[-1].source
        return found[::-1]

    def numbers_of(self, number: int) -> Touch | None:
        """The first of some numbers, as bits; None where the flow has none."""
        each = self.world.numbers.each
        return each[lowest(number)] if each and number else None

    @property
    def entered(self) -> set[str]:
        """The steps that some call enters."""
        return {step for edges in self.edges for edge in edges for _, step in edge.way}

    @property
    def taken(self) -> set[Passage]:
        """The exits that some call takes, each with the step that is entered by it."""
        return {passage for edges in self.edges for edge in edges for passage in edge.way}


def events(flow: Flow, state: State) -> list[Event]:
    """What can happen in a situation while the caller stays: of phones that are alike the first stands for all.

    Keys in an announcement are left out, unless it makes a difference whether half of it was heard. They are kept, and act as if pressed
    when the prompt of a later step starts: they lead nowhere that the same keys do not lead to which are pressed there.
    """
    found: list[Event] = []
    here = flow.steps.get(state.at)
    passed_on = isinstance(here, Announcement) and (here.notice or here.counts_as != "served")
    seen: set[tuple[object, ...]] = set()
    legs = {leg.command: leg for leg in state.ring.legs} if state.ring else {}
    for event in inputs(flow, state):
        if isinstance(event, Gone) or (isinstance(event, Recorded) and event.gone):
            continue
        if passed_on and isinstance(event, Digit):
            continue
        if isinstance(event, Leg) and (leg := legs.get(event.command)):
            sort = (event.outcome, leg.status, leg.by_key, leg.service)
            if sort in seen:
                continue
            seen.add(sort)
        found.append(event)
    return found


def _effort(edge: Edge) -> int:
    """How much an edge makes an example harder to follow: keys more than what happens by itself, an edge of time or a way round most."""
    if edge.event is None or edge.limit:
        return 8 if edge.event is None else 40
    return (3 + (edge.event.key in "*#")) if isinstance(edge.event, Digit) else 1
