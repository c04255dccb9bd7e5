"""The library: prompts of a client and those of the agency for all its clients, made, named, removed and brought back."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from zoneinfo import ZoneInfo

from pydantic import ValidationError
from sqlalchemy import ColumnElement, or_, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from ...core.prompts import naming
from ...core.prompts.document import LibraryPrompt
from ...core.prompts.facts import PromptFacts, TakeFacts
from ...core.prompts.kinds import SPOKEN
from ...core.prompts.markup import plain
from ...core.prompts.sounds import name_of
from ...core.prompts.voices import USUAL, for_language
from ...store.agency import Client
from ...store.prompts import PromptRow, Take
from ..agency.access import Actor, NotFound, allow, allow_agency, note
from ..house import meanwhile, undoing
from ..house.house import House
from ..house.kept import once
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import ClientView, PromptView, TakeView
from . import speech
from .ending import ends_of

PROMPT = undoing.Kind("prompt", ("document",))
FIELDS = {
    "name": "the name", "kind": "the kind", "note": "the note", "true_until": "the last day on which it is true",
    "fallback": "what is heard after that day",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Use:
    """A flow that plays a prompt: in its draft, in what is live, or both."""

    client_id: int
    client: str
    flow_id: int
    flow: str
    mark: str
    draft: bool
    live: bool


@dataclass(frozen=True, slots=True)
class PromptLine:
    """A prompt as the library lists it: with the newest take of each language, where it is used, and what speaks against its name. `ends`
    is soon or over where it is not true for long."""

    prompt: PromptView
    said: LibraryPrompt
    takes: Mapping[str, TakeView]
    uses: tuple[Use, ...]
    name_questions: tuple[str, ...] = ()
    better_name: str = ""
    fallback: str = ""
    ends: str = ""

    @property
    def first(self) -> TakeView | None:
        """The take that stands for all: of the language that was there first."""
        return next(iter(self.takes.values()), None)

    @property
    def is_unheard(self) -> bool:
        """Whether nobody heard it since its last change."""
        return any(one.heard_at is None for one in self.takes.values())

    @property
    def words(self) -> str:
        """Its words without mark-up."""
        return plain(self.first.words) if self.first else ""


@dataclass(frozen=True, slots=True)
class Library:
    """The prompts of a client with those of its agency, or of the agency alone."""

    client: ClientView | None
    prompts: tuple[PromptLine, ...]
    gone: tuple[PromptView, ...] = field(default=())


def scope(session: Session, actor: Actor, client_id: int | None, *, changing: bool = False) -> Client | None:
    """The client whose prompts are meant, or None for those of the agency; raises NotFound or NotAllowed."""
    if client_id is None:
        allow_agency(actor)
        return None
    return allow(session, actor, client_id, "work", changing=changing)


def own(
    session: Session, actor: Actor, client_id: int | None, prompt_id: int, *, lock: bool = False, gone: bool = False
) -> PromptRow:
    """A prompt of this client, or of the agency; raises NotFound for any other."""
    row = session.get(PromptRow, prompt_id, with_for_update=lock)
    if row is None or row.agency_id != actor.agency_id or row.client_id != client_id or (not gone and row.removed_at):
        raise NotFound
    return row


def listed(house: House, actor: Actor, client_id: int | None) -> Library:
    """The library of a client, the agency's own prompts last; or the agency's alone."""
    with house.begin() as session:
        client = scope(session, actor, client_id)
        lines = lines_of(session, house, actor.agency_id, client_id)
        gone = session.scalars(
            select(PromptRow).where(_owned(actor.agency_id, client_id), PromptRow.removed_at.is_not(None))
            .order_by(PromptRow.removed_at.desc()).limit(5)
        )  # fmt: skip
        return Library(ClientView.maybe(client), tuple(lines), tuple(PromptView.all(gone)))


def _owned(agency_id: int, client_id: int | None) -> ColumnElement[bool]:
    mine = PromptRow.client_id.is_(None) if client_id is None else PromptRow.client_id == client_id
    return (PromptRow.agency_id == agency_id) & mine


def listed_own(session: Session, agency_id: int, client_id: int | None) -> list[PromptView]:
    """The prompts of a client without those of its agency, or of the agency alone."""
    query = select(PromptRow).where(_owned(agency_id, client_id), PromptRow.removed_at.is_(None))
    return PromptView.all(session.scalars(query.order_by(PromptRow.name)))


def heard_by(agency_id: int, client_id: int | None) -> ColumnElement[bool]:
    """Prompts that flows of a client can play: its own, and those of its agency."""
    shared = PromptRow.client_id.is_(None)
    mine = shared if client_id is None else or_(shared, PromptRow.client_id == client_id)
    return (PromptRow.agency_id == agency_id) & mine & PromptRow.removed_at.is_(None)


def lines_of(
    session: Session, house: House, agency_id: int, client_id: int | None, only: int | None = None
) -> list[PromptLine]:
    """The prompts that a client's flows can play, its own before the agency's, each by name."""
    query = (
        select(PromptRow).where(heard_by(agency_id, client_id)).order_by(PromptRow.client_id.is_(None), PromptRow.name)
    )
    prompts = PromptView.all(session.scalars(query))
    uses = uses_of(session, agency_id, [one.key for one in prompts], client_id)
    country = (session.scalar(select(Client.country).where(Client.id == client_id)) if client_id else None) or "US"
    takes = _with_lengths(session, newest(session, [one.id for one in prompts]), country)
    names = {one.key: one.name for one in prompts}
    shown = [one for one in prompts if only is None or one.id == only]
    zone = session.scalar(select(Client.time_zone).where(Client.id == client_id)) if client_id else None
    today = house.now().astimezone(ZoneInfo(zone or "UTC")).date()
    return [_line(one, takes.get(one.id, {}), tuple(uses.get(one.key, ())), names, today) for one in shown]


def _with_lengths(
    session: Session, takes: dict[int, dict[str, TakeView]], country: str
) -> dict[int, dict[str, TakeView]]:
    """Takes with the lengths of the sounds that were made of words."""
    names = {
        one.id: name_of(one.words, one.language, for_language(one.own_voice or USUAL, one.language), country)
        for some in takes.values()
        for one in some.values()
        if not one.is_recording
    }
    lengths = speech.lengths_of(session, names.values()) if names else {}
    return {
        prompt: {
            language: replace(one, seconds=lengths.get(names[one.id], 0.0)) if one.id in names else one
            for language, one in some.items()
        }
        for prompt, some in takes.items()
    }


def _line(
    prompt: PromptView, takes: Mapping[str, TakeView], uses: tuple[Use, ...], names: Mapping[str, str], today: date
) -> PromptLine:
    said = prompt.said
    others = {key: name for key, name in names.items() if key != prompt.key}
    questions = tuple(naming.questions(prompt.name, others))
    words = next((one.words for one in takes.values() if one.words and one.words_are != "proposed"), "")
    better = naming.proposed(words, said.kind, others.values()) if questions and said.kind in SPOKEN else ""
    return PromptLine(
        prompt, said, takes, uses, questions, better if better != prompt.name else "", names.get(said.fallback or "", ""),
        ends_of(said.true_until, today),
    )  # fmt: skip


def newest(session: Session, prompt_ids: Collection[int]) -> dict[int, dict[str, TakeView]]:
    """By prompt and language the newest take that is ready and was not set aside."""
    query = (
        select(Take)
        .where(Take.prompt_id.in_(prompt_ids), Take.state == "ready", Take.set_aside.is_(False))
        .ext(distinct_on(Take.prompt_id, Take.language))
        .order_by(Take.prompt_id, Take.language, Take.number.desc())
    )
    found: dict[int, dict[str, TakeView]] = {}
    for take in sorted(session.scalars(query), key=lambda one: one.number):
        found.setdefault(take.prompt_id, {})[take.language] = TakeView.of(take)
    return found


_USES = text(
    "SELECT DISTINCT f.id, f.name, f.mark, f.client_id, c.name AS client, said.key, said.live FROM flows f"
    " JOIN clients c ON c.id = f.client_id LEFT JOIN flow_versions v ON v.id = f.live_version_id,"
    " LATERAL (SELECT one #>> '{}' AS key, false AS live FROM"
    " jsonb_path_query(f.draft, 'strict $.steps.**.prompt ? (@.type() == \"string\")', '{}', true) AS one"
    " UNION SELECT one #>> '{}', true FROM"
    " jsonb_path_query(v.document, 'strict $.steps.**.prompt ? (@.type() == \"string\")', '{}', true) AS one) AS said"
    " WHERE f.agency_id = :agency AND (CAST(:client AS bigint) IS NULL OR f.client_id = :client) AND f.removed_at IS NULL"
    " AND said.key = ANY(:keys) ORDER BY c.name, f.name"
)


def uses_of(session: Session, agency_id: int, keys: Collection[str], client_id: int | None) -> dict[str, list[Use]]:
    """The flows, of a client or of all, that play prompts, by key."""
    if not keys:
        return {}
    found: dict[tuple[str, int], Use] = {}
    for row in session.execute(_USES, {"agency": agency_id, "client": client_id, "keys": list(keys)}):
        before = found.get((row.key, row.id))
        draft, live = (before.draft, before.live) if before else (False, False)
        found[row.key, row.id] = Use(
            row.client_id, row.client, row.id, row.name, row.mark, draft or not row.live, live or row.live
        )
    by_key: dict[str, list[Use]] = {}
    for (key, _), use in found.items():
        by_key.setdefault(key, []).append(use)
    return by_key


def facts(session: Session, house: House, client: Client) -> dict[str, PromptFacts]:
    """What flows of a client must know of the prompts that they can play, by key, in order of their names; read once a page."""
    return once(session, ("prompts", client.id), lambda: _facts(session, house, client))


def _facts(session: Session, house: House, client: Client) -> dict[str, PromptFacts]:
    rows = PromptView.all(session.scalars(select(PromptRow).where(heard_by(client.agency_id, client.id))))
    takes = newest(session, [one.id for one in rows]) if rows else {}
    today = house.now().astimezone(ZoneInfo(client.time_zone)).date()
    found = {}
    for row in sorted(rows, key=lambda one: (one.client_id is None, one.name.casefold())):
        said = row.said
        found[row.key] = PromptFacts(
            row.id, row.name, said.kind, row.client_id is None,
            {language: _fact(take) for language, take in takes.get(row.id, {}).items()},
            ends_of(said.true_until, today), said.true_until, said.fallback,
        )  # fmt: skip
    return found


def _fact(take: TakeView) -> TakeFacts:
    return TakeFacts(
        take.id, take.number, take.words, take.words_are, take.is_recording, take.seconds, take.heard_at is None,
        take.own_voice, take.sound, tuple(take.warnings),
    )  # fmt: skip


def words_to_say(session: Session, prompt_id: int, language: str) -> str:
    """What a prompt says in a language by words that somebody typed or confirmed, without mark-up; empty where nobody has."""
    query = select(Take.words).where(
        Take.prompt_id == prompt_id, Take.language == language, Take.words != "", Take.words_are != "proposed",
        Take.set_aside.is_(False), Take.state == "ready",
    )  # fmt: skip
    return plain(session.scalar(query.order_by(Take.number.desc()).limit(1)) or "")


# made, kept, removed


def create(house: House, actor: Actor, client_id: int | None, typed: Row) -> int | Problems:
    """Makes a prompt without a take; gives its id."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        document = _read(typed)
        if isinstance(document, list):
            return document
        problems = _taken(session, actor, client_id, document.name, None)
        return problems or made(session, house, actor, client_id, document).id


def made(session: Session, house: House, actor: Actor, client_id: int | None, document: LibraryPrompt) -> PromptRow:
    """A new prompt within a transaction that may do so."""
    row = PromptRow(
        agency_id=actor.agency_id, client_id=client_id, key=new_key("pr"), document=document.model_dump(mode="json"),
        made_at=house.now(), changed_at=house.now(),
    )  # fmt: skip
    session.add(row)
    session.flush()
    note(session, house, actor, client_id, f"made the prompt {document.name}")
    return row


def keep(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, typed: Row, was: Row | None = None
) -> Problems:
    """Keeps what a prompt is called, its kind, its note, and until when it is true."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        document = _read({**row.document, **typed})
        if isinstance(document, list):
            return document
        laid = meanwhile.laid(document.model_dump(mode="json"), was, dict(row.document), FIELDS, keys=("fallback",))
        if isinstance(laid, list):
            return laid
        document = LibraryPrompt.model_validate(laid)
        problems = _taken(session, actor, client_id, document.name, row.id) + _falls_back(session, actor, row, document)
        if problems:
            return problems
        after: Row = {"document": document.model_dump(mode="json")}
        changed = [words for name, words in FIELDS.items() if after["document"][name] != row.document.get(name)]
        said = f"changed {', '.join(changed)} of the prompt {document.name}"
        if undoing.keep(session, house, actor, PROMPT, row, after, said):
            note(session, house, actor, client_id, said)
        return []


def _read(typed: Row) -> LibraryPrompt | Problems:
    fields = {**typed, "name": " ".join(str(typed.get("name", "")).split())}
    if not fields["name"]:
        return [Problem("name", "Give it a name that says what callers hear.")]
    try:
        return LibraryPrompt.model_validate(fields)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = str(first["loc"][0])
        said = {"name": "A name has 1 to 60 letters.", "true_until": "Write a day, such as 2026-12-24."}
        return [Problem(where, said.get(where, f"This is no {where} of a prompt."))]


def _taken(session: Session, actor: Actor, client_id: int | None, name: str, but: int | None) -> Problems:
    query = select(PromptRow.id).where(
        _owned(actor.agency_id, client_id), PromptRow.removed_at.is_(None), text("lower(name) = lower(:wanted)")
    )
    if any(one != but for one in session.scalars(query, {"wanted": name})):
        return [Problem("name", f"Another prompt is called {name} already.")]
    return []


def _falls_back(session: Session, actor: Actor, row: PromptRow, document: LibraryPrompt) -> Problems:
    """What is wrong with the prompt that is heard once this one is over."""
    if document.fallback is None:
        return []
    if document.true_until is None:
        return [Problem("true_until", "Say until when this one is true.")]
    if document.fallback == row.key:
        return [Problem("fallback", "A prompt does not fall back on itself.")]
    known = select(PromptRow.id).where(heard_by(actor.agency_id, row.client_id), PromptRow.key == document.fallback)
    return [] if session.scalar(known) else [Problem("fallback", "That prompt is gone: choose another.")]


def step_back(house: House, actor: Actor, client_id: int | None, prompt_id: int, how: str) -> Problems:
    """Takes the latest change of a prompt's name, kind or days back, or does it again."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        words = undoing.step_back(session, house, actor, PROMPT, row, how)
        if words is None:
            return [Problem("was", "There is nothing to take back.")]
        note(session, house, actor, client_id, words)
        return []


def remove(house: House, actor: Actor, client_id: int | None, prompt_id: int) -> Problems:
    """Removes a prompt that no flow plays; it can be brought back."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        used = uses_of(session, actor.agency_id, [row.key], None).get(row.key, [])
        if used:
            where = ", ".join(f"{one.flow} of {one.client}" for one in used[:3])
            return [Problem("", f"{row.name} is played by {where}: choose another there first.")]
        row.removed_at = house.now()
        note(session, house, actor, client_id, f"removed the prompt {row.name}")
        return []


def bring_back(house: House, actor: Actor, client_id: int | None, prompt_id: int) -> Problems:
    """Brings back a prompt that was removed."""
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True, gone=True)
        problems = _taken(session, actor, client_id, row.name, row.id)
        if not problems:
            row.removed_at = None
            note(session, house, actor, client_id, f"brought back the prompt {row.name}")
        return problems
