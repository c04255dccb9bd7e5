"""What Ring and Hold line have in common: how a person who is rung takes the call, and whether it is recorded."""

from collections.abc import Iterator
from typing import Protocol

from .exits import Named, Renaming, Slip
from .values import Accept, Hears, Recording

SURE = ("ask_for_key", "detect")
"""The mends by which a person can be told from a mailbox."""


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


def recorded_sources(step: Taking) -> Iterator[Named]:
    """The lead sources whose calls alone are recorded."""
    for key in step.recording.sources if step.recording.purpose == "all" else ():
        yield Named("source", key, called="a lead source whose calls are recorded")


def renamed_sources(recording: Recording, to: Renaming) -> Recording:
    """The recording with its lead sources under other keys. Where none of them is left nothing is recorded."""
    if not recording.sources:
        return recording
    keys = tuple(key for one in recording.sources if (key := to("source", one)))
    return recording.model_copy(update={"sources": keys, **({} if keys else {"purpose": "none"})})


def taking_words(step: Taking) -> list[str]:
    """How they take the call, what they hear first, whether it is recorded."""
    parts = [f"press {step.accept.key} to take it"] if step.accept else []
    if step.hears.words:
        parts.append("hears the caller’s name first" if step.hears.wants_name else "a whisper first")
    recording = step.recording
    if recording.purpose == "learn":
        parts.append(f"{recording.per_week} a week recorded")
    elif recording.purpose == "all":
        some = len(recording.sources)
        parts.append("recorded" if not some else f"recorded for {some} lead source{'s' if some > 1 else ''}")
    return parts


def taking_slips(step: Taking, *, rings: bool) -> Iterator[Slip]:
    """Where it rings anybody, a person who cannot be told from a mailbox."""
    if rings and step.accept is None and not step.machine_detection:
        sentence = (
            f"{step.begins} cannot tell a person from the phone’s own mailbox: a call that a mailbox takes counts as"
            " answered, unconfirmed, and what should follow never runs."
        )
        yield Slip("unconfirmed", sentence, weight="asks", mends=SURE)


def time_words(seconds: int) -> str:
    """A length of time in minutes where it is whole ones, else in seconds."""
    return f"{seconds // 60} min" if seconds >= 60 and seconds % 60 == 0 else f"{seconds} s"
