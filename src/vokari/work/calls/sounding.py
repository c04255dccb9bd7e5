"""A whole call as its caller heard it: prompts, tones and recordings laid on one time line."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy
from numpy.typing import NDArray

from ...core.calls.timeline import Piece, pieces
from ...formats import tones
from ...formats.audio import telephone
from ..agency.access import Actor
from ..house.house import House
from ..house.problems import Row
from ..prompts import speech
from . import history

LONGEST = 30 * 60
"""Seconds of a call that are made into sound; what comes after is in its recordings."""
RATE = telephone.RATE
BEGINNING = datetime(2000, 1, 1, tzinfo=UTC)
"""When test calls begin, which only know how long ago that was."""
Samples = NDArray[numpy.float32]


def heard(page: history.CallPage) -> list[Piece]:
    """What the caller of a call heard, piece by piece."""
    seconds = page.call.seconds if page.call else None
    return pieces(page.entries, seconds)


def wav(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> bytes:
    """The sound of a call as a WAV file (G.711 of the client's country), for those who may hear it."""
    page = history.one(house, actor, client_id, call_id)
    kept = _Kept([one.file for one in page.recordings], [one.file for one in page.messages])
    return _laid(house, heard(page), page.client.country, kept)


def rehearsed(house: House, log: Sequence[Row], country: str) -> bytes:
    """The sound of a test call, by its log; talks and messages, which were never spoken, are silent."""
    timed = [{**one, "at": (BEGINNING + timedelta(seconds=one["at"])).isoformat()} for one in log]
    return _laid(house, pieces(timed, log[-1]["at"] if log else 0.0), country, _Kept())


@dataclass(frozen=True, slots=True)
class _Kept:
    """The recordings of a call, as files."""

    talks: Sequence[str] = ()
    messages: Sequence[str] = ()


def _laid(house: House, parts: Sequence[Piece], country: str, kept: _Kept) -> bytes:
    """Pieces on one time line, as a WAV file."""
    ends = min(max((one.ends for one in parts), default=0.0), LONGEST)
    made = numpy.zeros(round(ends * RATE) + 1, dtype=numpy.float32)
    for one in parts:
        sound = _sound(house, country, kept, one)
        first = round(one.begins * RATE)
        part = sound[: max(0, min(round(one.seconds * RATE), made.size - first))]
        made[first : first + part.size] += part
    return telephone.wav(made.astype(numpy.float64), telephone.law_of(country))


def _sound(house: House, country: str, kept: _Kept, piece: Piece) -> Samples:
    match piece.kind:
        case "key":
            return _read(tones.key_tone(piece.words))
        case "beep":
            return _read(tones.beep())
        case "ringing":
            return _over_and_over(_read(tones.ringing_tone(country)), piece.seconds)
        case "talk":
            return _kept(house, kept.talks, piece.which)
        case "message":
            return _kept(house, kept.messages, piece.which)
    made = [_of(house, path) for path in piece.sounds]
    whole = numpy.concatenate(made) if made else numpy.zeros(0, dtype=numpy.float32)
    return _over_and_over(whole, piece.seconds) if piece.kind == "music" else whole


def _of(house: House, path: str) -> Samples:
    content = speech.wav(house, path.removeprefix("/speech/").removesuffix(".wav"))
    return _read(content) if content else numpy.zeros(0, dtype=numpy.float32)


def _kept(house: House, files: Sequence[str], which: int) -> Samples:
    """A recording of the call; silence where it was not recorded, or its sound has not come yet."""
    try:
        return _read(house.files.get(files[which])) if which < len(files) and files[which] else _NOTHING
    except (KeyError, ValueError):
        return _NOTHING


def _read(content: bytes) -> Samples:
    return telephone.read(content).astype(numpy.float32)


def _over_and_over(samples: Samples, seconds: float) -> Samples:
    size = round(seconds * RATE)
    return numpy.resize(samples, size) if samples.size else _NOTHING


_NOTHING: Samples = numpy.zeros(0, dtype=numpy.float32)
