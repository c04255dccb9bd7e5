"""Real sound on a line: what is played is fetched, what is said is spoken or comes from a file, and both are laid on one time line."""

import io

import httpx
import numpy
import soundfile
from numpy.typing import NDArray

from ...formats import tones
from ...formats.audio import telephone
from ..speech import EspeakSpeech
from .script import MessageScript

Samples = NDArray[numpy.float64]
RATE = telephone.RATE
LONGEST = 3600
"""Seconds of a line that are kept as sound."""


class Sounds:
    """What is heard on one line: pieces by the second at which they begin. A piece can be cut where something else begins."""

    def __init__(self) -> None:
        self.pieces: list[tuple[float, Samples]] = []
        self.recorded: dict[int, Samples] = {}

    def begin(self, at: float, samples: Samples) -> int:
        """Lays a piece down; gives its number."""
        self.pieces.append((at, samples))
        return len(self.pieces) - 1

    def cut(self, number: int, at: float) -> None:
        """Ends a piece at a second."""
        since, samples = self.pieces[number]
        self.pieces[number] = (since, samples[: max(0, round((at - since) * RATE))])

    def whole(self) -> Samples:
        """All that was heard, on one time line."""
        ends = max((at + samples.size / RATE for at, samples in self.pieces), default=0.0)
        made = numpy.zeros(round(min(ends, LONGEST) * RATE) + 1)
        for at, samples in self.pieces:
            first = round(at * RATE)
            part = samples[: max(0, made.size - first)]
            made[first : first + part.size] += part
        return made


async def fetched(http: httpx.AsyncClient, url: str) -> Samples | None:
    """The sound at an address of the application; None for none that can be had."""
    try:
        answer = await http.get(url)
        return telephone.read(answer.content) if answer.status_code == 200 else None
    except (httpx.HTTPError, ValueError):
        return None


def said(message: MessageScript) -> Samples:
    """What somebody says: the sound that was brought, or their words."""
    if message.recording:
        samples, rate = soundfile.read(io.BytesIO(message.recording), dtype="float64")
        return telephone.at_rate(samples, rate)
    ssml = f"<speak>{message.words.replace('&', '&amp;').replace('<', '&lt;')}</speak>"
    return telephone.read(EspeakSpeech().speak(ssml, "en-US"))


def beep() -> Samples:
    """The tone before a recording."""
    return telephone.read(tones.beep())


def key(pressed: str) -> Samples:
    """A key that is pressed."""
    return telephone.read(tones.key_tone(pressed))


def wav(samples: Samples) -> bytes:
    """Sound as a WAV file (G.711, mu-law)."""
    return telephone.wav(samples, "ULAW")
