"""What Ring and Hold line have in common: how a person who is rung takes the call, and whether it is recorded."""

from collections.abc import Iterator
from typing import Protocol

from .exits import Slip
from .values import Accept, Hears, Recording

SURE = ("ask_for_key", "detect")
"""The mends by which a person can be told from a mailbox."""
RECORDED = {"on": "recorded", "on_demand": "recorded on demand"}


class Taking(Protocol):
    """A step by which a person can take the call."""

    @property
    def accept(self) -> Accept | None: ...
    @property
    def machine_detection(self) -> bool: ...
    @property
    def hears(self) -> Hears: ...
    @property
    def recording(self) -> Recording: ...
    @property
    def begins(self) -> str: ...


def taking_words(step: Taking) -> list[str]:
    """How they take the call, what they hear first, whether it is recorded."""
    parts = [f"press {step.accept.key} to take it"] if step.accept else []
    if step.hears.what != "nothing":
        parts.append("a whisper first" if step.hears.what == "whisper" else "the caller’s name first")
    if step.recording.mode == "sample":
        parts.append(f"{step.recording.in_hundred} in 100 recorded")
    elif step.recording.mode != "off":
        parts.append(RECORDED[step.recording.mode])
    return parts


def taking_slips(step: Taking, *, rings: bool) -> Iterator[Slip]:
    """A whisper without words; and, where it rings anybody, a person who cannot be told from a mailbox."""
    if step.hears.what == "whisper" and not step.hears.words:
        yield Slip("no_words", f"{step.begins} has a whisper without words.")
    if rings and step.accept is None and not step.machine_detection:
        sentence = (
            f"{step.begins} cannot tell a person from the phone’s own mailbox: a call that a mailbox takes counts as"
            " answered, unconfirmed, and what should follow never runs."
        )
        yield Slip("unconfirmed", sentence, weight="asks", mends=SURE)


def time_words(seconds: int) -> str:
    """A length of time in minutes where it is whole ones, else in seconds."""
    return f"{seconds // 60} min" if seconds >= 60 and seconds % 60 == 0 else f"{seconds} s"
