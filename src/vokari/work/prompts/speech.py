"""The sound of words: made once per text and voice, kept, and found again by name."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial

import numpy
from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.flows.running.commands import Command, Hold, Play
from ...core.prompts.fields import fixed
from ...core.prompts.quality import Measured
from ...core.prompts.reading import ssml
from ...core.prompts.sounds import name_of
from ...core.prompts.voices import USUAL, Voice
from ...formats.audio import telephone
from ...formats.call_control.sending import sounds_of
from ...store.flows import Speech
from ..house.house import House
from ..house.problems import Row

LONGEST = 4000

_MADE = text("SELECT name, seconds FROM speech WHERE name = ANY(:names)")


@dataclass(frozen=True, slots=True)
class Sound:
    """A text's sound: the name it is served under and its length in seconds."""

    name: str
    seconds: float


# What levels sound loads for a second, for which call control is not to wait when it starts: so it is loaded when it is asked.


def measured(samples: telephone.Samples) -> Measured:
    """What is measured of an original at the rate of telephones."""
    from ...formats.audio import loudness

    return loudness.measured(samples)


def levelled(samples: telephone.Samples) -> telephone.Samples:
    """Sound at the loudness of all prompts."""
    from ...formats.audio import loudness

    return loudness.level(samples)


def warm(_: House) -> None:
    """Loads it, so that the first prompt made need not wait."""
    levelled(numpy.zeros(0))


def sound(house: House, words: str, language: str, voice: Voice = USUAL, country: str = "US") -> Sound | None:
    """The sound of a text, made now if it was never made; None for no words or a language without a voice."""
    words = words.strip()[:LONGEST]
    if not words:
        return None
    name = name_of(words, language, voice, country)
    with house.begin() as session:
        known = session.get(Speech, name)
    if known and known.file:
        return Sound(name, known.seconds)
    return _made(house, name, words, language, voice, country)


def _made(house: House, name: str, words: str, language: str, voice: Voice, country: str) -> Sound | None:
    """Has words spoken, brings the sound to telephones, and keeps it."""
    try:
        spoken = house.speech.speak(ssml(words, language, voice.pause), language, voice.name, voice.rate)
        samples = levelled(telephone.read(spoken))
    except ValueError:
        return None
    content = telephone.wav(samples, telephone.law_of(country))
    seconds = round(samples.size / telephone.RATE, 2)
    file = house.files.put(content, ".wav")
    keep(
        house, Speech(name=name, language=language, words=words, voice=_kept(voice, country), file=file, seconds=seconds)
    )  # fmt: skip
    return Sound(name, seconds)


def _kept(voice: Voice, country: str) -> dict[str, object]:
    return {**voice.model_dump(mode="json"), "country": country}


def keep(house: House, row: Speech) -> None:
    """Keeps a sound under its name; one that was only asked for so far has its file then."""
    values = {one: getattr(row, one) for one in ("name", "language", "words", "voice", "file", "seconds")}
    with house.begin() as session:
        made = insert(Speech).values(**values)
        session.execute(
            made.on_conflict_do_update(
                index_elements=["name"], set_={"file": row.file, "seconds": row.seconds}, where=Speech.file == ""
            )
        )


def ensure(house: House, name: str) -> str | None:
    """The file of a sound, which is made now where it was only asked for so far; None when none has this name."""
    with house.begin() as session:
        known = session.get(Speech, name)
    if known is None or known.file:
        return known.file if known else None
    voice = Voice.model_validate({key: value for key, value in known.voice.items() if key != "country"})
    _made(house, name, known.words, known.language, voice, str(known.voice.get("country", "US")))
    with house.begin() as session:
        return session.get_one(Speech, name).file or None


def wav(house: House, name: str) -> bytes | None:
    """The WAV file of a sound, made now where it was only asked for so far; None when none has this name."""
    file = ensure(house, name)
    try:
        return house.files.get(file) if file else None
    except KeyError:
        return None


def _names_in(command: Row) -> list[str]:
    """The names of the sounds that a play command plays, as it stands in a log."""
    paths = [command["audio"], *(one["audio"] for one in command.get("parts", ()))]
    return [path.removeprefix("/speech/").removesuffix(".wav") for path in paths if path]


def lengths_of(session: Session, names: Iterable[str]) -> dict[str, float]:
    """The seconds of sounds by name, 0 for one that is not made yet; those nobody asked for are not among them."""
    return {row.name: float(row.seconds) for row in session.execute(_MADE, {"names": list(names)})}


def played_seconds(session: Session, command: Row) -> float:
    """How long a play command of a log takes, by the sounds that are made by now."""
    names = _names_in(command)
    known = lengths_of(session, names)
    if names and all(known.get(name) for name in names):
        return round(sum(known[name] for name in names), 2)
    return float(command["seconds"])


def with_sounds(house: House, command: Row) -> Row:
    """A play command of a log once its sounds are made, with their true length."""
    for name in _names_in(command):
        ensure(house, name)
    with house.begin() as session:
        return {**command, "seconds": played_seconds(session, command)}


Wanted = tuple[str, str, Voice]
"""Words that are to be spoken, with their language and voice."""


def wanted_of(words: str, language: str, voice: Voice) -> list[Wanted]:
    """What of a prompt's words can be spoken beforehand: all of it, or the parts between its fields."""
    return [(part, language, voice) for part in fixed(words)]


def known_sounds(session: Session, house: House, commands: Iterable[Command], country: str) -> dict[str, float]:
    """The sounds that commands play, by name, with their seconds; 0 for one that is not made yet. Those are written down, so that whoever
    fetches one by its name has it made then, outside of the event."""
    wanted = {
        name: parts
        for one in commands
        if isinstance(one, Play | Hold) and one.prompt
        for name, parts in sounds_of(one, country).items()
    }
    lengths = {name: seconds for name in wanted if (seconds := house.sounds.known.get(name)) is not None}
    unknown = [name for name in wanted if name not in lengths]
    if not unknown:
        return lengths
    found = lengths_of(session, unknown)
    for name in unknown:
        if found.get(name):
            lengths[name] = house.sounds.get(session, name, partial(float, found[name]))
            continue
        lengths[name] = 0.0
        spoken = wanted[name]
        if name not in found and spoken is not None:
            words, language, voice = spoken
            row = {
                "name": name,
                "language": language,
                "words": words,
                "voice": _kept(voice, country),
                "file": "",
                "seconds": 0.0,
            }
            session.execute(insert(Speech).values(**row).on_conflict_do_nothing())
    return lengths
