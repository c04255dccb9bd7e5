"""How long things take on a line: phones that ring, and callers who speak after the tone. The simulator and the carrier stand-in
keep the same pace. All times are seconds."""

from dataclasses import dataclass
from typing import Literal, Protocol

from ..flows.running.events import LegOutcome

Behavior = Literal["answers", "busy", "declines", "rings_out", "mailbox", "unreachable"]
BEHAVIORS: tuple[Behavior, ...] = ("answers", "busy", "declines", "rings_out", "mailbox", "unreachable")

BUSY_AFTER = 1.0
UNREACHABLE_AFTER = 2.0
ACCEPT_AFTER = 3.0
MACHINE_HEARD_AFTER = 2.0
BEEP_SECONDS = 0.5
DIGIT, PAUSE = 0.3, 2.0
"""How long a tone and the gap behind it take, and a pause among them."""
MOVES_AFTER = 1.0
"""How long after the last word a caller presses the key, or hangs up."""


class Behaving(Protocol):
    """How a phone behaves when rung: what it does, after how many seconds, and whether the person presses the accept key."""

    @property
    def behavior(self) -> Behavior: ...
    @property
    def after(self) -> float: ...
    @property
    def accepts(self) -> bool: ...


class Leaving(Protocol):
    """What a caller does at a voicemail: seconds of voice, and how they end it."""

    @property
    def voice(self) -> float: ...
    @property
    def then(self) -> Literal["hang_up", "key", "silence"]: ...


def outcomes(
    phone: Behaving, seconds: float, accept_seconds: float | None, *, machine_detection: bool, dialing: float = 0.0
) -> list[tuple[float, LegOutcome]]:
    """What becomes of a phone that is rung for so many seconds, and when; `accept_seconds` is the time for the accept key, None
    where none is asked for; `dialing` how long
    digits behind the number take, where only then it counts. Only a person can press it; a mailbox is heard by the carrier's detection where that is on."""
    in_time = phone.after < seconds
    match phone.behavior:
        case "busy":
            return [(BUSY_AFTER, "busy")]
        case "unreachable":
            return [(UNREACHABLE_AFTER, "unreachable")]
        case "declines" if in_time:
            return [(phone.after, "declined")]
        case "mailbox" if in_time and machine_detection:
            return [(phone.after + MACHINE_HEARD_AFTER, "machine")]
        case "answers" | "mailbox" if in_time:
            picked_up: list[tuple[float, LegOutcome]] = [(phone.after + dialing, "answered")]
            if accept_seconds is None:
                return picked_up
            takes = phone.behavior == "answers" and phone.accepts and accept_seconds > ACCEPT_AFTER
            delay = ACCEPT_AFTER if takes else float(accept_seconds)
            return [*picked_up, (phone.after + dialing + delay, "accepted" if takes else "refused")]
    return [(float(seconds), "rang_out")]


def dialing(digits: str) -> float:
    """How long it takes until digits are dialed: p and w are pauses."""
    return sum(PAUSE if one in "pw" else DIGIT for one in digits)


@dataclass(frozen=True, slots=True)
class Recorded:
    """A recording as it will go: when the voice begins, how long it lasts from then on, the seconds of voice in it, and whether the
    caller ends it by hanging up."""

    begins: float
    lasts: float
    voice: float
    gone: bool = False


def recorded(
    message: Leaving, longest: float, stop_key: str | None, stop_silence: float | None, *, beep: bool
) -> Recorded:
    """How a caller is recorded, until the stop key, so many seconds of silence, or the longest time."""
    begins = BEEP_SECONDS if beep else 0.0
    if message.voice >= longest:
        return Recorded(begins, float(longest), float(longest))
    if message.then == "hang_up":
        return Recorded(begins, message.voice + MOVES_AFTER, message.voice, gone=True)
    if message.then == "key" and stop_key:
        return Recorded(begins, message.voice + MOVES_AFTER, message.voice)
    return Recorded(begins, min(message.voice + (stop_silence or longest), float(longest)), message.voice)


def cut_short(message: Leaving, began: float, now: float) -> float:
    """The seconds of voice in a recording that ends at a moment, by a key or because the caller hangs up; to a tenth."""
    return round(min(message.voice, max(0.0, now - began)), 1)
