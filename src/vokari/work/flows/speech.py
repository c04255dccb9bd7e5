"""The sound of prompts: made once per text and language, kept, and found again by name."""

import hashlib
import io
from dataclasses import dataclass
from functools import partial

import soundfile
from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.flows.running.commands import Command, Hold, Play
from ...formats.call_control.messages import audio_key
from ...store.flows import Speech
from ..house.house import House

LONGEST = 4000

_MADE = text("SELECT name, seconds FROM speech WHERE name = ANY(:names)")


@dataclass(frozen=True, slots=True)
class Sound:
    """A text's sound: the name it is served under and its length in seconds."""

    name: str
    seconds: float


def name_of(words: str, language: str) -> str:
    """The name of a text's sound, which follows from the text and the language."""
    return hashlib.sha256(f"{language}\n{words.strip()}".encode()).hexdigest()[:40]


def sound(house: House, words: str, language: str) -> Sound | None:
    """The sound of a text, made now if it was never made; None for no words or a language without a voice."""
    words = words.strip()[:LONGEST]
    if not words:
        return None
    name = name_of(words, language)
    with house.begin() as session:
        known = session.get(Speech, name)
    if known:
        return Sound(name, known.seconds)
    try:
        wav = house.speech.speak(words, language)
    except ValueError:
        return None
    seconds = round(soundfile.info(io.BytesIO(wav)).duration, 2)
    file = house.files.put(wav, ".wav")
    with house.begin() as session:
        row = insert(Speech).values(name=name, language=language, words=words, file=file, seconds=seconds)
        session.execute(row.on_conflict_do_nothing())
    return Sound(name, seconds)


def wav(house: House, name: str) -> bytes | None:
    """The WAV file of a sound; None when no text has this name."""
    with house.begin() as session:
        known = session.get(Speech, name)
    if known is None:
        return None
    try:
        return house.files.get(known.file)
    except KeyError:
        return None


def known_sounds(session: Session, house: House, commands: tuple[Command, ...]) -> dict[str, tuple[str, float]]:
    """For the prompts among commands whose sound is made: its path and length, by the key of the call-control format."""
    keys = {
        name_of(one.prompt.say, one.language): audio_key(one)
        for one in commands
        if isinstance(one, Play | Hold) and one.prompt
    }
    lengths = {name: seconds for name in keys if (seconds := house.sounds.known.get(name)) is not None}
    unknown = [name for name in keys if name not in lengths]
    if unknown:
        for name, seconds in session.execute(_MADE, {"names": unknown}):
            lengths[name] = house.sounds.get(session, name, partial(float, seconds))
    return {keys[name]: (f"/speech/{name}.wav", seconds) for name, seconds in lengths.items()}
