"""Takes through a link: the speaker opens it on a phone of their own, for one prompt alone, until it ends."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...store.agency import Agency, Client
from ...store.prompts import AskedTake, PromptRow
from ..agency.access import Actor, NotFound, note
from ..house import secret_links
from ..house.house import House
from ..house.problems import Problem, Problems
from .library import own, scope, words_to_say
from .takes import Coming, received, wrong_file

WHAT = "record"
LONGEST_DAYS = 30


@dataclass(frozen=True, slots=True)
class Speaking:
    """What a speaker sees: who asks, for whom, the prompt and the words to say, until when, and whether it is over."""

    agency: str
    client: str
    prompt: str
    words: str
    language: str
    ends_at: datetime
    zone: str
    state: str


def ask(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, language: str, spoken_by: str, days: int
) -> int | Problems:
    """Makes a link that is good for some days; gives its id."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id)
        if not 1 <= days <= LONGEST_DAYS:
            return [Problem("days", f"A link is good for 1 to {LONGEST_DAYS} days.")]
        asked = AskedTake(
            agency_id=actor.agency_id, prompt_id=row.id, language=language, by="link", to="", ref="",
            spoken_by=" ".join(spoken_by.split())[:80], words="", recording="", state="waiting", asked_at=house.now(),
            asked_by=actor.user_id, ends_at=house.now() + timedelta(days=days),
        )  # fmt: skip
        session.add(asked)
        session.flush()
        note(session, house, actor, client_id, f"made a link for a take of {row.name}")
        return asked.id


def token(house: House, asked_id: int) -> str:
    """What stands in the address of a link."""
    return secret_links.token(house, WHAT, asked_id, 1)


def end(house: House, actor: Actor, client_id: int | None, prompt_id: int, asked_id: int) -> None:
    """Ends a link before its time."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id)
        asked = session.get(AskedTake, asked_id, with_for_update=True)
        if asked is None or asked.prompt_id != row.id or asked.by != "link":
            raise NotFound
        if asked.state == "waiting":
            asked.state, asked.done_at = "ended", house.now()


def opened(house: House, given: str) -> Speaking | None:
    """What stands behind a link; None for one that is none."""
    with house.begin() as session:
        asked = _asked(session, house, given)
        if asked is None:
            return None
        prompt = session.get_one(PromptRow, asked.prompt_id)
        client = session.get(Client, prompt.client_id) if prompt.client_id else None
        return Speaking(
            session.get_one(Agency, prompt.agency_id).name, client.name if client else "", prompt.name,
            words_to_say(session, prompt.id, asked.language), asked.language, asked.ends_at, client.time_zone if client else "UTC",
            _state(house, asked),
        )  # fmt: skip


def bring(house: House, given: str, coming: Coming) -> Problems | None:
    """Takes in what a speaker recorded, and ends the link; None for a link that is none."""
    with house.begin() as session:
        asked = _asked(session, house, given)
        if asked is None:
            return None
        if _state(house, asked) != "waiting":
            return [_OVER]
    problems = wrong_file(coming)
    if problems:
        return problems
    file = house.files.put(coming.content, ".sound")
    with house.begin() as session:
        asked = _asked(session, house, given, lock=True)
        if asked is None or _state(house, asked) != "waiting":
            return [_OVER]
        prompt = session.get_one(PromptRow, asked.prompt_id, with_for_update=True)
        own_ = Coming(
            coming.content, coming.name, asked.language, "link", asked.spoken_by, coming.begins, coming.ends,
            words_to_say(session, prompt.id, asked.language),
        )  # fmt: skip
        take = received(session, house, prompt, None, own_, file)
        take.words_are = "proposed"
        asked.state, asked.take_id, asked.done_at = "done", take.id, house.now()
        prompt.changed_at = house.now()
        return []


_OVER = Problem("file", "This link is over. Ask for another one.")


def _state(house: House, asked: AskedTake) -> str:
    return "ended" if asked.state == "waiting" and asked.ends_at <= house.now() else asked.state


def _asked(session: Session, house: House, given: str, *, lock: bool = False) -> AskedTake | None:
    found = secret_links.id_of(given)
    if found is None or not secret_links.fits(house, given, WHAT, found, 1):
        return None
    asked = session.get(AskedTake, found, with_for_update=lock)
    return asked if asked is not None and asked.by == "link" else None
