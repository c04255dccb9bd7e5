"""Example calls: a way through the walk as a call that really can be made, at a moment, with what happens after how many seconds."""

from collections import Counter, deque
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from ..flows.questions.facts import Touch
from ..flows.questions.kinds import Answer, Question
from ..flows.running import engine
from ..flows.running.canonical import canonical, commands_of
from ..flows.running.commands import Command, Listen, Play, Record, RingLeg, Timer
from ..flows.running.events import Arrived, Digit, Event, Finished, Leg, Recorded, Silence, TimerFired
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..flows.running.turn import Passage
from ..flows.shown.words import speaking_seconds
from .situations import Edge
from .times import Stretch
from .walk import Walk

MOST_TRIES = 4
"""How many steps are counted at once to meet a limit."""
MOST_SEARCHED = 100_000
"""Situations, with counts, that are looked at for one example."""
TALK, PICK_UP, KEY = 20.0, 4.0, 1.5


@dataclass(frozen=True, slots=True)
class Happening:
    """One event of a call, as the engine takes it, so many seconds after the call came, with the answers to what is asked in it."""

    event: Event
    seconds: float
    answers: tuple[tuple[Question, Answer], ...] = ()


@dataclass(frozen=True, slots=True)
class Example:
    """A call that begins at a moment, to a number (None: any), and how it stands in the end."""

    at: datetime
    number: Touch | None
    happenings: tuple[Happening, ...]
    state: State


class NoExample(Exception):
    """A way that no call was found for."""


class NoWay(NoExample):
    """No way leads there."""


class _Call:
    """A call as it is made up, event by event."""

    def __init__(self, flow: Flow) -> None:
        self.flow, self.state, self.seconds = flow, State(), 0.0
        self.happenings: list[Happening] = []
        self.begun: dict[int, tuple[float, Command]] = {}

    def takes(self, edge: Edge, there: State) -> bool:
        """Folds the event of an edge, if the call then goes as the edge does, or otherwise to where it leads (by a limit that it meets sooner);
        questions are answered in the order of the edge's."""
        event, waiting, asked = self.real(edge.event), list(edge.answers), list[tuple[Question, Answer]]()
        if event is None:
            return False

        def source(question: Question) -> Answer:
            if not waiting or type(waiting[0][0]) is not type(question):
                raise NoExample("another question")
            asked.append((question, waiting.pop(0)[1]))
            return asked[-1][1]

        try:
            following, _ = engine.run(self.flow, self.state, event, source)
        except NoExample:
            return False
        if waiting or (following.way != edge.way and canonical(self.flow, following.state) != there):
            return False
        least, usual = self._lasts(event)
        self.seconds = round(self.seconds + max(least, usual), 2)
        self.state = following.state
        for command in following.commands:
            if isinstance(command, Play | Listen | Record | RingLeg | Timer):
                self.begun[command.id] = (self.seconds, command)
        self.happenings.append(Happening(event, self.seconds, tuple(asked)))
        return True

    def too_often(self, way: Sequence[Passage]) -> list[str]:
        """The steps that a way enters more often than the call still may."""
        entries = dict(self.state.entries)
        entered = Counter(step for _, step in way)
        return [
            step for step, times in entered.items() if entries.get(step, 0) + times > self.flow.home(step).entry_limit
        ]

    def real(self, event: Event | None) -> Event | None:
        """An event of the walk with the ids of this call; None for one that this call does not wait for."""
        if event is None or not hasattr(event, "command"):
            return event
        known: Any = event
        command = commands_of(self.state).get(known.command)
        return replace(known, command=command) if command is not None else None

    def _lasts(self, event: Event) -> tuple[float, float]:
        """After how many seconds an event comes at the earliest, and usually."""
        begun, command = self.begun.get(getattr(event, "command", 0), (self.seconds, None))
        match event, command:
            case Arrived(), _:
                return 0.0, 0.0
            case Finished(), Play():
                left = max(0.0, begun + speaking_seconds(command.prompt.say, command.voice.rate) - self.seconds)
                return left, left
            case ((Silence() | TimerFired()), (Listen() | Timer())):
                left = max(0.0, begun + command.seconds - self.seconds)
                return left, left
            case Leg(outcome="rang_out"), RingLeg():
                left = max(0.0, begun + command.seconds - self.seconds)
                return left, left
            case Leg(outcome="ended"), _:
                return 1.0, TALK
            case Leg(), RingLeg():
                return 0.1, min(PICK_UP, max(0.1, begun + command.seconds - self.seconds))
            case Recorded(), _:
                return event.voice + 0.5, event.voice + 1.5
        return 0.1, KEY


def example(walk: Walk, target: int) -> Example:
    """A call that comes to a situation. Raises NoExample where no call was found, NoWay where there is none."""
    return along(walk, walk.way_to(target))


def along(walk: Walk, way: Sequence[Edge]) -> Example:
    """A call that goes a way from the first situation on. Where that takes a limit to be met, it goes round until it is, to where the way ends. Raises
    NoExample where no call was found, NoWay where there is none."""
    tracked = tuple(dict.fromkeys(edge.limit for edge in way if edge.limit))
    return _made(walk, _counted(walk, way[-1].target, tracked) if tracked else way, tracked)


def _made(walk: Walk, way: Sequence[Edge], tracked: tuple[str, ...]) -> Example:
    """The call that goes a way, on which some steps were counted; where it enters others too often, these are counted too."""
    for _ in range(MOST_TRIES):
        call = _Call(walk.flow)
        passed: list[float] = []
        missed = None
        for edge in way:
            if edge.event is None:
                passed.append(call.seconds)
            elif not call.takes(edge, walk.situations[edge.target].state):
                missed = edge
                break
        if missed is None:
            return _at_a_moment(walk, way, passed, call)
        full = [step for step in call.too_often(missed.way) if step not in tracked]
        if not full:
            raise NoExample("the call goes another way")
        tracked = (*tracked, full[0])
        way = _counted(walk, way[-1].target, tracked)
    raise NoExample("too many limits")


def _at_a_moment(walk: Walk, way: Sequence[Edge], passed: Sequence[float], call: _Call) -> Example:
    time, number = _cells(walk, way)
    for moment, happenings in _moments(walk, time, passed, call):
        return Example(moment, walk.numbers_of(number), happenings, call.state)
    raise NoExample("no call lasts so long")


def _counted(walk: Walk, target: int, tracked: tuple[str, ...]) -> list[Edge]:
    """The way to a situation by the fewest events on which some steps are counted: each is entered as often as it may be, and a limit met
    only after that. Raises NoWay where there is none, and NoExample where too many ways were looked at."""
    limits = [walk.flow.home(step).entry_limit for step in tracked]
    begins = (0, (0,) * len(tracked))
    by: dict[tuple[int, tuple[int, ...]], tuple[tuple[int, tuple[int, ...]], Edge] | None] = {begins: None}
    todo = deque([begins])
    while todo and len(by) < MOST_SEARCHED:
        here = todo.popleft()
        for edge in walk.edges[here[0]]:
            counts = list(here[1])
            if edge.limit and (
                edge.limit not in tracked or counts[tracked.index(edge.limit)] < limits[tracked.index(edge.limit)]
            ):
                continue
            fits = True
            for _, step in edge.way:
                if step in tracked:
                    counts[tracked.index(step)] += 1
                    fits = fits and counts[tracked.index(step)] <= limits[tracked.index(step)]
            there = (edge.target, tuple(counts))
            if not fits or there in by:
                continue
            by[there] = (here, edge)
            if edge.target == target:
                return _traced(by, there)
            todo.append(there)
    raise NoExample("too many ways") if todo else NoWay("no way there")


def _traced(
    by: Mapping[tuple[int, tuple[int, ...]], tuple[tuple[int, tuple[int, ...]], Edge] | None], at: tuple[int, tuple[int, ...]]
) -> list[Edge]:  # fmt: skip
    found: list[Edge] = []
    while (last := by[at]) is not None:
        at = last[0]
        found.append(last[1])
    return found[::-1]


def _cells(walk: Walk, way: Sequence[Edge]) -> tuple[int, int]:
    """The cells of time and number in which all of a way is taken: those at its end."""
    world = walk.world
    time, number = world.times.first, world.numbers.all
    for edge in way:
        if edge.event is None:
            time = world.times.passed(time)
        else:
            time, number = time & edge.time, number & edge.number
    if not time or (world.numbers.each and not number):
        raise NoExample("at no moment")
    return time, number


def _moments(
    walk: Walk, time: int, passed: Sequence[float], call: _Call
) -> Iterator[tuple[datetime, tuple[Happening, ...]]]:  # fmt: skip
    """When the call can be made, with its happenings: the edges of stretches that it is followed over lie between the right events."""
    times = walk.world.times
    for place in times.beginnings(time):
        found = _fitted(times.whole, place, times.whole[place], passed, call.happenings)
        if found is not None:
            yield found


def _fitted(
    whole: Sequence[Stretch], place: int, stretch: Stretch, passed: Sequence[float], happenings: Sequence[Happening]
) -> tuple[datetime, tuple[Happening, ...]] | None:
    """The moment at which a call comes over so many edges of stretches, each after it has lasted so many seconds. Where an edge comes late,
    what happens next happens that much later."""
    length = (stretch.until - stretch.since).total_seconds()
    if not passed:
        at = stretch.since + timedelta(seconds=min(length / 2, 600 if length > 1200 else length / 2))
        return (at, tuple(happenings)) if happenings else None
    if place + len(passed) >= len(whole):
        return None
    at = stretch.until - timedelta(seconds=min(length, passed[0] + 0.05))
    moved = list(happenings)
    for number, begins in enumerate(passed):
        edge = (whole[place + number + 1].since - at).total_seconds()
        after = [one for one in moved if one.seconds > begins + _late(moved, happenings)]
        if after and after[0].seconds <= edge:
            by = edge + 0.05 - after[0].seconds
            first = moved.index(after[0])
            moved = [*moved[:first], *(replace(one, seconds=round(one.seconds + by, 2)) for one in moved[first:])]
    return at, tuple(moved)


def _late(moved: Sequence[Happening], happenings: Sequence[Happening]) -> float:
    return moved[0].seconds - happenings[0].seconds if moved else 0.0


def keys_of(example_: Example) -> str:
    """The keys that are pressed in a call."""
    return "".join(one.event.key for one in example_.happenings if isinstance(one.event, Digit))
