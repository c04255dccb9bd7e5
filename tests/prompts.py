"""Prompts for tests: made through the use cases, recordings made by ffmpeg and espeak-ng, and the worker's part done at once."""

import io
import subprocess
from pathlib import Path
from typing import Any

import numpy
import soundfile

from tests.world import World
from vokari.core.prompts.reading import ssml
from vokari.work.prompts import by_telephone, library, takes
from vokari.work.prompts.takes import Coming

FORMATS = {
    "wav": ("-c:a", "pcm_s16le"), "mp3": ("-c:a", "libmp3lame"), "ogg": ("-c:a", "libvorbis"), "flac": ("-c:a", "flac"),
    "m4a": ("-c:a", "aac"), "webm": ("-c:a", "libopus"),
}  # fmt: skip


def sound(seconds: float = 2.0, hertz: float = 400, rate: int = 44100, amplitude: float = 0.3) -> bytes:
    """A WAV file of a tone that comes and goes as syllables do."""
    times = numpy.arange(int(seconds * rate)) / rate
    wave = amplitude * numpy.sin(2 * numpy.pi * hertz * times) * numpy.abs(numpy.sin(2 * numpy.pi * 2 * times))
    file = io.BytesIO()
    soundfile.write(file, wave, rate, format="WAV")
    return file.getvalue()


def as_format(wav: bytes, kind: str, folder: Path) -> bytes:
    """The same sound in another format, as ffmpeg writes it."""
    (folder / "in.wav").write_bytes(wav)
    target = folder / f"out.{kind}"
    subprocess.run(
        ["ffmpeg", "-y", "-loglevel", "error", "-i", str(folder / "in.wav"), *FORMATS[kind], str(target)], check=True
    )
    return target.read_bytes()


def speech(world: World, words: str, voice: str = "en-us+f2") -> bytes:
    """Words as somebody speaks them."""
    return world.house.speech.speak(ssml(words, "en-US"), "en-US", voice, 140)


def prompt(world: World, name: str, words: str = "", kind: str = "message", shared: bool = False) -> int:
    """A prompt, with words that a voice reads if there are any."""
    client = None if shared else world.client.id
    made = library.create(world.house, world.actor, client, {"name": name, "kind": kind})
    assert isinstance(made, int), made
    if words:
        assert isinstance(takes.say(world.house, world.actor, client, made, "en-US", words), int)
    return made


def brought(world: World, prompt_id: int, content: bytes, name: str = "", **more: Any) -> int:
    """A recording that is brought and made ready."""
    made = takes.bring(world.house, world.actor, world.client.id, prompt_id, Coming(content, name, **more))
    assert isinstance(made, int), made
    work(world)
    return made


def work(world: World) -> None:
    """Does what the worker does for takes."""
    for args in world.jobs("fetch_take"):
        by_telephone.fetch(world.house, args["take_id"], args["recording"])
    for args in world.jobs("make_take"):
        takes.make(world.house, args["take_id"])


def key_of(world: World, prompt_id: int) -> str:
    """The key by which flows name a prompt."""
    found = library.listed(world.house, world.actor, world.client.id).prompts
    return next(one.prompt.key for one in found if one.prompt.id == prompt_id)
