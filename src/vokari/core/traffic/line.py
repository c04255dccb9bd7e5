"""One call from end to end without a carrier: a discrete-event simulation of the line, the caller and the phones.

All times are seconds since the call arrived. Nothing here knows a clock; the same inputs give the same log.
"""

import heapq
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from itertools import count
from typing import Literal, Protocol

from ..flows.questions.kinds import Answers, AnswerSource, everyone_free
from ..flows.running import engine
from ..flows.running.commands import Command, Connect, Drop, Hold, Listen, Play, Record, RingLeg, Timer
from ..flows.running.events import Arrived, Digit, Event, Finished, Gone, Leg, Recorded, Silence, TimerFired
from ..flows.running.flow import Flow
from ..flows.running.state import State
from ..flows.shown.words import speaking_seconds
from ..numbers import numbering
from . import pacing
from .pacing import Behavior


@dataclass(frozen=True, slots=True)
class Phone:
    """How a phone behaves when rung: what it does, after how many seconds, how long a talk lasts, and whether
    the person presses the accept key."""

    behavior: Behavior = "answers"
    after: float = 6.0
    talk: float = 60.0
    accepts: bool = True


@dataclass(frozen=True, slots=True)
class Message:
    """What a caller does at a voicemail: seconds of voice, and how they end it."""

    voice: float = 8.0
    then: Literal["hang_up", "key", "silence"] = "hang_up"


class Caller(Protocol):
    """A caller: keys pressed when something is heard, an own time of hanging up, and a message for a voicemail."""

    hangs_up: float | None
    message: Message

    def hears(self, command: Play | Listen | Hold, now: float, seconds: float, state: State) -> list[tuple[float, str]]:
        """The keys pressed because of a prompt, a pause or a wait that starts now and lasts `seconds` (0: not known): (delay, key)."""

    def meets(self, command: Command, now: float) -> None:
        """Something begins for the caller; a caller may decide now how long to stay."""


@dataclass
class ScriptedCaller:
    """A caller who presses keys at given seconds of the call and nothing else."""

    press: tuple[tuple[float, str], ...] = ()
    hangs_up: float | None = None
    message: Message = field(default_factory=Message)

    def hears(self, command: Play | Listen | Hold, now: float, seconds: float, state: State) -> list[tuple[float, str]]:
        return []

    def meets(self, command: Command, now: float) -> None:
        return None


@dataclass(frozen=True, slots=True)
class Entry:
    """One event of a call with what the engine asked and what came of it."""

    seq: int
    at: float
    event: Event
    answers: Answers
    following: engine.Next

    @property
    def commands(self) -> tuple[Command, ...]:
        return self.following.commands

    @property
    def state(self) -> State:
        """Where the call stood after it."""
        return self.following.state


@dataclass(frozen=True, slots=True)
class CallRun:
    """A whole call: its log, its last state, its length, when and with which destination talks were connected, and whether
    it was a phone's own mailbox that took the call, which the flow cannot know."""

    log: tuple[Entry, ...]
    state: State
    seconds: float
    talks: tuple[tuple[float, float, str], ...]
    mailbox: bool = False


Speaking = Callable[[Play], float]
Phones = Callable[[RingLeg, State], Phone]
"""What a phone does that rings now, each time it does, in the state that the call has come to."""


def estimated(play: Play) -> float:
    """The length of a prompt from its words."""
    return speaking_seconds(play.prompt.say, play.voice.rate)


def run_call(
    flow: Flow,
    caller: Caller,
    phones: Mapping[str, Phone] | Phones,
    *,
    speaking: Speaking = estimated,
    source: AnswerSource = everyone_free,
    source_at: Callable[[float], AnswerSource] | None = None,
) -> CallRun:
    """Runs one call to its end. `phones` says how each number behaves, each time it rings, or always; one that is not named rings out.
    `source_at` gives the answers at a second of the call, where they differ from those of its beginning."""
    known = _by_number(phones) if isinstance(phones, Mapping) else phones
    return _Line(flow, caller, known, speaking, source_at or (lambda _: source)).run()


def _by_number(phones: Mapping[str, Phone]) -> Phones:
    silent = Phone("rings_out")
    return lambda leg, _: phones.get(leg.destination.dialed, silent)


@dataclass(slots=True)
class _Playing:
    command: int
    start: float
    seconds: float
    cut: bool


class _Line:
    def __init__(
        self, flow: Flow, caller: Caller, phones: Phones, speaking: Speaking,
        source_at: Callable[[float], AnswerSource],
    ) -> None:  # fmt: skip
        self.flow, self.caller, self.phones, self.speaking, self.source_at = flow, caller, phones, speaking, source_at
        self.now = 0.0
        self.state = State()
        self.log: list[Entry] = []
        self.queue: list[tuple[float, int, Event | str]] = []
        self.order = count()
        self.playing: _Playing | None = None
        self.listening = 0
        self.recording: Record | None = None
        self.record_start = 0.0
        self.legs: dict[int, tuple[RingLeg, Phone]] = {}
        self.ended_legs: set[int] = set()
        self.talks: list[tuple[float, float, str]] = []
        self.talk: tuple[float, str] | None = None
        self.on_hold = False
        self.mailbox = False

    def run(self) -> CallRun:
        for at, key in getattr(self.caller, "press", ()):
            self.later(at, f"press {key}")
        self.fold(Arrived())
        while self.queue and not self.state.ended:
            leaves = self.caller.hangs_up
            if leaves is not None and leaves <= self.queue[0][0]:
                self.now = max(self.now, leaves)
                self.leave()
                break
            self.now, _, what = heapq.heappop(self.queue)
            self.happen(what)
        if not self.state.ended:
            self.leave()
        self.end_talk()
        return CallRun(tuple(self.log), self.state, round(self.now, 1), tuple(self.talks), self.mailbox)

    def later(self, delay: float, what: Event | str) -> None:
        heapq.heappush(self.queue, (round(self.now + delay, 2), next(self.order), what))

    def leave(self) -> None:
        """The caller hangs up, in a recording as the end of it."""
        if self.recording:
            voice = pacing.cut_short(self.caller.message, self.record_start, self.now)
            self.fold(Recorded(self.recording.id, voice, gone=True))
        if not self.state.ended:
            self.fold(Gone(self.heard_half()))

    def heard_half(self) -> bool:
        return self.playing is not None and self.now - self.playing.start >= self.playing.seconds / 2

    def happen(self, what: Event | str) -> None:
        match what:
            case str():
                self.press(what.removeprefix("press "))
            case Finished(command):
                if self.playing and self.playing.command == command:
                    self.playing = None
                    self.fold(what)
            case Silence(command):
                if self.listening == command:
                    self.listening = 0
                    self.fold(what)
            case Leg(command, outcome):
                if command not in self.ended_legs:
                    if outcome not in ("answered",):
                        self.ended_legs.add(command)
                    if outcome == "ended":
                        self.end_talk()
                    self.fold(what)
            case Recorded(command, _, gone):
                if self.recording and self.recording.id == command:
                    if gone:
                        self.leave()
                    else:
                        self.recording = None
                        self.fold(what)
            case _:
                self.fold(what)

    def press(self, key: str) -> None:
        """A key: in a talk it is for the person, in a recording it may be the end of it."""
        if self.talk:
            return
        if self.recording:
            if key == self.recording.stop_key:
                voice = pacing.cut_short(self.caller.message, self.record_start, self.now)
                command, self.recording = self.recording.id, None
                self.fold(Recorded(command, voice))
            return
        half = self.heard_half()
        if self.playing and self.playing.cut:
            self.playing = None
        self.listening = 0
        self.fold(Digit(key, half))

    def fold(self, event: Event) -> None:
        following, answers = engine.run(self.flow, self.state, event, self.source_at(self.now))
        self.state = following.state
        self.log.append(Entry(len(self.log) + 1, round(self.now, 2), event, answers, following))
        for command in following.commands:
            self.caller.meets(command, self.now)
            self.obey(command)

    def obey(self, command: Command) -> None:
        match command:
            case Play():
                seconds = self.speaking(command)
                self.playing = _Playing(command.id, self.now, seconds, command.cut)
                self.later(seconds, Finished(command.id))
                self.keys(command, seconds)
            case Listen():
                self.listening = command.id
                self.later(command.seconds, Silence(command.id))
                self.keys(command, command.seconds)
            case Hold():
                self.playing, self.on_hold = None, True
                self.keys(command, 0.0)
            case RingLeg():
                if not self.on_hold:
                    self.playing = None
                phone = self.phones(command, self.state)
                self.legs[command.id] = (command, phone)
                self.ring(command, phone)
            case Drop():
                self.ended_legs.add(command.id)
            case Connect():
                leg, phone = self.legs[command.id]
                self.ended_legs.discard(command.id)
                self.on_hold, self.playing = False, None
                self.talk = (self.now, leg.destination.dialed)
                self.mailbox = self.mailbox or phone.behavior == "mailbox"
                self.later(phone.talk, Leg(command.id, "ended"))
            case Record():
                self.record(command)
            case Timer():
                self.later(command.seconds, TimerFired(command.id))

    def keys(self, command: Play | Listen | Hold, seconds: float) -> None:
        for delay, key in self.caller.hears(command, self.now, seconds, self.state):
            self.later(delay, f"press {key}")

    def ring(self, leg: RingLeg, phone: Phone) -> None:
        accept = float(leg.accept.seconds) if leg.accept else None
        behind = numbering.parted(leg.destination.dialed)[1] if leg.destination.answered == "dialed" else ""
        goes = pacing.outcomes(
            phone,
            leg.seconds,
            accept,
            machine_detection=leg.machine_detection,
            dialing=pacing.dialing(behind),
        )
        for delay, what in goes:
            self.later(delay, Leg(leg.id, what))

    def record(self, command: Record) -> None:
        """The caller speaks, then ends the recording in their own way, or the limit does."""
        self.recording, self.on_hold = command, False
        goes = pacing.recorded(
            self.caller.message, command.longest, command.stop_key, command.stop_silence, beep=command.beep
        )  # fmt: skip
        self.record_start = self.now + goes.begins
        self.later(goes.begins + goes.lasts, Recorded(command.id, goes.voice, goes.gone))

    def end_talk(self) -> None:
        if self.talk:
            start, number = self.talk
            self.talks.append((start, self.now, number))
            self.talk = None
