"""Keypad tones: the pair of frequencies of each key, and their sound.

Source: ITU-T Q.23 (rows 697, 770, 852, 941 Hz; columns 1209, 1336, 1477, 1633 Hz), from memory.
"""

import io

import numpy
import soundfile

RATE = 8000
ROWS = (697, 770, 852, 941)
COLUMNS = (1209, 1336, 1477)
KEYS = ("123", "456", "789", "*0#")

FREQUENCIES = {key: (ROWS[r], COLUMNS[c]) for r, row in enumerate(KEYS) for c, key in enumerate(row)}


def key_tone(key: str, seconds: float = 0.12) -> bytes:
    """A WAV file (8,000 samples a second, 16 bits, mono) of one key's two tones. Raises KeyError for no key."""
    low, high = FREQUENCIES[key]
    times = numpy.arange(int(RATE * seconds)) / RATE
    wave = 0.35 * numpy.sin(2 * numpy.pi * low * times) + 0.35 * numpy.sin(2 * numpy.pi * high * times)
    ramp = numpy.minimum(1, numpy.minimum(numpy.arange(wave.size), numpy.arange(wave.size)[::-1]) / 40)
    return wav(wave * ramp)


def ringing_tone(country: str) -> bytes:
    """One cadence of the ringing tone that a caller hears. From memory: North American precise tone plan; UK tones."""
    if country == "GB":
        pieces = [(0.4, (400, 450)), (0.2, ()), (0.4, (400, 450)), (2.0, ())]
    else:
        pieces = [(2.0, (440, 480)), (4.0, ())]
    parts = []
    for seconds, tones in pieces:
        times = numpy.arange(int(RATE * seconds)) / RATE
        parts.append(sum((0.15 * numpy.sin(2 * numpy.pi * tone * times) for tone in tones), numpy.zeros(times.size)))
    return wav(numpy.concatenate(parts))


def beep(seconds: float = 0.5) -> bytes:
    """The tone before a recording: 1,000 Hz. Common practice, no source."""
    times = numpy.arange(int(RATE * seconds)) / RATE
    return wav(0.3 * numpy.sin(2 * numpy.pi * 1000 * times))


def wav(samples: numpy.ndarray) -> bytes:
    """Samples between -1 and 1 as a WAV file."""
    file = io.BytesIO()
    soundfile.write(file, samples, RATE, format="WAV", subtype="PCM_16")
    return file.getvalue()
