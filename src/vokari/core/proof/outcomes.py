"""What one event of a call comes to: for each way of answering what is asked in it, once.

From a question on that is the same for all events which come to it alike, so that it is worked out once for all of them.
"""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ..flows.model.steps import AnyStep
from ..flows.questions.kinds import Answer, CanBeRung, LineUp, Question, WhoIsFree
from ..flows.questions.knowledge import Knowledge
from ..flows.running import engine
from ..flows.running.canonical import canonical
from ..flows.running.commands import Command, Listen, Play, Record, RingLeg
from ..flows.running.events import Event, Leg
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..flows.running.turn import Passage
from ..flows.shown.words import speaking_seconds
from .interest import NONE
from .noted import NotedSteps
from .world import World

MOST_ANSWERS = 20_000
"""Ways of answering what is asked in one event that are walked at most."""
Answers = tuple[tuple[Question, Answer], ...]
OF_PHONES = (WhoIsFree, CanBeRung, LineUp)
"""Questions of which the engine says: of two ways to the same one that come so far alike, the rest is alike."""


@dataclass(frozen=True, slots=True)
class Awaited:
    """For how many seconds a situation lasts, at least and at most, until what is awaited happens by itself."""

    least: float
    most: float


class Outcome(NamedTuple):
    """What an event comes to with some answers: `way` since the first question, the state and what is `known` in it, of which `kept` makes a
    difference later. `lasts`: of what is awaited then, where that was begun by it; `ends`: the exit by which the call is over."""

    answers: Answers
    way: tuple[Passage, ...]
    state: State
    known: Knowledge
    kept: Knowledge
    rings: bool
    takes: bool
    lasts: Awaited | None
    ends: str = ""


class Outcomes:
    """What events come to in a world. `noted` are the steps of the flow, `leaves` is told in words what is left out; `steps` counts those of
    calls."""

    def __init__(self, flow: Flow, noted: NotedSteps, world: World, leaves: Callable[[str], None]) -> None:
        self.flow, self.noted, self.world, self.leaves = flow, noted, world, leaves
        self.steps = 0
        self._met: dict[Hashable, tuple[list[Outcome], set[str]]] = {}

    def of(
        self, state: State, event: Event, known: Knowledge, *, full: bool
    ) -> tuple[tuple[Passage, ...], Sequence[Outcome]]:
        """All that an event comes to, and the way up to the first question. `full`: the state has met a limit, so that no other call stands alike."""
        self.steps += 1
        first = engine.step(self.flow, state, event, {})
        if isinstance(first, engine.Next):
            return (), [self._outcome(first, known)]
        if full or (stands := comes_to(self.flow, first)) is None:
            return first.mark.way, self._answered(first, known)
        key = stands, known
        if key in self._met:
            outcomes, looked_at = self._met[key]
            self.steps += len(outcomes)
            self.noted.looked_at |= looked_at
        else:
            with self.noted.noting() as looked_at:
                outcomes = self._answered(first, known)
            self._met[key] = outcomes, looked_at
        return first.mark.way, outcomes

    def _answered(self, ask: engine.Ask, known: Knowledge) -> list[Outcome]:
        """What follows a question, once for each way of answering it and those after it."""
        found: list[Outcome] = []
        open_: list[tuple[engine.Next | engine.Ask, Knowledge, Answers]] = [(ask, known, ())]
        seen = set[Hashable]()
        answered = 0
        while open_:
            result, known, asked = open_.pop()
            answered += 1
            if answered > MOST_ANSWERS:
                self.leaves(
                    f"more than {MOST_ANSWERS:,} kinds of callers are told apart at one step: not all of them were walked"
                )
                break
            if isinstance(result, engine.Next):
                found.append(self._outcome(result, known, asked, len(ask.mark.way)))
                continue
            question = result.question
            if isinstance(question, OF_PHONES):
                alike = (question, canonical(self.flow, result.state), known)
                if alike in seen:
                    continue
                seen.add(alike)
            for answer, after in self.world.classes(question, known):
                self.steps += 1
                open_.append((engine.resume(self.flow, result, answer), after, (*asked, (question, answer))))
        return found

    def _outcome(self, result: engine.Next, known: Knowledge, answers: Answers = (), past: int = 0) -> Outcome:
        """What a result makes of a call, its way without the passages that lie before the question."""
        state, commands, way, _, ends = result
        here = canonical(self.flow, state)
        rings = any(isinstance(one, RingLeg) for one in commands)
        takes = state.phase == "recording" and any(isinstance(one, Record) for one in commands)
        return Outcome(
            answers, way[past:], here, known, self.kept(state, known), rings, takes, _awaited(state, commands), ends
        )

    def kept(self, state: State, known: Knowledge) -> Knowledge:
        """What of it makes a difference from a state on."""
        if state.phase == "new":
            return known
        return self.world.kept(known, NONE if state.ended else self.world.interest(state.at))


def comes_to(flow: Flow, ask: engine.Ask) -> Hashable | None:
    """All of a call that what follows its first question depends on, by whatever event it came there: the step that is entered and how the call
    stood then (with the keys and values that the step itself may use, and what was entered in the same event), or the step whose phones ring and how
    it stands. None where the event itself matters."""
    mark = ask.mark
    if isinstance(mark.doing, AnyStep):
        stood = mark.state
        entering = canonical(flow, stood)._replace(kept=stood.kept, values=stood.values, entries=stood.entries)
        return mark.doing.id, mark.going, ask.question, entering
    if isinstance(mark.doing, Leg) and isinstance(ask.question, OF_PHONES):
        return mark.going, ask.question, canonical(flow, ask.state)
    return None


def full(flow: Flow, state: State, step: str) -> State:
    """A state in which a step was entered as often as it may be."""
    return state._replace(entries=((step, flow.home(step).entry_limit),))


def _awaited(state: State, commands: tuple[Command, ...]) -> Awaited | None:
    """How long it takes until what a state awaits, of what was begun just now; None where that was begun before."""
    rings = [one.seconds for one in commands if isinstance(one, RingLeg)]
    if state.phase in ("ringing", "holding", "telling") and rings:
        return Awaited(min(rings), max(rings))
    for one in commands:
        if isinstance(one, Play) and one.id == state.awaiting:
            seconds = speaking_seconds(one.prompt.say, one.voice.rate)
            return Awaited(seconds, seconds)
        if isinstance(one, Listen) and one.id == state.awaiting:
            return Awaited(one.seconds, one.seconds)
        if isinstance(one, Record) and one.id == state.awaiting:
            return Awaited(0, one.longest)
    return None
