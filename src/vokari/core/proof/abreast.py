"""Two versions of a flow walked abreast, by the same events and with one knowledge, until they go apart.

Each pair of situations is walked once. What phones do is the same for both; what is asked of the time, the number and the caller splits what is
known of them once for both. An announcement that only one of them has is waited for, and told.
"""

from collections.abc import Callable, Hashable, Iterator, Mapping
from typing import NamedTuple

from ..flows.model.steps import Announcement
from ..flows.model.walks import parts
from ..flows.questions.kinds import Answer, CanBeRung, Question, WhoIsFree
from ..flows.questions.knowledge import Knowledge
from ..flows.running import engine
from ..flows.running.canonical import canonical
from ..flows.running.events import Event, Finished, Leg
from ..flows.running.state import State
from . import observed
from .alike import Said, answers, legs
from .interest import Interest, matter
from .observed import Unlike
from .outcomes import MOST_ANSWERS, OF_PHONES, comes_to, full
from .spreading import reached
from .times import lowest
from .walk import MOST, MOST_STEPS, events
from .world import World

MOST_AHEAD = 3
"""Announcements in a row that one version may have more than the other."""


class Pair(NamedTuple):
    """Where a call stands in both versions, and what is known."""

    before: State
    after: State
    known: Knowledge


class Edge(NamedTuple):
    """From one pair to another by an event, or by time that passes (None), in some cells of time and of numbers. `target` is -1 where the versions go
    apart: `roots` are the two states then, and `told` what is known of the caller. `unlike` is what differs; `unrung`: both came to phones first that
    could not be rung. `entered` are the steps that both enter; `over`: at least one goes to a rescue, or the call is over; `limit` is a step that
    both have entered too often."""

    source: int
    target: int
    event: Event | None
    time: int
    number: int
    told: frozenset[tuple[Hashable, Hashable]] = frozenset()
    unlike: tuple[Unlike, ...] = ()
    roots: Pair | None = None
    unrung: bool = False
    entered: frozenset[str] = frozenset()
    over: bool = False
    limit: str = ""


NOWHERE = frozenset[str]()


class Abreast:
    """The pairs of situations of two versions, with the edges between them. `called` are names of mailboxes and lead sources by key; `check` may raise to end the
    walk; `unwalked` says what was not compared."""

    def __init__(
        self, before: World, after: World, called: Mapping[str, str] | None = None, most: int = MOST,
        check: Callable[[], None] = lambda: None, most_steps: int = MOST_STEPS,
    ) -> None:  # fmt: skip
        self.before, self.after, self.called, self.check = before, after, called or {}, check
        self.pairs: list[Pair] = []
        self.edges: list[list[Edge]] = []
        self.unwalked: list[str] = []
        self.steps = 0
        self._numbers: dict[Pair, int] = {}
        self._known: dict[Hashable, list[Edge]] = {}
        self._parts: dict[tuple[Interest, Interest], tuple[int, ...]] = {}
        self._closed: dict[tuple[Interest, Interest, int], int] = {}
        self.most, self.most_steps, self._expanded = most, most_steps, 0
        self.rounds = False
        self._place(Pair(State(), State(), before.beginning))
        self._go_on()
        self._go_round()

    def _go_on(self) -> None:
        while self._expanded < len(self.pairs):
            self.check()
            if len(self.pairs) > self.most:
                self._leaves(f"more than {self.most:,} situations: beyond that nothing was compared")
                break
            if self.steps > self.most_steps:
                self._leaves(f"more than {self.most_steps:,} steps of calls: beyond that nothing was compared")
                break
            self._expand(self._expanded)
            self._expanded += 1

    def _expand(self, index: int) -> None:
        before, after, known = self.pairs[index]
        if before.ended or after.ended:
            return
        times = self.before.times
        if before.phase != "new" and (passed := times.passed(known.time)):
            closed = self._close(passed, before.at, after.at)
            if closed != known.time:
                later = self._place(Pair(before, after, known._replace(time=closed)))
                self.edges[index].append(Edge(index, later, None, passed, known.number))
        for was, now in self._events(before, after):
            self.edges[index].extend(self._taken(index, was, now))

    def _events(self, before: State, after: State) -> Iterator[tuple[Event, Event]]:
        """What can happen in both, as each takes it."""
        mine, theirs = legs(self.before.flow, before), legs(self.after.flow, after)
        seen: set[Hashable] = set()
        for state, world, other, own in ((before, self.before, theirs, mine), (after, self.after, mine, theirs)):
            dialed = {command: number for number, command in own.items()}
            for event in events(world.flow, state):
                number = dialed.get(event.command, "") if isinstance(event, Leg) else ""
                key = (number, event.outcome) if isinstance(event, Leg) and number else event
                if key in seen:
                    continue
                seen.add(key)
                if not isinstance(event, Leg) or not number:
                    yield event, event
                elif number in other:
                    beside = event.__class__(other[number], event.outcome)
                    yield (event, beside) if world is self.before else (beside, event)

    def _taken(self, index: int, was: Event, now: Event) -> Iterator[Edge]:
        """The edges of one event. From a question of both on they are the same for all events that come to it alike."""
        before, after, known = self.pairs[index]
        first = engine.step(self.before.flow, before, was, {}), engine.step(self.after.flow, after, now, {})
        self.steps += 2
        key = (self._comes(self.before, first[0]), self._comes(self.after, first[1]), known)
        if None in key:
            return self._answered(index, was, *first, known)
        if key not in self._known:
            self._known[key] = list(self._answered(index, was, *first, known))
        self.steps += len(self._known[key])
        return (edge._replace(source=index, event=was) for edge in self._known[key])

    def _comes(self, world: World, result: engine.Next | engine.Ask) -> Hashable:
        """All that what follows a question depends on; None where that is more than is known here."""
        if isinstance(result, engine.Next) or (stands := comes_to(world.flow, result)) is None:
            return None
        return stands, result.mark.way, result.mark.commands

    def _answered(
        self, index: int, event: Event, old: engine.Next | engine.Ask, new: engine.Next | engine.Ask, known: Knowledge
    ) -> Iterator[Edge]:
        for count, (one, other, knows) in enumerate(self._both(old, new, known)):
            if count > MOST_ANSWERS:
                self._leaves(f"more than {MOST_ANSWERS:,} kinds of callers at one step: not all were compared")
                return
            unrung = observed.unrung((self.before.flow, one), (self.after.flow, other))
            for edge in self._met(index, event, one, other, knows, MOST_AHEAD):
                yield edge._replace(unrung=unrung)

    def _leaves(self, words: str) -> None:
        """Says once what is not compared."""
        if words not in self.unwalked:
            self.unwalked.append(words)

    def _met(
        self, index: int, event: Event, old: engine.Next, new: engine.Next, known: Knowledge, ahead: int,
        first: tuple[Unlike, ...] = (), ways: tuple[frozenset[str], frozenset[str]] = (NOWHERE, NOWHERE),
    ) -> Iterator[Edge]:  # fmt: skip
        """What comes of an event in both: they go on alike, one of them after an announcement that the other has not, or they go apart. `ways` are the
        steps that each has entered meanwhile."""
        fit, unlike = observed.fit((self.before.flow, old), (self.after.flow, new), self.called)
        ways = ways[0].union(step for _, step in old.way), ways[1].union(step for _, step in new.way)
        waits = fit == "apart" or (fit == "unlike" and self._may_wait(old, new))
        waited = list(self._waited(index, event, old, new, known, ahead, first, ways)) if waits and ahead else []
        if waited:
            yield from waited
            return
        pair = Pair(old.state, new.state, known)
        apart = fit == "apart"
        yield Edge(
            index,
            -1 if apart else self._place(self._situation(pair)),
            event,
            known.time,
            known.number,
            known.told,
            (*first, *unlike),
            pair if apart else None,
            entered=ways[0] & ways[1],
            over=_is_over(old) or _is_over(new),
        )

    def _may_wait(self, old: engine.Next, new: engine.Next) -> bool:
        """Whether both say something, each of another announcement."""
        steps = (self.before.flow.steps.get(old.state.at), self.after.flow.steps.get(new.state.at))
        return all(isinstance(one, Announcement) for one in steps) and old.state.at != new.state.at

    def _waited(
        self, index: int, event: Event, old: engine.Next, new: engine.Next, known: Knowledge, ahead: int, first: tuple[Unlike, ...],
        ways: tuple[frozenset[str], frozenset[str]],
    ) -> Iterator[Edge]:  # fmt: skip
        """The versions after one of them has said what the other does not; nothing where they do not come together so."""
        for world, one, other, is_new in ((self.after, new, old, True), (self.before, old, new, False)):
            here = world.flow.steps.get(one.state.at)
            if not isinstance(here, Announcement) or one.state.phase != "saying":
                continue
            side, beside = (world.flow, one), ((self.before if is_new else self.after).flow, other)
            found: list[Edge] = []
            for later, knows in self._run(world, one.state, Finished(one.state.awaiting), known):
                between = observed.is_between(side, later, beside)
                unlike = (
                    observed.added(side, now=is_new)
                    if between
                    else observed.otherwise((self.before.flow, old), (self.after.flow, new))
                )
                pair = (other, later) if is_new else (later, other)
                found += self._met(index, event, *pair, knows, ahead - 1, (*first, unlike), ways)
            if found and all(edge.target >= 0 for edge in found):
                yield from found
                return

    # going round

    def _go_round(self) -> None:
        """Where both have entered a step too often, on each way round that is one to both, and wherever calls come from there."""
        done: set[tuple[int, Event, str]] = set()
        while not self.unwalked:
            before = len(done)
            for part in parts(range(len(self.pairs)), lambda one: [edge.target for edge in self._onward(one)]):
                self.rounds = True
                inside = set(part)
                steps = frozenset[str]().union(
                    *(edge.entered for one in part for edge in self._onward(one) if edge.target in inside)
                )
                for index in reached(part, lambda one: [edge.target for edge in self.edges[one] if edge.target >= 0]):
                    self._leave(index, steps, done)
            if len(done) == before:
                break
            self._go_on()

    def _onward(self, index: int) -> Iterator[Edge]:
        """The edges of events that lead on in both."""
        return (edge for edge in self.edges[index] if edge.event is not None and edge.target >= 0)

    def _leave(self, index: int, steps: frozenset[str], done: set[tuple[int, Event, str]]) -> None:
        """The edges by which calls that have entered some steps too often leave a pair."""
        before, after, known = self.pairs[index]
        entered: dict[Event, set[str]] = {}
        for edge in self.edges[index]:
            if edge.event is not None and not edge.limit:
                entered.setdefault(edge.event, set()).update(edge.entered & steps)
        for was, now in self._events(before, after) if entered else ():
            for step in sorted(entered.get(was, ())):
                if (index, was, step) in done:
                    continue
                done.add((index, was, step))
                first = (
                    engine.step(self.before.flow, full(self.before.flow, before, step), was, {}),
                    engine.step(self.after.flow, full(self.after.flow, after, step), now, {}),
                )
                self.edges[index] += [
                    edge._replace(limit=step) for edge in self._answered(index, was, *first, known) if edge.over
                ]

    # answers

    def _both(
        self, before: engine.Next | engine.Ask, after: engine.Next | engine.Ask, known: Knowledge
    ) -> Iterator[tuple[engine.Next, engine.Next, Knowledge]]:
        """Where an event leads in both, for each answer that makes a difference. As long as both ask the same they are answered at once; then what
        one was answered by itself is remembered for the other."""
        nothing: Said = ()
        open_ = [(before, after, known, nothing, nothing)]
        seen: set[Hashable] = set()
        while open_:
            old, new, knows, given, said = open_.pop()
            self.steps += 2
            if isinstance(old, engine.Next) and isinstance(new, engine.Next):
                yield old, new, knows
                continue
            alike = (self._stands(self.before, old), self._stands(self.after, new), knows, given, said)
            if alike in seen:
                continue
            seen.add(alike)
            if isinstance(old, engine.Ask) and isinstance(new, engine.Ask) and not given and not said:
                together = self._together(old.question, new.question, knows)
                if together is not None:
                    for answer, later in together:
                        went = engine.resume(self.before.flow, old, answer), engine.resume(self.after.flow, new, answer)
                        open_.append((*went, later, given, said))
                    continue
            if isinstance(old, engine.Ask):
                for answer, later, noted in self._answers(self.before, old.question, knows, (), given):
                    open_.append((engine.resume(self.before.flow, old, answer), new, later, (*given, *noted), said))
            elif isinstance(new, engine.Ask):
                for answer, later, noted in self._answers(self.after, new.question, knows, given, said):
                    open_.append((old, engine.resume(self.after.flow, new, answer), later, given, (*said, *noted)))

    def _stands(self, world: World, result: engine.Next | engine.Ask) -> Hashable:
        """How far an event has come in one version, as far as what follows can tell; where that is not known, unlike all others."""
        if isinstance(result, engine.Ask) and isinstance(result.question, OF_PHONES):
            return result.question, canonical(world.flow, result.state)
        return object()

    def _together(self, question: Question, other: Question, known: Knowledge) -> list[tuple[Answer, Knowledge]] | None:
        """The answers of a question that both ask, where each means the same to both; None where not."""
        if question != other:
            return None
        both = [
            (answer, later._replace(moments=known.moments), self._duty(world, question, later))
            for world in (self.before, self.after)
            for answer, later in world.classes(question, known._replace(moments=world.times.cells))
        ]
        half = len(both) // 2
        return [(answer, later) for answer, later, _ in both[:half]] if both[:half] == both[half:] else None

    def _duty(self, world: World, question: Question, known: Knowledge) -> list[tuple[str, bool]] | None:
        if not isinstance(question, WhoIsFree | CanBeRung):
            return None
        return world.on_duty(question, world.times.cells.each[lowest(known.time)])

    def _run(
        self, world: World, state: State, event: Event, known: Knowledge
    ) -> Iterator[tuple[engine.Next, Knowledge]]:
        """Where an event leads in one version, for each answer that makes a difference."""
        open_ = [(engine.step(world.flow, state, event, {}), known)]
        while open_:
            result, knows = open_.pop()
            self.steps += 1
            if isinstance(result, engine.Ask):
                for answer, later, _ in self._answers(world, result.question, knows, (), ()):
                    open_.append((engine.resume(world.flow, result, answer), later))
            else:
                yield result, knows

    def _answers(
        self, world: World, question: Question, known: Knowledge, given: Said, said: Said
    ) -> Iterator[tuple[Answer, Knowledge, Said]]:
        """The answers of a question of one version that make a difference, each once, with what the other version is answered alike."""
        seen: set[Hashable] = set()
        for answer, later, noted in answers(world, question, known._replace(moments=world.times.cells), given, said):
            if (answer, later) not in seen:
                seen.add((answer, later))
                yield answer, later._replace(moments=known.moments), noted

    # situations

    def _situation(self, pair: Pair) -> Pair:
        before, after = canonical(self.before.flow, pair.before), canonical(self.after.flow, pair.after)
        known = pair.known
        old, new = self.before.interest(before.at), self.after.interest(after.at)
        matters = old.matters | new.matters
        told = frozenset(one for one in known.told if matter(one[0]) in matters) if known.told else known.told
        number = known.number if any(one.startswith("touch") for one in matters) else self.before.numbers.all
        time = self._close(known.time, before.at, after.at) if not before.ended else self.before.times.cells.all
        return Pair(before, after, known._replace(time=time, number=number, told=told))

    def _close(self, time: int, before: str, after: str) -> int:
        """All cells of time that no later question of either version tells from some."""
        old, new = self.before.interest(before), self.after.interest(after)
        key = (old, new, time)
        found = self._closed.get(key)
        if found is None:
            parts = self._parts.get((old, new))
            if parts is None:
                labels = list(zip(self.before.labels(old), self.after.labels(new), strict=True))
                parts = self._parts[old, new] = self.before.times.parts(labels)
            found = self._closed[key] = sum(part for part in parts if part & time)
        return found

    def _place(self, pair: Pair) -> int:
        found = self._numbers.get(pair)
        if found is None:
            found = self._numbers[pair] = len(self.pairs)
            self.pairs.append(pair)
            self.edges.append([])
        return found


def _is_over(result: engine.Next) -> bool:
    """Whether a call went to a rescue, or is over."""
    return result.state.phase in ("parting", "ended") or any(by == "rescue" for by, _ in result.way)
