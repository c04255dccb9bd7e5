"""What the engine asks of the carrier. Ids count up within one call; events name the id they answer."""

from dataclasses import dataclass
from typing import Literal

from ...prompts.voices import USUAL, Voice
from ..model.values import Accept, NumberDestination, Prompt, SipDestination

Recorded = Literal["off", "on", "if_kept"]


@dataclass(frozen=True, slots=True)
class Play:
    """Play a prompt to the caller. A key stops it when `cut` is set; it is reported either way. `parts` are its words in pieces where
    fields were filled into them, each a sound of its own; `voice` reads them. `recorded` is the command whose recording is played in the place of the part that stands for
    it (0: none)."""

    id: int
    prompt: Prompt
    cut: bool
    language: str
    voice: Voice = USUAL
    parts: tuple[str, ...] = ()
    recorded: int = 0


@dataclass(frozen=True, slots=True)
class Listen:
    """Wait so many seconds for a key."""

    id: int
    seconds: float


@dataclass(frozen=True, slots=True)
class RingLeg:
    """Ring one phone for so many seconds; the id names the leg from then on. Whoever picks up hears the whisper first, with what
    the command `caller_name` recorded (0: nothing) in the place of {said name}."""

    id: int
    destination: NumberDestination | SipDestination
    seconds: int
    shows: str
    accept: Accept | None
    machine_detection: bool
    whisper: str = ""
    caller_name: int = 0


@dataclass(frozen=True, slots=True)
class Drop:
    """Stop ringing a leg. A person who has picked up, or does so too late, hears `words` first."""

    id: int
    words: str


@dataclass(frozen=True, slots=True)
class Connect:
    """Let the caller and the person on this leg talk, and record it: not, from the start, or so that it is thrown away at the end
    unless the person presses `keep_key`; `pause_key` stops the recording and goes on with it."""

    id: int
    recording: Recorded = "off"
    keep_key: str | None = None
    pause_key: str | None = None


@dataclass(frozen=True, slots=True)
class Record:
    """Record the caller, until the stop key, so many seconds of silence, the longest time, or the end of the call."""

    id: int
    mailbox: str | None
    beep: bool
    longest: int
    stop_key: str | None
    stop_silence: int | None


@dataclass(frozen=True, slots=True)
class Hold:
    """Play music, or a prompt over and over, until something else is said or the caller is connected. Keys are reported;
    a phone that rings meanwhile is not heard."""

    id: int
    prompt: Prompt | None
    language: str
    voice: Voice = USUAL


@dataclass(frozen=True, slots=True)
class Timer:
    """Report after so many seconds."""

    id: int
    seconds: int


@dataclass(frozen=True, slots=True)
class HangUpCall:
    """End the call."""

    id: int


Command = Play | Listen | RingLeg | Drop | Connect | Record | Hold | Timer | HangUpCall
