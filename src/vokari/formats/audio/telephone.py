"""Telephone audio: 8,000 samples a second, mono, G.711 in a WAV file. Samples are numpy arrays of floats between -1 and 1."""

import io
from typing import Any, Literal

import numpy
import soundfile
from numpy.typing import NDArray

RATE = 8000
WIDE = 16000
"""The rate at which originals are looked at: what telephones leave out helps to understand words."""
Samples = NDArray[numpy.float64]
Law = Literal["ULAW", "ALAW"]


def law_of(country: str) -> Law:
    """How a country's telephones write sound: mu-law in North America, A-law elsewhere (ITU-T G.711)."""
    return "ULAW" if country in ("US", "CA") else "ALAW"


def at_rate(samples: NDArray[Any], rate: int) -> Samples:
    """Sound at the rate of telephones, its channels laid over each other. `samples` may have a column for each channel."""
    mono = samples.mean(axis=1) if samples.ndim > 1 else samples
    if rate == RATE:
        return numpy.asarray(mono, dtype=numpy.float64)
    return _resampled(mono, RATE, rate)


def up(samples: Samples) -> Samples:
    """Telephone audio at the wide rate, for what listens to that; nothing comes back that telephones left out."""
    return _resampled(samples, WIDE, RATE)


def _resampled(samples: NDArray[Any], to: int, rate: int) -> Samples:
    from scipy.signal import resample_poly  # a second's work to load, which call control is not to start with

    return numpy.asarray(resample_poly(samples, to, rate), dtype=numpy.float64)


def wav(samples: Samples, law: Law | Literal["PCM_16"]) -> bytes:
    """Sound at the rate of telephones as a WAV file."""
    file = io.BytesIO()
    soundfile.write(file, numpy.clip(samples, -1, 1), RATE, format="WAV", subtype=law)
    return file.getvalue()


def read(content: bytes) -> Samples:
    """The samples of a WAV file at the rate of telephones. Raises ValueError for what is no sound."""
    try:
        samples, rate = soundfile.read(io.BytesIO(content), dtype="float32")
    except (soundfile.LibsndfileError, RuntimeError) as error:
        raise ValueError("this is no sound that can be read") from error
    return at_rate(samples, rate)
