"""The keypad's sound, decoded."""

import io

import numpy
import pytest
import soundfile

from vokari.formats import tones

ROWS = (697, 770, 852, 941)
COLUMNS = (1209, 1336, 1477, 1633)
PAD = ("123A", "456B", "789C", "*0#D")


def power(samples: numpy.ndarray, rate: int, hertz: float) -> float:
    """The Goertzel algorithm: how strong one frequency is."""
    turn = 2 * numpy.cos(2 * numpy.pi * hertz / rate)
    before = last = 0.0
    for sample in samples:
        before, last = last, float(sample) + turn * last - before
    return before**2 + last**2 - turn * before * last


@pytest.mark.parametrize("key", "0123456789*#")
def test_each_key_sounds_its_two_frequencies(key: str) -> None:
    """ITU-T Q.23, values from memory: rows 697 to 941 Hz, columns 1209 to 1633 Hz."""
    samples, rate = soundfile.read(io.BytesIO(tones.key_tone(key)))
    assert rate == 8000
    rows = [power(samples, rate, hertz) for hertz in ROWS]
    columns = [power(samples, rate, hertz) for hertz in COLUMNS]
    assert PAD[rows.index(max(rows))][columns.index(max(columns))] == key
    for found in (rows, columns):
        strongest, second = sorted(found, reverse=True)[:2]
        assert strongest > 20 * second


def test_ringing_follows_the_country() -> None:
    """From memory: 440 and 480 Hz, 2 s on and 4 s off in North America; 400 and 450 Hz in a cadence of 3 s in the UK."""
    for country, low, length in (("US", 440, 6.0), ("GB", 400, 3.0)):
        samples, rate = soundfile.read(io.BytesIO(tones.ringing_tone(country)))
        assert len(samples) / rate == pytest.approx(length)
        assert power(samples[:3200], rate, low) > 100 * power(samples[:3200], rate, 1000)
