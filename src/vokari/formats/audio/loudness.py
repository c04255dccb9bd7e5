"""Loudness of telephone audio: measured (ITU-R BS.1770-4, by pyloudnorm), and brought to one level."""

from functools import reduce

import numpy
from pyloudnorm import Meter
from scipy.ndimage import minimum_filter1d, uniform_filter1d
from scipy.signal import firwin, resample_poly

from ...core.prompts.quality import LOUDNESS, SHORT, TRUE_PEAK, Measured
from .shape import STILL
from .telephone import RATE, Samples

_METER = Meter(RATE)
OVERSAMPLED = 4
"""How much finer true peaks are looked for (BS.1770-4, annex 2, asks for 192,000 samples a second of 48,000)."""
BLOCK, CONTEXT = 128, 16
"""Samples that are looked at together, and those to each side that their peaks depend on."""
_BETWEEN = firwin(12 * OVERSAMPLED + 1, 1 / OVERSAMPLED, window=("kaiser", 5.0))
"""What finds the sound between samples: 12 of them to each, as in the example of BS.1770-4, annex 2."""
SILENT = 1e-5
TOP = 0.985
"""Amplitude from which a sample counts as clipped. Common practice, no source."""
HOLD = RATE // 200
"""Samples to each side of a peak over which it is turned down: 5 ms."""
ROOM = 0.3
"""Decibels under the highest true peak that writing as G.711 may take."""
TRIES = 4
NEAR = 0.1
"""Loudness units to which the loudness is brought: what a meter shows."""
CLOSE = 0.75
"""Loudness units of which the step that follows leaves under 0.2: it is not measured again."""
YIELDS = 0.6
"""How much louder speech whose peaks are turned down becomes for a decibel more, before it is known of this sound."""


def integrated(samples: Samples) -> float | None:
    """The loudness in LUFS; None for what is shorter than a block of the measure, or silent."""
    if samples.size < SHORT * RATE or not numpy.any(numpy.abs(samples) > SILENT):
        return None
    found = float(_METER.integrated_loudness(samples))
    return found if numpy.isfinite(found) else None


def true_peak(samples: Samples) -> float:
    """The highest peak, between samples too, in dBTP; -120 for silence."""
    top = float(numpy.abs(samples).max(initial=0))
    return _decibel(float(_peaks(samples, top / 2).max())) if top else -120.0


def level(samples: Samples) -> Samples:
    """The sound brought to the loudness of all prompts, or by its peak where it is too short for one; no true peak is higher than
    allowed. Silence stays silence."""
    loudness = integrated(samples)
    if loudness is None:
        top = true_peak(samples)
        return samples * _factor(TRUE_PEAK - ROOM - top) if top > -100 else samples
    most, gain = _factor(TRUE_PEAK - ROOM), _factor(LOUDNESS - loudness)
    peaks = _peaks(samples, most / gain / 2)
    if peaks.max(initial=0) * gain <= most:
        return samples * gain
    made, yields, sure = samples, YIELDS, False
    before: tuple[float, float] | None = None
    for _ in range(TRIES):
        made = samples * gain * _turned_down(peaks * gain, most)
        if sure:
            break
        loudness = integrated(made)
        if loudness is None or abs(loudness - LOUDNESS) < NEAR:
            break
        sure = abs(loudness - LOUDNESS) < CLOSE
        if before and abs(_decibel(gain / before[0])) > 0.01:
            yields = min(1.0, max(0.2, (loudness - before[1]) / _decibel(gain / before[0])))
        before = (gain, loudness)
        gain *= _factor((LOUDNESS - loudness) / yields)
    return made


def _turned_down(peaks: Samples, most: float) -> Samples:
    """Factors that keep peaks under the highest, each with the 5 ms around it."""
    wanted = numpy.minimum(1, most / numpy.maximum(peaks, 1e-9))
    smooth = uniform_filter1d(minimum_filter1d(wanted, 2 * HOLD + 1), HOLD + 1, mode="nearest")
    return numpy.asarray(numpy.minimum(smooth, wanted))


def _peaks(samples: Samples, floor: float) -> Samples:
    """The peak at each sample and the stretch behind it; between samples it is looked for only where one is over a floor."""
    found = numpy.abs(samples)
    if not samples.size:
        return found
    blocks = -(-samples.size // BLOCK)
    padded = numpy.pad(samples, (CONTEXT, blocks * BLOCK - samples.size + CONTEXT))
    whole = numpy.pad(found, (0, blocks * BLOCK - samples.size)).reshape(blocks, BLOCK)
    loud = numpy.flatnonzero(whole.max(axis=1) > floor)
    if loud.size:
        around = padded[loud[:, None] * BLOCK + numpy.arange(BLOCK + 2 * CONTEXT)]
        fine = numpy.abs(resample_poly(around, OVERSAMPLED, 1, axis=1, window=_BETWEEN))
        inside = fine[:, CONTEXT * OVERSAMPLED : (CONTEXT + BLOCK) * OVERSAMPLED]
        whole[loud] = reduce(numpy.maximum, (inside[:, one::OVERSAMPLED] for one in range(OVERSAMPLED)))
    return numpy.asarray(whole.reshape(-1)[: samples.size])


def _factor(decibel: float) -> float:
    return float(10 ** (decibel / 20))


def _decibel(factor: float) -> float:
    return float(20 * numpy.log10(max(factor, 1e-6)))


def measured(samples: Samples) -> Measured:
    """What is measured of an original at the rate of telephones."""
    seconds = samples.size / RATE
    clipped = float(numpy.mean(numpy.abs(samples) >= TOP)) if samples.size else 0.0
    return Measured(seconds, integrated(samples), true_peak(samples), clipped, _longest_silence(samples))


def _longest_silence(samples: Samples) -> float:
    """The longest silence in seconds between two sounds."""
    heard = numpy.flatnonzero(numpy.abs(samples) > STILL)
    if heard.size < 2:
        return 0.0
    return float(numpy.diff(heard).max()) / RATE
