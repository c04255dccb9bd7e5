"""The messages of the protocol as they stand on the wire. Numbers are E.164, instants RFC 3339 with an offset, times seconds."""

from datetime import UTC, datetime
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from ...core.flows.running import commands as core
from ...core.flows.running import events

FIRST, LAST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)


def _within_reason(moment: datetime) -> datetime:
    if not FIRST <= moment < LAST:
        raise ValueError("the instant lies outside of the years 2000 to 2099")
    return moment


Moment = Annotated[AwareDatetime, AfterValidator(_within_reason)]
"""An instant from 2000 to 2099: calendars, partitions and time zones end somewhere, and a call that lies beyond is a mistake."""
E164 = Annotated[str, Field(pattern=r"^\+[1-9]\d{6,14}$")]
CommandId = Annotated[int, Field(ge=1, le=100_000)]


class Message(BaseModel):
    """A message whose unknown fields are errors."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class CallArrived(Message):
    """A caller rings a tracking number. `caller` is absent when the number is withheld. Where Vokari had a phone rung, `rung` is the
    reference that it gave, and `caller` the phone that was picked up; nobody was called then."""

    type: Literal["call_arrived"] = "call_arrived"
    caller: E164 | None = None
    called: E164 | None = None
    rung: Annotated[str, Field(max_length=64, pattern=r"^[A-Za-z0-9_-]*$")] = ""

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if bool(self.called) == bool(self.rung):
            raise ValueError("a call has either a number that was called or the reference of a phone that was rung")
        return self

    def to_core(self) -> events.Event:
        return events.Arrived()


class PromptFinished(Message):
    """A prompt was heard to its end."""

    type: Literal["prompt_finished"] = "prompt_finished"
    command: CommandId

    def to_core(self) -> events.Event:
        return events.Finished(self.command)


class DigitPressed(Message):
    """The caller pressed a key. `heard_half`: a prompt was playing and half of it had been heard."""

    type: Literal["digit"] = "digit"
    key: Annotated[str, Field(pattern=r"^[0-9*#]$")]
    heard_half: bool = False

    def to_core(self) -> events.Event:
        return events.Digit(self.key, self.heard_half)


class SilenceHeard(Message):
    """The seconds of a listen command passed with no key."""

    type: Literal["silence"] = "silence"
    command: CommandId

    def to_core(self) -> events.Event:
        return events.Silence(self.command)


class Talked(Message):
    """What was recorded of a talk that is over: the seconds, and where the carrier keeps the sound; empty for nothing."""

    recording: Annotated[str, Field(max_length=200, pattern=r"^[A-Za-z0-9_./-]*$")] = ""
    recorded_seconds: Annotated[float, Field(ge=0, le=86_400)] = 0.0


class LegChanged(Talked):
    """Something became of a phone; `command` is the ring command that rang it."""

    type: Literal["leg"] = "leg"
    command: CommandId
    outcome: Literal[
        "answered", "accepted", "refused", "busy", "declined", "unreachable", "rang_out", "machine", "ended"
    ]

    def to_core(self) -> events.Event:
        return events.Leg(self.command, self.outcome)


class RecordingFinished(Message):
    """A recording is over: its length, the seconds of voice once silence is trimmed, and where the carrier keeps it."""

    type: Literal["recording_finished"] = "recording_finished"
    command: CommandId
    seconds: Annotated[float, Field(ge=0, le=7200)]
    voice_seconds: Annotated[float, Field(ge=0, le=7200)]
    caller_gone: bool = False
    recording: Annotated[str, Field(max_length=200, pattern=r"^[A-Za-z0-9_./-]*$")] = ""

    def to_core(self) -> events.Event:
        return events.Recorded(self.command, self.voice_seconds, self.caller_gone)


class TimerFired(Message):
    """The seconds of a timer command have passed."""

    type: Literal["timer"] = "timer"
    command: CommandId

    def to_core(self) -> events.Event:
        return events.TimerFired(self.command)


class Poked(Message):
    """The application had asked for this event."""

    type: Literal["poked"] = "poked"

    def to_core(self) -> events.Event:
        return events.Poked()


class CallerGone(Talked):
    """The caller hung up."""

    type: Literal["caller_gone"] = "caller_gone"
    heard_half: bool = False

    def to_core(self) -> events.Event:
        return events.Gone(self.heard_half)


CallEvent = Annotated[
    CallArrived | PromptFinished | DigitPressed | SilenceHeard | LegChanged | RecordingFinished | TimerFired
    | Poked | CallerGone,
    Field(discriminator="type"),
]  # fmt: skip


class EventMessage(Message):
    """One event of a call, as the carrier posts it. `seq` counts from 1 in each call; `at` is the call's clock."""

    call: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,64}$")]
    seq: Annotated[int, Field(ge=1, le=100_000)]
    at: Moment
    event: CallEvent


class PlayPart(Message):
    """A piece of what is played: its words, a path at Vokari to a WAV of them (G.711, 8,000 samples a second), and its length; or what the
    record command `recorded` recorded, whose length the carrier knows."""

    words: str
    audio: str = ""
    seconds: float
    recorded: int | None = None


class PlayCommand(Message):
    """Play words; `audio` is a path at Vokari to a WAV of them (G.711, 8,000 samples a second), `seconds` its length. Words into which
    something was filled come in `parts`, played one after the other, and have no `audio` of their own. A key stops it when `cut`."""

    type: Literal["play"] = "play"
    id: int
    words: str
    language: str
    audio: str = ""
    seconds: float
    cut: bool
    parts: tuple[PlayPart, ...] = ()


class ListenCommand(Message):
    """Wait so many seconds for a key, then report silence."""

    type: Literal["listen"] = "listen"
    id: int
    seconds: float


class AcceptKey(Message):
    """The key that the person who picks up must press, and the seconds for it."""

    key: str
    seconds: int


class RingCommand(Message):
    """Ring a phone, by E.164 number or SIP address (RFC 3261), for so many seconds; `shows` is the number the person sees.

    `post_dial` are digits (0 to 9, *, #, p a pause, w a wait for a tone) that are dialed once it picks up; `answered` says whether
    that it is picked up counts as answered, or only that they were dialed. What the person hears first: the words `whisper`, the
    sound of the record command `caller_name`, if there is one, and the words `whisper_after`."""

    type: Literal["ring"] = "ring"
    id: int
    number: str
    seconds: int
    shows: Literal["caller", "tracking_number"]
    accept: AcceptKey | None = None
    machine_detection: bool = False
    whisper: str = ""
    caller_name: int | None = None
    whisper_after: str = ""
    post_dial: str = ""
    answered: Literal["picked_up", "dialed"] = "picked_up"


class DropCommand(Message):
    """End the leg that the ring command `id` rang; somebody who has picked up, or does too late, hears the words."""

    type: Literal["drop"] = "drop"
    id: int
    words: str


class ConnectCommand(Message):
    """Connect the caller with the leg that the ring command `id` rang, and record the two: not, from the start, or from the start
    and only kept where the person presses `keep_key`. `pause_key`, pressed by the person, stops the recording and goes on with it."""

    type: Literal["connect"] = "connect"
    id: int
    recording: core.Recorded = "off"
    keep_key: str | None = None
    pause_key: str | None = None


class RecordCommand(Message):
    """Record the caller until the stop key, the silence, the longest time, or the end of the call."""

    type: Literal["record"] = "record"
    id: int
    beep: bool
    longest: int
    stop_key: str | None = None
    stop_silence: int | None = None


class HoldCommand(Message):
    """Play music to the caller, or the words over and over (`audio` and `seconds` as for play), until another play, a
    connection or the end; keys are reported, and a phone that rings meanwhile is not heard."""

    type: Literal["hold"] = "hold"
    id: int
    words: str = ""
    language: str
    audio: str = ""
    seconds: float = 0.0


class TimerCommand(Message):
    """Report after so many seconds."""

    type: Literal["timer"] = "timer"
    id: int
    seconds: int


class HangUpCommand(Message):
    """End the call."""

    type: Literal["hang_up"] = "hang_up"
    id: int


CallCommand = Annotated[
    PlayCommand | ListenCommand | RingCommand | DropCommand | ConnectCommand | RecordCommand | HoldCommand
    | TimerCommand | HangUpCommand,
    Field(discriminator="type"),
]  # fmt: skip


class CommandsMessage(Message):
    """The answer to an event: what to do next. `ended` says that no further event is expected."""

    call: str
    seq: int
    commands: tuple[CallCommand, ...]
    ended: bool


def instant(text: str) -> datetime:
    """An RFC 3339 instant, as the messages carry it."""
    return datetime.fromisoformat(text.replace("Z", "+00:00"))
