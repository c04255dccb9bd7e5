"""Flow files in and out: carrying a flow, with the materials it names, from one client to another."""

from collections.abc import Iterable
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core import mail
from ..core.flows import conditions, flowfile
from ..core.flows.document import FlowDocument
from ..core.flows.flowfile import FlowFile, MailboxMaterial, Materials, Mistake, SourceMaterial
from ..core.flows.steps import Menu, Step, Voicemail
from ..core.flows.supported import refusals
from ..core.hours.document import Hours
from ..core.hours.hoursfile import places_known
from ..core.ringing import carried
from ..store.agency import Mailbox
from ..store.flows import CallFlow
from ..store.hours import HoursSet
from ..store.numbers import LeadSource
from ..store.people import PersonRow, TeamRow
from . import hours
from .access import Actor, allow, note
from .drafts import own_flow
from .house import House
from .keys import new_key
from .mailboxes import addresses
from .ringers import people_of, teams_of
from .standing import Standings

LARGEST = 2_000_000


def export(house: House, actor: Actor, client_id: int, flow_id: int) -> str:
    """The draft of a flow as a flow file."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        document = FlowDocument.model_validate(own_flow(session, client_id, flow_id).draft)
        return flowfile.write(FlowFile(flow=document, materials=_materials(session, house, client_id, document)))


def _materials(session: Session, house: House, client_id: int, document: FlowDocument) -> Materials:
    boxes = {step.mailbox for step in document.steps if isinstance(step, Voicemail) and step.mailbox}
    keys = {
        branch.source for step in document.steps if isinstance(step, Menu) for branch in step.branches if branch.source
    }
    mailboxes = session.scalars(select(Mailbox).where(Mailbox.client_id == client_id, Mailbox.key.in_(boxes)))
    sources = session.scalars(select(LeadSource).where(LeadSource.client_id == client_id, LeadSource.key.in_(keys)))
    everybody = people_of(session, house, client_id)
    people, teams = carried.needed(document, everybody, teams_of(session, house, client_id))
    return Materials(
        people=people,
        teams=teams,
        hours=_hours(session, house, client_id, document, carried.hours_of(people, teams)),
        mailboxes={
            one.key: MailboxMaterial(name=one.name, tell=tuple(addresses(one.tell, everybody))) for one in mailboxes
        },
        sources={
            one.key: SourceMaterial(
                name=one.name, source=one.source, medium=one.medium, campaign=one.campaign, online=one.online
            )
            for one in sources
        },
    )


def _hours(
    session: Session, house: House, client_id: int, document: FlowDocument, also: Iterable[str]
) -> dict[str, Hours]:
    """The sets that a flow and its people name, each with the exceptions of the lists it shares as its own."""
    tables = Standings(session, house, client_id, house.now()).tables()
    keys = dict.fromkeys((*(use.hours for use in conditions.uses(document)), *also))
    return {
        key: tables[key].hours.model_copy(update={"exceptions": tables[key].exceptions})
        for key in keys
        if key in tables
    }


def import_(house: House, actor: Actor, client_id: int, text: str, name: str = "") -> CallFlow | list[Mistake]:
    """A new flow from a file, as a draft; what it names is matched by name or made. Nothing is half saved."""
    if len(text) > LARGEST:
        return [Mistake("", 0, "the file is larger than 2 MB")]
    read = flowfile.read(text)
    if isinstance(read, list):
        return read
    mistakes = refusals(read.flow) + _addresses(read) + _places(read)
    if mistakes:
        return mistakes
    document = read.flow.model_copy(update={"name": " ".join(name.split())[:60]}) if name.strip() else read.flow
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work", changing=True)
            renamed = _settle(session, actor, client_id, read.materials)
            document = FlowDocument.model_validate(_renamed(document, renamed).model_dump())
            flow = CallFlow(
                agency_id=actor.agency_id, client_id=client_id, draft=document.model_dump(mode="json"), revision=0
            )
            session.add(flow)
            session.flush()
            note(session, house, actor, client_id, f"imported the flow {document.name}")
            return flow
    except IntegrityError:
        return [
            Mistake("flow.name", 0, f"another flow of this client is named {document.name}: give this one another name")
        ]


def _addresses(read: FlowFile) -> list[Mistake]:
    return [
        Mistake(f"materials.mailboxes.{key}.tell", 0, f"“{address}” is no email address")
        for key, box in read.materials.mailboxes.items()
        for address in box.tell
        if not mail.is_address(address)
    ]


def _places(read: FlowFile) -> list[Mistake]:
    return [
        Mistake(f"materials.hours.{key}.{mistake.path}", 0, mistake.sentence)
        for key, one in read.materials.hours.items()
        for mistake in places_known(one)
    ]


def _settle(session: Session, actor: Actor, client_id: int, materials: Materials) -> dict[str, str]:
    """Finds each material of a file at the client by name, or makes it; gives the client's key for the file's."""
    renamed = {}
    for key, box in materials.mailboxes.items():
        query = select(Mailbox).where(Mailbox.client_id == client_id, func.lower(Mailbox.name) == box.name.lower())
        mailbox = session.scalar(query)
        if mailbox is None:
            mailbox = Mailbox(
                agency_id=actor.agency_id, client_id=client_id, key=new_key("mb"), name=box.name, tell=list(box.tell)
            )
            session.add(mailbox)
        renamed[key] = mailbox.key
    for key, material in materials.sources.items():
        find = select(LeadSource).where(
            LeadSource.client_id == client_id, func.lower(LeadSource.name) == material.name.lower()
        )
        source = session.scalar(find)
        if source is None:
            source = LeadSource(
                agency_id=actor.agency_id, client_id=client_id, key=new_key("ls"), name=material.name,
                source=material.source, medium=material.medium, campaign=material.campaign, online=material.online,
            )  # fmt: skip
            session.add(source)
        renamed[key] = source.key
    for key, document in materials.hours.items():
        known = session.scalar(
            select(HoursSet).where(
                HoursSet.client_id == client_id, HoursSet.removed_at.is_(None),
                func.lower(HoursSet.name) == document.name.lower(),
            )
        )  # fmt: skip
        if known is None or not _has_periods(known, document):
            known = hours.add(session, actor, client_id, _unlike(session, client_id, document), "client")
        renamed[key] = known.key if known else key
    _settle_people(session, actor, client_id, materials, renamed)
    session.flush()
    return renamed


def _settle_people(
    session: Session, actor: Actor, client_id: int, materials: Materials, renamed: dict[str, str]
) -> None:
    """Finds people and teams by name, or makes them; extensions that are taken here are left out."""
    extensions = set(session.scalars(select(PersonRow.extension).where(
        PersonRow.client_id == client_id, PersonRow.removed_at.is_(None)
    )))  # fmt: skip
    ids = {"agency_id": actor.agency_id, "client_id": client_id, "revision": 0}
    for key, person in materials.people.items():
        row = _by_name(session, PersonRow, client_id, person.name)
        if row is None:
            made = carried.person_rekeyed(person, renamed)
            if made.extension in extensions:
                made = made.model_copy(update={"extension": ""})
            extensions.add(made.extension)
            raw = made.model_dump(mode="json")
            row = PersonRow(**ids, key=new_key("pe"), document=raw)
            session.add(row)
        renamed[key] = row.key
    new = {}
    for key, team in materials.teams.items():
        known = _by_name(session, TeamRow, client_id, team.name)
        renamed[key] = known.key if known else new_key("te")
        if known is None:
            new[key] = team
    for key, team in new.items():
        raw = carried.team_rekeyed(team, renamed).model_dump(mode="json")
        session.add(TeamRow(**ids, key=renamed[key], document=raw))


def _by_name(session: Session, model: Any, client_id: int, name: str) -> Any:
    return session.scalar(
        select(model).where(
            model.client_id == client_id, model.removed_at.is_(None), func.lower(model.name) == name.lower()
        )
    )  # fmt: skip


def _has_periods(known: HoursSet, wanted: Hours) -> bool:
    """Whether a client's set can stand for the one of a file: every period that exits name is in it."""
    return {one.id for one in wanted.periods} <= {one.id for one in Hours.model_validate(known.document).periods}


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


def _renamed(document: FlowDocument, keys: dict[str, str]) -> FlowDocument:
    def settled(step: Step) -> Step:
        step = carried.step_rekeyed(conditions.rekeyed(step, keys), keys)
        if isinstance(step, Voicemail) and step.mailbox:
            return step.model_copy(update={"mailbox": keys.get(step.mailbox, step.mailbox)})
        if isinstance(step, Menu):
            branches = tuple(
                branch.model_copy(update={"source": keys.get(branch.source or "", branch.source)})
                for branch in step.branches
            )
            return step.model_copy(update={"branches": branches})
        return step

    return document.model_copy(update={"steps": tuple(settled(step) for step in document.steps)})


def client_of(house: House, flow_id: int) -> int:
    """The client that a flow belongs to, 0 for no flow; says nothing about who may see it."""
    with house.begin() as session:
        return session.scalar(select(CallFlow.client_id).where(CallFlow.id == flow_id)) or 0
