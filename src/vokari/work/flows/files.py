"""Flow files out: a flow with the materials that it names, to be carried to another client (`bringing`)."""

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Voicemail
from ...core.flows.model.walks import names_in
from ...core.hours.document import Hours
from ...core.people import carried
from ...core.places.document import Places
from ...formats import flow_file
from ...formats.flow_file import FlowFile, MailboxMaterial, Materials, SourceMaterial
from ...store.agency import Mailbox
from ...store.flows import CallFlow
from ...store.numbers import LeadSource
from ..agency.access import Actor, allow
from ..agency.mailboxes import addresses
from ..hours.ready import Standings
from ..house.house import House
from ..people.ringers import people_of, teams_of
from ..places.ready import whereabouts
from .open_drafts import own_flow


def export(house: House, actor: Actor, client_id: int, flow_id: int) -> str:
    """The draft of a flow as a flow file."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        document = FlowDocument.model_validate(own_flow(session, client_id, flow_id).draft)
        return flow_file.write(FlowFile(flow=document, materials=_materials(session, house, client_id, document)))


def _materials(session: Session, house: House, client_id: int, flow: FlowDocument) -> Materials:
    """What a flow and the flows that it continues in name."""
    inner = _inner(session, client_id, flow)
    document = flow.with_steps((*flow.steps, *(step for one in inner.values() for step in one.steps)))
    boxes = {step.mailbox for step in document.steps if isinstance(step, Voicemail) and step.mailbox}
    keys = {named.key for _, named in names_in(document, "source")}
    mailboxes = session.scalars(select(Mailbox).where(Mailbox.client_id == client_id, Mailbox.key.in_(boxes)))
    sources = session.scalars(select(LeadSource).where(LeadSource.client_id == client_id, LeadSource.key.in_(keys)))
    everybody = people_of(session, house, client_id)
    people, teams = carried.needed(document, everybody, teams_of(session, house, client_id))
    return Materials(
        flows=inner,
        places=_places(session, house, client_id, document),
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


def _inner(session: Session, client_id: int, flow: FlowDocument) -> dict[str, FlowDocument]:
    """The drafts of the flows that a flow continues in, and of all that those do, by key."""
    found: dict[str, FlowDocument] = {}
    todo = [flow]
    while todo:
        wanted = {named.key for _, named in names_in(todo.pop(), "flow")} - set(found)
        query = select(CallFlow).where(CallFlow.of(client_id), CallFlow.key.in_(wanted))
        for row in session.scalars(query) if wanted else ():
            found[row.key] = FlowDocument.model_validate(row.draft)
            todo.append(found[row.key])
    return found


def _places(session: Session, house: House, client_id: int, document: FlowDocument) -> Places:
    """The places and areas that a flow sorts by, with the client's own codes where there are any."""
    known = whereabouts(session, house, client_id).places
    named = {(one.kind, one.key) for _, one in names_in(document, "place", "area")}
    areas = tuple(one for one in known.areas if ("area", one.key) in named)
    around = {("place", at.place) for area in areas for at in area.around}
    places = tuple(one for one in known.places if ("place", one.key) in named | around)
    return Places(places=places, areas=areas, codes=known.codes if places or areas else ())


def _hours(
    session: Session, house: House, client_id: int, document: FlowDocument, also: Iterable[str]
) -> dict[str, Hours]:
    """The sets that a flow and its people name, each with the exceptions of the lists it shares as its own."""
    tables = Standings(session, house, client_id, house.now()).tables()
    keys = dict.fromkeys((*(named.key for _, named in names_in(document, "hours")), *also))
    return {
        key: tables[key].hours.model_copy(update={"exceptions": tables[key].exceptions})
        for key in keys
        if key in tables
    }


def client_of(house: House, flow_id: int) -> int:
    """The client that a flow belongs to, 0 for no flow; says nothing about who may see it."""
    with house.begin() as session:
        return session.scalar(select(CallFlow.client_id).where(CallFlow.id == flow_id)) or 0
