"""What happens on a call, as the engine hears it. Each value is one thing that the carrier reports."""

from dataclasses import dataclass
from typing import Literal

LegOutcome = Literal[
    "answered", "accepted", "refused", "busy", "declined", "unreachable", "rang_out", "machine", "ended"
]


@dataclass(frozen=True, slots=True)
class Arrived:
    """The call is at the door; the flow starts."""


@dataclass(frozen=True, slots=True)
class Finished:
    """A prompt was heard to its end."""

    command: int


@dataclass(frozen=True, slots=True)
class Digit:
    """A key was pressed. `heard_half` says whether half of a prompt that was playing had been heard by then."""

    key: str
    heard_half: bool = False


@dataclass(frozen=True, slots=True)
class Silence:
    """The time of a Listen ran out with no key."""

    command: int


@dataclass(frozen=True, slots=True)
class Leg:
    """Something became of a phone that was rung; `command` is the RingLeg that rang it.

    `refused` is a phone that was picked up without pressing the accept key in time, `machine` a phone where the
    carrier's detection heard a voicemail, `ended` a person who hung up after the call was connected.
    """

    command: int
    outcome: LegOutcome


@dataclass(frozen=True, slots=True)
class Recorded:
    """A recording is over, with `voice` seconds of speech in it. `gone`: the caller ended it by hanging up."""

    command: int
    voice: float
    gone: bool = False


@dataclass(frozen=True, slots=True)
class TimerFired:
    """A timer's seconds have passed."""

    command: int


@dataclass(frozen=True, slots=True)
class Poked:
    """The application asked the carrier for this event, because something outside the call has changed."""


@dataclass(frozen=True, slots=True)
class Gone:
    """The caller hung up. `heard_half` as for a digit."""

    heard_half: bool = False


Event = Arrived | Finished | Digit | Silence | Leg | Recorded | TimerFired | Poked | Gone

NAMES: dict[str, type] = {
    "arrived": Arrived, "finished": Finished, "digit": Digit, "silence": Silence, "leg": Leg, "recorded": Recorded,
    "timer": TimerFired, "poked": Poked, "gone": Gone,
}  # fmt: skip
"""Each kind of event by the name it is stored with."""
