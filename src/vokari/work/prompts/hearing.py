"""Hearing words before they go live: read now, with fields filled in by what is true at this moment."""

from dataclasses import dataclass
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ...core.flows.questions.kinds import SpokenFields
from ...core.flows.running.facts import Caller
from ...core.prompts.fields import ASKED, fields_in, filled
from ...core.prompts.markup import plain
from ...core.prompts.voices import USUAL, Voice, for_language
from ...formats.audio import shape, telephone
from ...store.agency import Client
from ..agency.access import Actor
from ..hours.ready import Standings
from ..house.house import House
from ..house.problems import Problem, Problems
from . import fields, speech
from .library import scope
from .takes import one, wrong_words

SAMPLES = {"place": "3", "wait": "4 minutes", "caller": "Robin"}
"""What stands for fields that nothing is known of outside of a call."""
TYPED_SAMPLE = "21401"


@dataclass(frozen=True, slots=True)
class Heard:
    """Words as they are heard: filled in, the names of their sounds in order, with the length of all in seconds."""

    said: str
    sounds: tuple[str, ...]
    seconds: float


def hear(
    house: House, actor: Actor, client_id: int | None, words: str, language: str, voice: Voice
) -> Heard | Problems:
    """Has words read by a voice. Problems name the field `words` or `language`."""
    with house.begin() as session:
        client = scope(session, actor, client_id)
        problems = wrong_words(words.strip())
        if problems:
            return problems
        country = client.country if client else "US"
        parts = _filled(session, house, client, words.strip(), language)
    reads, made = for_language(voice, language), []
    for part in parts:
        sound = speech.sound(house, part, language, reads, country)
        if sound is None:
            return [Problem("language", f"There is no voice for the language {language}.")]
        made.append(sound)
    return Heard(
        plain(" ".join(parts)), tuple(one.name for one in made), round(sum(one.seconds for one in made), 2)
    )  # fmt: skip


def _filled(session: Session, house: House, client: Client | None, words: str, language: str) -> tuple[str, ...]:
    """The parts of words with their fields filled in, as they would be heard now."""
    wanted = fields_in(words)
    if not wanted:
        return (words,)
    known = {one.written: SAMPLES.get(one.name, "" if one.name in ASKED else TYPED_SAMPLE) for one in wanted}
    asked = tuple(one.written for one in wanted if one.name in ASKED and one.name != "caller")
    if client is not None and asked:
        now, zone = house.now(), ZoneInfo(client.time_zone)
        hours = Standings(session, house, client.id, now)
        number = "+14105550142" if client.country == "US" else "+442079460142"
        answer = fields.values(session, client.id, now, zone, hours, number, Caller())
        known |= dict(zip(asked, answer(SpokenFields("", asked, language)), strict=True))
    return filled(words, known)


def sound_of(house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int) -> str:
    """The name of a take's sound; of words that a voice reads as they would be heard now. Empty where there is none."""
    take = one(house, actor, client_id, prompt_id, take_id)
    if take.is_recording:
        return take.sound
    with house.begin() as session:
        client = scope(session, actor, client_id)
        country = client.country if client else "US"
        words = " ".join(_filled(session, house, client, take.words, take.language))
    made = speech.sound(house, words, take.language, for_language(take.own_voice or USUAL, take.language), country)
    return made.name if made else ""


def waveform(house: House, sound: str) -> list[int]:
    """The shape of a sound, for a picture of it; empty for none."""
    content = speech.wav(house, sound)
    return shape.waveform(telephone.read(content)) if content else []
