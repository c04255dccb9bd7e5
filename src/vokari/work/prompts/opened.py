"""A prompt opened: its takes, where they are played, what is asked of speakers, and what its page offers."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.people.directory import Person
from ...core.prompts.reading import locale_of
from ...store.agency import User
from ...store.prompts import AskedTake, PromptRow
from ..agency.access import Actor
from ..house import undoing
from ..house.house import House
from ..house.views import ClientView, PromptView, TakeView
from ..people.ringers import people_of
from . import in_flows, takes
from .library import PROMPT, PromptLine, heard_by, lines_of, own, scope


@dataclass(frozen=True, slots=True)
class Asked:
    """A take that somebody is asked for, by telephone or by a link."""

    id: int
    by: str
    to: str
    spoken_by: str
    state: str
    words: str
    asked_at: datetime
    ends_at: datetime
    language: str


@dataclass(frozen=True, slots=True)
class OpenPrompt:
    """A prompt as its page shows it. `makers` are the names of users by id; `others` the prompts that it can fall back on, by key."""

    client: ClientView | None
    line: PromptLine
    takes: Sequence[TakeView]
    flows: Sequence[in_flows.PlayingFlow]
    changes: Sequence[in_flows.Change]
    asked: Sequence[Asked]
    makers: dict[int, str]
    people: dict[str, Person]
    others: dict[str, str]
    zone: str
    steps: undoing.Steps

    @property
    def prompt(self) -> PromptView:
        return self.line.prompt


def opened(house: House, actor: Actor, client_id: int | None, prompt_id: int) -> OpenPrompt:
    """A prompt with all that its page shows."""
    with house.begin() as session:
        client = scope(session, actor, client_id)
        row = own(session, actor, client_id, prompt_id)
        (line,) = lines_of(session, house, actor.agency_id, client_id, row.id)
        names = _names(session, actor, client_id, row.key)
        people = people_of(session, house, client.id) if client else {}
        users = session.execute(select(User.id, User.name).where(User.agency_id == actor.agency_id))
        return OpenPrompt(
            ClientView.maybe(client), line, takes.of_prompt(session, row.id), in_flows.playing_flows(session, house, row),
            in_flows.changes(session, row.id), _asked(session, row.id), {one.id: one.name for one in users}, people, names,
            in_flows.client_zone(session, client_id), undoing.steps_in_words(session, PROMPT, row.id),
        )  # fmt: skip


def _names(session: Session, actor: Actor, client_id: int | None, but: str) -> dict[str, str]:
    """The names of the other prompts that a client's flows can play, by key."""
    query = select(PromptRow.key, PromptRow.name).where(heard_by(actor.agency_id, client_id), PromptRow.key != but)
    return {row.key: row.name for row in session.execute(query.order_by(PromptRow.name))}


def _asked(session: Session, prompt_id: int) -> list[Asked]:
    """The last calls and links, the newest first."""
    query = select(AskedTake).where(AskedTake.prompt_id == prompt_id).order_by(AskedTake.id.desc()).limit(10)
    return [
        Asked(one.id, one.by, one.to, one.spoken_by, one.state, one.words, one.asked_at, one.ends_at, one.language)
        for one in session.scalars(query)
    ]


@dataclass(frozen=True, slots=True)
class Language:
    """A language that prompts can be in, with the voices that speak it, by name."""

    code: str
    name: str
    voices: dict[str, str]


def languages(house: House, asked: str = "") -> list[Language]:
    """The languages with a voice, those that telephones are answered in most first, each with its own voices; `asked` is one that must be
    among them."""
    by_language: dict[str, dict[str, str]] = {}
    for voice in house.voices:
        by_language.setdefault(voice.language.partition("-")[0], {})[voice.name] = voice.called
    codes = [*FIRST, *sorted(set(by_language) - {one.partition("-")[0] for one in FIRST})]
    if asked and asked not in codes:
        codes.append(asked)
    known = [Language(code, language_name(code), by_language.get(code.partition("-")[0], {})) for code in codes]
    return [one for one in known if one.voices]


FIRST = ("en-US", "en-GB", "es", "fr", "de")


def language_name(code: str) -> str:
    """What a language is called."""
    locale = locale_of(code)
    said = locale.get_display_name("en")
    return str(said) if said and locale.language == code.partition("-")[0] else code
