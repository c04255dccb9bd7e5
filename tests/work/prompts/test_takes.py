"""Takes: recordings of every kind become telephone audio; what is none is told, and nothing of it is kept."""

import re
import struct
import subprocess
import zlib
from pathlib import Path

import numpy
import pytest
from sqlalchemy import text

from tests.prompts import FORMATS, as_format, brought, prompt, sound, speech, work
from tests.world import World
from vokari.core.prompts.quality import LOUDNESS, TRUE_PEAK
from vokari.formats.audio import loudness, telephone
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.house.views import TakeView
from vokari.work.prompts import library, takes
from vokari.work.prompts import speech as spoken
from vokari.work.prompts.takes import Coming


def one(world: World, prompt_id: int, take: int) -> TakeView:
    return takes.one(world.house, world.actor, world.client.id, prompt_id, take)


@pytest.mark.parametrize("kind", FORMATS)
def test_every_format_becomes_telephone_audio_of_one_loudness(world: World, tmp_path: Path, kind: str) -> None:
    at = prompt(world, "Boat lifts")
    take = one(
        world, at, brought(world, at, as_format(sound(3), kind, tmp_path), f"Boat lifts.{kind}", words="Boat lifts")
    )
    assert (take.state, take.problem) == ("ready", "")
    assert take.seconds == pytest.approx(3, abs=0.25)
    wav = spoken.wav(world.house, take.sound)
    assert wav is not None
    assert wav[20:22] == b"\x07\x00", "mu-law, as the client's country uses it"
    samples = telephone.read(wav)
    assert loudness.integrated(samples) == pytest.approx(LOUDNESS, abs=0.5)
    assert loudness.true_peak(samples) <= TRUE_PEAK
    assert len(take.waveform) == 240
    assert world.house.files.get(take.original), "the original is kept"


def test_loudness_is_what_ffmpeg_measures(world: World, tmp_path: Path) -> None:
    """Against ffmpeg's ebur128, which measures at 48,000 samples a second."""
    at = prompt(world, "Opening")
    words = (
        "This is the yard office. We are open from eight to five, and on Saturdays until noon. Please hold the line."
    )
    take = one(world, at, brought(world, at, speech(world, words), "opening.wav", words=words))
    content = spoken.wav(world.house, take.sound)
    assert content is not None
    (tmp_path / "made.wav").write_bytes(content)
    command = [
        "ffmpeg",
        "-hide_banner",
        "-nostats",
        "-i",
        str(tmp_path / "made.wav"),
        "-af",
        "aresample=48000,ebur128=peak=true",
    ]
    said = subprocess.run([*command, "-f", "null", "-"], capture_output=True, text=True, check=True).stderr
    integrated = float(re.findall(r"I:\s+(-?[\d.]+) LUFS", said)[-1])
    peak = float(re.findall(r"Peak:\s+(-?[\d.]+) dBFS", said)[-1])
    assert integrated == pytest.approx(LOUDNESS, abs=0.5)
    assert peak <= TRUE_PEAK + 0.1


def bomb() -> bytes:
    """A FLAC of two hours of silence in a few kilobytes."""
    return subprocess.run(
        ["ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", "7200", "-f", "flac", "pipe:1"],
        capture_output=True, check=True,
    ).stdout  # fmt: skip


def test_a_decompression_bomb_and_a_long_recording_are_refused(world: World) -> None:
    at = prompt(world, "Long")
    content = bomb()
    assert len(content) < 7200 * 8000 * 2 / 50
    take = one(world, at, brought(world, at, content, "long.flac"))
    assert (take.state, take.problem) == ("failed", "It is longer than ten minutes.")
    assert take.original == ""


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.wav", b"", "empty"),
        ("a.wav", b"%PDF-1.7 and more", "no sound that can be read"),
        ("a.mp3", sound(1), "Its name says .mp3, and it is WAV"),
        ("../../etc/a.wav", zlib.compress(b"x" * 5000), "no sound that can be read"),
    ],
)
def test_what_is_no_sound_is_refused_at_once_and_nothing_is_kept(
    world: World, name: str, content: bytes, said: str
) -> None:
    at = prompt(world, "Nothing")
    wrong = takes.bring(world.house, world.actor, world.client.id, at, Coming(content, name))
    assert isinstance(wrong, list)
    assert said in wrong[0].sentence
    with world.house.begin() as session:
        assert session.scalar(text("SELECT count(*) FROM takes")) == 0


def test_more_than_20_mb_and_a_trim_that_leaves_nothing_are_refused(world: World) -> None:
    at = prompt(world, "Large")
    large = Coming(sound(1) + b"\0" * takes.LARGEST, "a.wav")
    nothing = Coming(sound(1), "a.wav", begins=0.8, ends=0.8)
    for coming, said in ((large, "larger than 20 MB"), (nothing, "beginning before its end")):
        wrong = takes.bring(world.house, world.actor, world.client.id, at, coming)
        assert isinstance(wrong, list)
        assert said in wrong[0].sentence


@pytest.mark.parametrize(
    ("name", "cut", "said"),
    [("a.wav", slice(0, 4000), "breaks off"), ("a.ogg", slice(0, -900), "breaks off"), ("a.m4a", slice(0, -900), "no sound in it"),
     ("a.webm", slice(0, 60), "no sound in it")],
)  # fmt: skip
def test_a_truncated_file_fails_in_words_and_is_forgotten(
    world: World, tmp_path: Path, name: str, cut: slice, said: str
) -> None:
    at = prompt(world, "Cut")
    content = as_format(sound(4), name[2:], tmp_path)[cut]
    take = one(world, at, brought(world, at, content, name))
    assert take.state == "failed"
    assert said in take.problem
    assert not list((tmp_path / "files").rglob("*.sound"))


def test_a_wav_that_says_it_is_huge_takes_no_more_than_it_has(world: World) -> None:
    at = prompt(world, "Liar")
    header = (
        b"RIFF" + struct.pack("<I", 0x7FFFFFF0) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 2, 192000, 768000, 4, 16)
    )
    take = one(
        world, at, brought(world, at, header + b"data" + struct.pack("<I", 0x7FFFFF00) + b"\0" * 100, "liar.wav")
    )
    assert take.state == "failed"


def test_clipping_and_silence_are_warned_of(world: World) -> None:
    at = prompt(world, "Loud", kind="retry")
    loud = numpy.clip(3 * numpy.sin(numpy.arange(16000 * 17) / 6), -1, 1)
    loud[40000:120000] = 0
    take = one(world, at, brought(world, at, telephone_wav(loud), "loud.wav", words="x"))
    assert [any(word in one_ for one_ in take.warnings) for word in ("clipped", "silence of", "callers listen")] == [
        True
    ] * 3


def telephone_wav(samples: numpy.ndarray) -> bytes:
    import io

    import soundfile

    file = io.BytesIO()
    soundfile.write(file, samples, 16000, format="WAV")
    return file.getvalue()


def test_words_are_proposed_and_unchecked_until_somebody_confirms_them(world: World) -> None:
    at = prompt(world, "Closed today")
    take = brought(world, at, speech(world, "We are closed today and open again tomorrow."), "closed.wav")
    proposed = one(world, at, take)
    assert (proposed.words_are, "closed" in proposed.words) == ("proposed", True)
    assert (
        takes.confirm(
            world.house, world.actor, world.client.id, at, take, "We are closed today and open again tomorrow."
        )
        == []
    )
    assert one(world, at, take).words_are == "confirmed"
    (line,) = library.listed(world.house, world.actor, world.client.id).prompts
    assert line.words == "We are closed today and open again tomorrow."


def test_the_same_words_in_the_same_voice_are_one_sound_and_one_take(world: World) -> None:
    at = prompt(world, "Hello", "Hello, this is the yard.")
    again = takes.say(world.house, world.actor, world.client.id, at, "en-US", "Hello, this is the yard.")
    with world.house.begin() as session:
        assert len(takes.of_prompt(session, at)) == 1
        assert again == takes.of_prompt(session, at)[0].id
    first = spoken.sound(world.house, "Hello", "en-US")
    assert first == spoken.sound(world.house, "Hello", "en-US")
    assert first != spoken.sound(world.house, "Hello", "en-US", country="GB")


def test_a_job_that_comes_twice_changes_nothing_and_a_take_that_never_comes_is_given_up(world: World) -> None:
    at = prompt(world, "Twice")
    take = brought(world, at, sound(1), words="x")
    before = one(world, at, take)
    takes.make(world.house, take)
    assert one(world, at, take) == before
    waits = takes.bring(world.house, world.actor, world.client.id, at, Coming(sound(1, 500)))
    assert isinstance(waits, int)
    with world.house.begin() as session:
        session.execute(text("UPDATE takes SET made_at = made_at - interval '1 hour' WHERE state = 'coming'"))
    assert takes.give_up(world.house) == 1
    work(world)
    assert one(world, at, waits).state == "failed"


def test_who_may_do_what_with_prompts(world: World) -> None:
    at = prompt(world, "Private", "Hello")
    for role, raises in (("client_editor", NotAllowed), ("client_viewer", NotAllowed)):
        actor = world.actors[role]  # type: ignore[index]
        for do in (
            lambda actor=actor: library.listed(world.house, actor, world.client.id),
            lambda actor=actor: takes.say(world.house, actor, world.client.id, at, "en-US", "No"),
            lambda actor=actor: takes.bring(world.house, actor, world.client.id, at, Coming(sound(1))),
            lambda actor=actor: library.listed(world.house, actor, None),
        ):
            with pytest.raises(raises):
                do()
    with pytest.raises(NotFound):
        takes.say(world.house, world.actor, None, at, "en-US", "Another owner's")
