"""Bringing a flow from a file to a client: all that it names is listed first, and each thing is matched with what the client has,
made new, or left open, as the specialist says; nothing comes along unasked."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core import mail
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.spoken import library_keys, only_known
from ...core.hours.document import Hours
from ...core.numbers.numbering import Wrong
from ...core.people import phone_rules
from ...core.people.directory import Person
from ...core.places.document import Places
from ...formats import brought, flow_file
from ...formats.brought import MADE, Kind, Thing
from ...formats.flow_file import FlowFile
from ...formats.mistakes import Mistake
from ...store.agency import Client, Mailbox
from ...store.flows import CallFlow
from ...store.hours import HoursSet
from ...store.numbers import LeadSource
from ...store.people import PersonRow, TeamRow
from ...store.places import ClientPlaces
from ..agency import mailboxes
from ..agency.access import Actor, allow, note
from ..hours import sets
from ..house import apart
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Withdrawn
from ..house.views import CallFlowView, ClientView
from ..people import verifying
from ..people.everybody import ringers_tracking
from ..prompts import library

LARGEST = 2_000_000
NEW, OPEN, AS = "new", "open", "as:"
"""What is chosen for a thing: it is made, left open, or is what the client has under the key after `as:`."""
ROWS: dict[Kind, Any] = {
    "person": PersonRow, "team": TeamRow, "hours": HoursSet, "mailbox": Mailbox, "source": LeadSource, "flow": CallFlow,
}  # fmt: skip

Choices = Mapping[str, str]
"""What is chosen, by the id of the thing."""


@dataclass(frozen=True, slots=True)
class Offered:
    """A thing that a file names, what of the client it can be (key and name, those of its name first), what is chosen for it,
    and what stands against making it or is worth knowing."""

    thing: Thing
    known: list[tuple[str, str]]
    chosen: str
    wrong: list[str]
    notes: list[str]

    @property
    def can_be_made(self) -> bool:
        return self.thing.brought and not self.wrong


@dataclass(frozen=True, slots=True)
class Looked:
    """A file as it was read, and all that it names."""

    client: ClientView
    file: FlowFile
    offered: list[Offered]


def look(
    house: House, actor: Actor, client_id: int, content: str, choices: Choices | None = None
) -> Looked | list[Mistake]:
    """Reads a file and lists what it names; nothing is kept. What is not chosen is what the client has of the same name, else
    left open. A phone or address that the client has already is kept."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
    file = _read(content)
    if isinstance(file, list):
        return file
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        return Looked(ClientView.of(client), file, _offered(session, house, client, file, choices or {}))


def chosen(looked: Looked, choices: Choices) -> Looked:
    """The same file with something else chosen for some of its things."""
    offered = [replace(one, chosen=choices.get(one.thing.id, one.chosen)) for one in looked.offered]
    return replace(looked, offered=offered)


def bring_in(
    house: House,
    actor: Actor,
    client_id: int,
    content: str,
    name: str = "",
    choices: Choices | None = None,
    rest: str = OPEN,
) -> CallFlowView | list[Mistake]:
    """A new flow from a file, as a draft, with each thing that it names as it is chosen; `rest` says what becomes of those that
    nothing was chosen for and that the client has none of. Nothing is half saved."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
    file = _read(content)
    if isinstance(file, list):
        return file
    flow = file.flow.model_copy(update={"name": " ".join(name.split())[:60]}) if name.strip() else file.flow
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            offered = _offered(session, house, client, file, choices or {}, rest)
            at = _settle(session, actor, client, file, offered)
            document = FlowDocument.model_validate(brought.settled(flow, at).model_dump())
            document = only_known(document, library.facts(session, house, client) if library_keys(document) else ())
            made = CallFlow(agency_id=actor.agency_id, client_id=client_id, revision=0)
            made.draft = document.model_dump(mode="json")
            session.add(made)
            session.flush()
            note(session, house, actor, client_id, f"brought in the flow {document.name}{_said(offered)}")
            return CallFlowView.of(made)
    except Withdrawn as withdrawn:
        return [Mistake(one.field, 0, one.sentence) for one in withdrawn.problems]
    except IntegrityError:
        return [
            Mistake("flow.name", 0, f"another flow of this client is named {flow.name}: give this one another name")
        ]


def _said(offered: list[Offered]) -> str:
    made = [one.thing.name for one in offered if one.chosen == NEW and one.thing.kind in MADE]
    return f" and made {', '.join(made)}" if made else ""


def _read(content: str) -> FlowFile | list[Mistake]:
    if len(content) > LARGEST:
        return [Mistake("", 0, "the file is larger than 2 MB")]
    read = apart.worked_out(flow_file.read, content)
    if isinstance(read, Problem):
        return [Mistake("", 0, read.sentence)]
    if isinstance(read, list):
        return read
    return flow_file.wrong_in(read) or read


# inside a transaction


def _offered(
    session: Session, house: House, client: Client, file: FlowFile, choices: Choices, rest: str = OPEN
) -> list[Offered]:
    known = {kind: _known(session, client, kind) for kind in MADE}
    tracking = ringers_tracking(session, client.agency_id)
    domains = mailboxes.domains(session, client.agency_id)
    own = {*verifying.destinations_of(session, house, client.id), *_addresses_of(session, client)}
    found = []
    for thing in brought.things(file):
        wrong, notes = _looked_at(thing, file, client, tracking, domains)
        options = _fitting(thing, file, known)
        alike = [key for key, name in options if name.casefold() == thing.name.casefold()]
        alike = alike or [key for key, _ in options if not thing.brought and key == thing.key]
        can = thing.brought and not wrong
        allowed = {OPEN, *(f"{AS}{key}" for key, _ in options), *([NEW] if can else [])}
        usual = f"{AS}{alike[0]}" if alike else NEW if thing.key in own else rest
        usual = usual if usual in allowed else OPEN
        chosen = choices.get(thing.id, usual)
        options.sort(key=lambda one: (one[0] not in alike, one[1].casefold()))
        found.append(Offered(thing, options, chosen if chosen in allowed else OPEN, wrong, notes))
    return found


def _addresses_of(session: Session, client: Client) -> set[str]:
    """The addresses that a client has already: of people, of those whom mailboxes tell, and of systems that flows ask."""
    query = text(
        "SELECT unnest(tell) FROM mailboxes WHERE client_id = :client UNION SELECT document ->> 'email' FROM people"
        " WHERE client_id = :client AND removed_at IS NULL UNION SELECT jsonb_path_query(draft, '$.steps[*].url') #>> '{}'"
        " FROM flows WHERE client_id = :client AND removed_at IS NULL UNION SELECT jsonb_path_query(draft, '$.steps[*].to[*].of') #>> '{}'"
        " FROM flows WHERE client_id = :client AND removed_at IS NULL"
    )
    return {one for one in session.scalars(query, {"client": client.id}) if one}


def _known(session: Session, client: Client, kind: Kind) -> list[tuple[str, str, Any]]:
    if kind in ("place", "area"):
        row = session.scalar(select(ClientPlaces).where(ClientPlaces.client_id == client.id))
        places = Places.model_validate(row.document) if row else Places()
        return [(one.key, one.name, one) for one in (places.places if kind == "place" else places.areas)]
    model = ROWS[kind]
    query = select(model).where(model.client_id == client.id)
    if hasattr(model, "removed_at"):
        query = query.where(model.removed_at.is_(None))
    return [(row.key, row.name, row) for row in session.scalars(query)]


def _fitting(thing: Thing, file: FlowFile, known: Mapping[Kind, list[tuple[str, str, Any]]]) -> list[tuple[str, str]]:
    """What of the client can stand for a thing; hours only where every period that exits name is in them."""
    rows = known.get(thing.kind, [])
    wanted = file.materials.hours.get(thing.key) if thing.kind == "hours" else None
    if wanted is not None:
        ids = {one.id for one in wanted.periods}
        rows = [row for row in rows if ids <= {one.id for one in Hours.model_validate(row[2].document).periods}]
    return [(key, name) for key, name, _ in rows]


def _looked_at(
    thing: Thing, file: FlowFile, client: Client, tracking: set[str], domains: set[str]
) -> tuple[list[str], list[str]]:
    """What stands against making a thing, and what is worth knowing before; phones are looked at as forms do."""
    wrong: list[str] = []
    notes: list[str] = []
    phones, mails = [], []
    if thing.kind == "phone":
        phones = [thing.key]
    elif thing.kind == "address" and "@" in thing.key and "://" not in thing.key:
        mails = [thing.key]
    elif thing.kind == "person" and thing.brought:
        person = file.materials.people[thing.key]
        phones, mails = [one.to for one in person.phones], [person.email] if person.email else []
    elif thing.kind == "mailbox" and thing.brought:
        mails = list(file.materials.mailboxes[thing.key].tell)
    for to in phones:
        checked = phone_rules.check(to, client.country, tracking)
        if isinstance(checked, Wrong):
            wrong.append(f"{to}: {checked.sentence}")
        elif checked.asks:
            notes.append(f"{to} is in another country.")
    for address in mails:
        likely = mail.meant(address, domains)
        if not mail.is_address(address):
            wrong.append(f"“{address}” is no email address.")
        elif likely:
            notes.append(f"Did {address} mean {likely}?")
    return wrong, notes


def _settle(
    session: Session, actor: Actor, client: Client, file: FlowFile, offered: list[Offered]
) -> dict[str, str | None]:
    """The client's keys of all things, with those made that are to be made."""
    at: dict[str, str | None] = {}
    new: list[Thing] = []
    for one in offered:
        thing = one.thing
        if one.chosen.startswith(AS):
            at[thing.id] = one.chosen.removeprefix(AS)
        elif one.chosen == OPEN:
            # A condition cannot do without its hours: they are gone, which the findings say, until others are chosen.
            at[thing.id] = new_key("h") if thing.kind == "hours" else None
        elif thing.kind == "phone":
            checked = phone_rules.check(thing.key, client.country, ())
            at[thing.id] = None if isinstance(checked, Wrong) else checked.to
        elif thing.kind == "address":
            at[thing.id] = thing.key
        else:
            new.append(thing)
    _make(session, actor, client, file, new, at)
    return at


def _make(
    session: Session, actor: Actor, client: Client, file: FlowFile, new: list[Thing], at: dict[str, str | None]
) -> None:
    ids = {"agency_id": actor.agency_id, "client_id": client.id}
    materials = file.materials
    prefixes: dict[Kind, str] = {
        "person": "pe", "team": "te", "mailbox": "mb", "source": "ls", "flow": "fl", "place": "pl", "area": "ar",
    }  # fmt: skip
    at.update({thing.id: new_key(prefixes[thing.kind]) for thing in new if thing.kind in prefixes})
    for thing in new:
        if thing.kind == "mailbox":
            box = materials.mailboxes[thing.key]
            session.add(Mailbox(**ids, key=at[thing.id], name=box.name, tell=list(box.tell)))
        elif thing.kind == "source":
            source = materials.sources[thing.key]
            tags = source.model_dump(include={"source", "medium", "campaign", "online"})
            session.add(LeadSource(**ids, key=at[thing.id], name=source.name, **tags))
        elif thing.kind == "hours":
            document = _unlike(session, client.id, materials.hours[thing.key])
            made = sets.add(session, actor, client.id, document, "client")
            at[thing.id] = made.key if made else None
    taken = set(session.scalars(select(PersonRow.extension).where(
        PersonRow.client_id == client.id, PersonRow.removed_at.is_(None)
    )))  # fmt: skip
    for thing in new:
        if thing.kind == "person":
            person = _checked(brought.person_settled(materials.people[thing.key], at), client, taken)
            session.add(PersonRow(**ids, key=at[thing.id], revision=0, document=person.model_dump(mode="json")))
    for thing in new:
        if thing.kind == "team":
            team = brought.team_settled(materials.teams[thing.key], at)
            session.add(TeamRow(**ids, key=at[thing.id], revision=0, document=team.model_dump(mode="json")))
    _make_places(session, ids, materials.places, [one for one in new if one.kind in ("place", "area")], at)
    for thing in new:
        if thing.kind == "flow":
            flow = FlowDocument.model_validate(brought.settled(materials.flows[thing.key], at).model_dump())
            session.add(CallFlow(**ids, key=at[thing.id], revision=0, draft=flow.model_dump(mode="json")))
    try:
        with session.begin_nested():
            session.flush()
    except IntegrityError:
        sentence = "something of this client has the name of what is to be made: choose it, or leave it open"
        raise Withdrawn([Problem("materials", sentence)]) from None


def _make_places(
    session: Session, ids: dict[str, int], brought_along: Places, new: list[Thing], at: dict[str, str | None]
) -> None:
    """Puts places and areas to those that the client has."""
    if not new:
        return
    row = session.scalar(select(ClientPlaces).where(ClientPlaces.client_id == ids["client_id"]).with_for_update())
    if row is None:
        row = ClientPlaces(**ids, document=Places().model_dump(mode="json"), revision=0)
        session.add(row)
    known = Places.model_validate(row.document)
    wanted = {thing.id for thing in new}
    places = [
        one.model_copy(update={"key": at[f"place:{one.key}"]})
        for one in brought_along.places
        if f"place:{one.key}" in wanted
    ]
    areas = [
        brought.area_settled(one, at).model_copy(update={"key": at[f"area:{one.key}"]})
        for one in brought_along.areas
        if f"area:{one.key}" in wanted
    ]
    codes = {one.code: one for one in (*brought_along.codes, *known.codes)}
    raw = {"places": (*known.places, *places), "areas": (*known.areas, *areas), "codes": tuple(codes.values())}
    try:
        row.document = Places.model_validate(raw).model_dump(mode="json")
    except ValidationError:
        sentence = "a place or an area of this client has the name of what is to be made: choose it, or leave it open"
        raise Withdrawn([Problem("materials", sentence)]) from None
    row.revision += 1


def _checked(person: Person, client: Client, taken: set[str]) -> Person:
    """Somebody as they are kept here: phones in the stored form, no extension that another has."""
    phones = tuple(
        one.model_copy(update={"to": checked.to})
        for one in person.phones
        if not isinstance(checked := phone_rules.check(one.to, client.country, ()), Wrong)
    )
    extension = "" if person.extension in taken else person.extension
    taken.add(extension)
    return person.model_copy(update={"phones": phones, "extension": extension})


def _unlike(session: Session, client_id: int, document: Hours) -> Hours:
    """The document under a name that is free at the client."""
    taken = {
        name.casefold()
        for name in session.scalars(
            select(HoursSet.name).where(HoursSet.client_id == client_id, HoursSet.removed_at.is_(None))
        )
    }
    name, count = document.name, 1
    while name.casefold() in taken:
        count += 1
        name = f"{document.name[:55]} {count}"
    return document.model_copy(update={"name": name})
