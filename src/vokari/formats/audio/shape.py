"""The shape of a sound: its waveform in few values, and its silences."""

import numpy

from .telephone import RATE, Samples

POINTS = 240
"""Values of a waveform: as many as a picture of it has columns."""
STILL = 0.01
"""Amplitude under which nothing is heard: -40 dB. Common practice, no source."""
MARGIN = 0.05
"""Seconds that are kept before and after what is heard, where silence is cut off."""


def waveform(samples: Samples, points: int = POINTS) -> list[int]:
    """The highest amplitude in each of some columns, from 0 to 100."""
    if not samples.size:
        return []
    parts = numpy.array_split(numpy.abs(samples), min(points, samples.size))
    return [min(100, round(float(part.max()) * 100)) for part in parts]


def trimmed(samples: Samples, begins: float | None = None, ends: float | None = None, rate: int = RATE) -> Samples:
    """A sound from one second to another; at an end that is not given without its silence."""
    heard = numpy.flatnonzero(numpy.abs(samples) > STILL)
    margin = int(MARGIN * rate)
    first = round(begins * rate) if begins is not None else max(0, heard[0] - margin) if heard.size else 0
    last = round(ends * rate) if ends is not None else heard[-1] + margin + 1 if heard.size else samples.size
    return samples[first:last]
