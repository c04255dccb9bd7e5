"""Telephone audio against the standards: G.711, loudness, true peak, WAV headers, keypad tones, and what is no sound."""

import io
import wave
from typing import Any

import numpy
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.prompts.quality import LOUDNESS, TRUE_PEAK, Measured, warnings
from vokari.formats import tones
from vokari.formats.audio import loudness, shape, sniffing, telephone

RATE = telephone.RATE


def tone(hertz: float, seconds: float, amplitude: float, rate: int = RATE) -> Any:
    return amplitude * numpy.sin(2 * numpy.pi * hertz * numpy.arange(int(seconds * rate)) / rate)


def body(content: bytes) -> bytes:
    """The samples of a WAV file as they stand in it (RIFF chunks)."""
    at = content.index(b"data") + 8
    return content[at : at + int.from_bytes(content[at - 4 : at], "little")]


MU_LAW = {0: 0xFF, 8031: 0x80, -8031: 0x00, 4063: 0x8F, 2015: 0x9F, 991: 0xAF, 479: 0xBF, 223: 0xCF, 95: 0xDF, 31: 0xEF}
"""Values at the segments' ends and the octets they are written as: ITU-T G.711 (11/88), table 2a, for 14-bit values; from memory."""
A_LAW = {0: 0xD5, 4032: 0xAA, -4032: 0x2A, 2112: 0xA5, 1056: 0xB5, 528: 0x85, 264: 0x95}
"""The same of table 1a, for 13-bit values; from memory."""


@pytest.mark.parametrize(("law", "table", "scale"), [("ULAW", MU_LAW, 8192), ("ALAW", A_LAW, 4096)])
def test_samples_are_written_as_the_tables_of_the_standard_have_them(
    law: Any, table: dict[int, int], scale: int
) -> None:
    samples = numpy.array([*table]) / scale
    written = body(telephone.wav(samples, law))
    assert [f"{one:02x}" for one in written] == [f"{one:02x}" for one in table.values()]


@pytest.mark.parametrize(("law", "codec"), [("ULAW", "ulaw2lin"), ("ALAW", "alaw2lin")])
def test_every_octet_is_read_as_an_independent_codec_reads_it(law: Any, codec: str) -> None:
    """Against Python's audioop."""
    audioop = pytest.importorskip("audioop")
    octets = bytes(range(256))
    theirs = numpy.frombuffer(getattr(audioop, codec)(octets, 2), dtype="<i2") / 32768
    file = io.BytesIO()
    soundfile.write(file, theirs, RATE, format="WAV", subtype=law)
    assert numpy.abs(telephone.read(telephone.wav(theirs, law)) - theirs).max() < 2e-4
    assert numpy.abs(telephone.read(file.getvalue()) - theirs).max() < 2e-4


def test_a_wav_header_says_what_it_is() -> None:
    """Against Python's wave module, for PCM; and the RIFF fields themselves for G.711, which that does not read."""
    with wave.open(io.BytesIO(telephone.wav(tone(440, 1, 0.5), "PCM_16"))) as read:
        assert (read.getframerate(), read.getnchannels(), read.getsampwidth(), read.getnframes()) == (8000, 1, 2, 8000)
    written = telephone.wav(tone(440, 1, 0.5), "ULAW")
    at = written.index(b"fmt ") + 8
    assert (int.from_bytes(written[at : at + 2], "little"), int.from_bytes(written[at + 4 : at + 8], "little")) == (
        7,
        8000,
    )
    assert len(body(written)) == 8000
    assert int.from_bytes(written[4:8], "little") == len(written) - 8


def test_loudness_of_made_signals() -> None:
    """A sine of 997 Hz at 0 dBFS in one channel has -3.01 LUFS (ITU-R BS.1770-4, annex 1); so -20 dBFS has -23.01. At 8,000 samples a
    second the measure's filter is bent near its top, which a tone shows more than speech does."""
    for decibel in (0.0, -20.0):
        measured = loudness.integrated(tone(997, 5, 10 ** (decibel / 20)))
        assert measured == pytest.approx(decibel - 3.01, abs=0.2)


def test_a_peak_between_samples_is_found() -> None:
    """A sine at a quarter of the rate, a half-sample off: its samples reach 0.707 of its peak (EBU tech 3341, true peak signals)."""
    samples = numpy.sin(2 * numpy.pi * numpy.arange(4000) / 4 + numpy.pi / 4) * 0.5
    assert numpy.abs(samples).max() == pytest.approx(0.3536, abs=1e-3)
    assert loudness.true_peak(samples) == pytest.approx(-6.02, abs=0.4)


@pytest.mark.parametrize("gain", [0.02, 0.2, 1.0])
def test_speech_of_any_loudness_is_brought_to_one(gain: float) -> None:
    noise = numpy.random.default_rng(7).normal(0, 0.2, 6 * RATE)
    syllables = numpy.abs(numpy.sin(numpy.arange(noise.size) / RATE * 9)) ** 2
    made = loudness.level(noise * syllables * gain)
    assert loudness.integrated(made) == pytest.approx(LOUDNESS, abs=0.3)
    written = telephone.read(telephone.wav(made, "ULAW"))
    assert loudness.true_peak(written) <= TRUE_PEAK


def test_a_short_clip_is_brought_to_the_peak_and_silence_stays_silence() -> None:
    assert loudness.true_peak(loudness.level(tone(600, 0.2, 0.05))) == pytest.approx(TRUE_PEAK, abs=0.5)
    assert not loudness.level(numpy.zeros(RATE)).any()
    assert loudness.integrated(numpy.zeros(RATE)) is None


@given(st.floats(0.01, 2), st.integers(1, 400))
def test_no_sound_is_louder_than_allowed(gain: float, seed: int) -> None:
    samples = numpy.random.default_rng(seed).normal(0, gain, RATE)
    assert loudness.true_peak(loudness.level(samples)) <= TRUE_PEAK


def test_keypad_tones_are_found_in_mixed_audio() -> None:
    """Goertzel's measure at the frequencies of ITU-T Q.23, in a key's tones laid over words of noise."""
    noise = numpy.random.default_rng(3).normal(0, 0.03, RATE)
    for key, pair in tones.FREQUENCIES.items():
        mixed = noise.copy()
        pressed = telephone.read(tones.key_tone(key))
        mixed[2000 : 2000 + pressed.size] += pressed
        part = telephone.read(telephone.wav(mixed, "ULAW"))[2000 : 2000 + pressed.size]
        times = numpy.arange(part.size) / RATE
        power = {f: abs((part * numpy.exp(-2j * numpy.pi * f * times)).sum()) for f in (*tones.ROWS, *tones.COLUMNS)}
        low, high = max(tones.ROWS, key=power.__getitem__), max(tones.COLUMNS, key=power.__getitem__)
        assert (low, high) == pair


def test_silence_at_both_ends_is_cut_and_what_is_wrong_is_said() -> None:
    silence = numpy.zeros(2 * RATE)
    spoken = tone(300, 1, 0.3)
    whole = numpy.concatenate([silence, spoken, silence, silence, spoken, silence])
    trimmed = shape.trimmed(whole)
    assert trimmed.size / RATE == pytest.approx(6.1, abs=0.05)
    assert shape.trimmed(whole, 1.0, 3.0).size == 2 * RATE
    measured = loudness.measured(trimmed)
    assert measured.silence == pytest.approx(4.0, abs=0.05)
    assert "silence of 4 seconds" in warnings(measured, "message")[0]
    clipped = loudness.measured(numpy.clip(tone(300, 1, 3.0), -1, 1))
    assert "clipped" in warnings(clipped, "message")[0]
    assert "very quiet" in warnings(Measured(5, -50, -40, 0, 0), "message")[0]
    assert "callers listen to a retry for about 15" in warnings(Measured(40, -18, -3, 0, 0), "retry")[0]
    assert max(shape.waveform(trimmed)) == 30
    assert max(shape.waveform(trimmed)) <= 100


@pytest.mark.parametrize(
    ("name", "head", "said"),
    [
        ("a.wav", b"", "empty"), ("a.wav", b"%PDF-1.7", "no sound"), ("a.mp3", b"RIFF\0\0\0\0WAVE", "Its name says .mp3, and it is WAV"),
        ("a.wav", b"RIFF\0\0\0\0WAVE", ""), ("../../a.webm", b"\x1a\x45\xdf\xa3", ""), ("a", b"OggS", ""), ("a.mp3", b"ID3\x03", ""),
        ("x.html", b"<html>", "no sound"), ("a.flac", b"fLaC", ""), ("a.m4a", b"\0\0\0\x20ftypM4A ", ""),
    ],
)  # fmt: skip
def test_a_file_is_what_its_first_bytes_say(name: str, head: bytes, said: str) -> None:
    found = sniffing.problem(name, head)
    assert found == "" if not said else said in found


def test_a_file_that_breaks_off_is_told() -> None:
    whole = telephone.wav(tone(440, 1, 0.5), "PCM_16")
    assert sniffing.is_whole("wav", whole)
    assert not sniffing.is_whole("wav", whole[:5000])
    file = io.BytesIO()
    soundfile.write(file, tone(440, 2, 0.5), RATE, format="OGG", subtype="VORBIS")
    assert sniffing.is_whole("ogg", file.getvalue())
    assert not sniffing.is_whole("ogg", file.getvalue()[:-400])
