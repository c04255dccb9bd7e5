"""A draft opened: its document, its findings, and all of the client that its rows can name."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.checks.finding import Finding, Surroundings, worst_first
from ...core.checks.flows import findings
from ...core.flows.conditions import tests as conditions
from ...core.flows.conditions.base import Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.spoken import library_keys, with_words
from ...core.flows.model.steps import ComeBack, HoldLine, Ring
from ...core.flows.model.walks import names_in
from ...core.flows.running.flow import Flow
from ...core.hours.timetable import Timetable
from ...core.people import uses
from ...core.people.directory import Person, Team
from ...core.places.document import Places
from ...core.prompts.facts import PromptFacts
from ...core.rehearsals import holding
from ...core.rehearsals.calls import Setting
from ...store.agency import Client
from ...store.flows import CallFlow, DraftEdit, FlowVersion
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, NotFound, allow
from ..agency.mailboxes import addresses, boxes_of
from ..hours.ready import standings
from ..house.house import House
from ..house.undoing import Entry, newest_first, plain, standing
from ..house.views import (
    CallFlowView,
    ClientView,
    FlowVersionView,
    LeadSourceView,
    MailboxView,
    TrackingNumberView,
)
from ..numbers.sources import sources_of
from ..people import verifying
from ..people.ringers import people_of, teams_of
from ..places.ready import whereabouts
from ..prompts import consent, library
from ..proof import worlds
from . import naming
from .within import OtherFlow, inner_flows, inner_live, other_flows


@dataclass(frozen=True, slots=True)
class RowAround:
    """What it takes to read the form of a row: the client's country; of a junction, what conditions can name and the hours by key;
    for a Continue in the client's flows by key; and the prompts that it can play, by key, with the flow's language."""

    country: str
    hours: Mapping[str, Timetable] = field(default_factory=dict)
    names: Names = field(default_factory=Names)
    flows: Mapping[str, OtherFlow] = field(default_factory=dict)
    prompts: Mapping[str, PromptFacts] = field(default_factory=dict)
    language: str = "en-US"


@dataclass(frozen=True)
class OpenDraft:
    """A draft as the sheet shows it; `hours` are the client's sets by key, `names` what they are called, `around` what findings know of the
    client."""

    flow: CallFlowView
    client: ClientView
    document: FlowDocument
    around: Surroundings
    mailboxes: list[MailboxView]
    sources: list[LeadSourceView]
    numbers: list[TrackingNumberView]
    live: FlowVersionView | None
    undo_words: str
    redo_words: str
    hours: dict[str, Timetable]
    people: dict[str, Person]
    teams: dict[str, Team]
    places: Places
    flows: dict[str, OtherFlow]
    setting: Setting | None

    @cached_property
    def findings(self) -> list[Finding]:
        """What is wrong with the draft, and which of the rehearsals kept with it fail."""
        return worst_first([*findings(self.document, self.around), *holding.findings(self.verdicts)])

    @cached_property
    def verdicts(self) -> list[holding.Verdict]:
        """What comes of the rehearsals that are kept with it."""
        if self.setting is None:
            return []
        return holding.verdicts(Flow(self.document, inner_live(self.document, self.flows)), self.setting)

    @property
    def callees(self) -> dict[str, str]:
        """What the client's people and teams are called, by key, and its flows by their keys behind "flow:"."""
        names = {key: one.name for key, one in self.people.items()}
        names |= {f"flow:{key}": one.name for key, one in self.flows.items()}
        return names | {key: one.name for key, one in self.teams.items()}

    @property
    def prompts(self) -> Mapping[str, PromptFacts]:
        """The prompts of the library that it can play, by key."""
        return self.around.prompts

    @property
    def names(self) -> Names:
        """What its conditions can name."""
        return naming.named(self.hours, self.people, self.sources, self.places, self.client.country, self.document)

    @property
    def row_around(self) -> RowAround:
        """What it takes to read the form of one of its rows."""
        return RowAround(
            self.client.country, self.hours, self.names, self.flows, self.prompts, self.document.language
        )  # fmt: skip

    @property
    def shown(self) -> FlowDocument:
        """The document with every exit named."""
        return self.named(self.document)

    def named(self, document: FlowDocument) -> FlowDocument:
        """A document of the same flow with every exit named, by what the client's hours, people and teams are called now."""
        return uses.named(conditions.named(document, self.names), self.callees)

    @property
    def stops(self) -> list[Finding]:
        return [one for one in self.findings if one.weight == "stops"]

    @property
    def changed(self) -> bool:
        """Whether the draft differs from what is live; edits that were all taken back leave no difference."""
        return self.live is None or differs(self.flow, self.live)


def differs(flow: CallFlowView, version: FlowVersionView) -> bool:
    """Whether a draft says anything else than a version of it."""
    return version.revision != flow.revision and version.document != flow.draft


def opened(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft:
    """A draft with its findings and all that its rows can name."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        return open_draft(session, house, actor, client, own_flow(session, client_id, flow_id))


def own_flow(session: Session, client_id: int, flow_id: int, *, lock: bool = False, removed: bool = False) -> CallFlow:
    """A flow of this client, or one that was removed; raises NotFound for any other. The lock is one that rows which name the flow, such as its
    proof, do not wait for: its id never changes."""
    flow = session.get(CallFlow, flow_id, with_for_update={"key_share": True} if lock else None)
    if flow is None or flow.client_id != client_id or (flow.removed_at is not None) != removed:
        raise NotFound
    return flow


def surroundings(session: Session, house: House, client: Client, document: FlowDocument, own: str = "") -> Surroundings:
    """What findings of a flow must know of the client and the agency; `own` is the key of the flow."""
    sources = {one.key for one in sources_of(session, client.id)}
    tables = standings(session, house, client.id).tables()
    people, teams = people_of(session, house, client.id), teams_of(session, house, client.id)
    phones = {named.key for _, named in names_in(document, "phone")}
    phones |= {phone.to for person in people.values() for phone in person.phones}
    numbers = session.scalars(
        select(TrackingNumber.e164).where(
            TrackingNumber.agency_id == client.agency_id, TrackingNumber.state != "released",
            TrackingNumber.e164.in_(phones),
        )
    )  # fmt: skip
    boxes = {one.key: bool(addresses(one.tell, people)) for one in boxes_of(session, client.id)}
    pointed = 0
    if own and any(isinstance(step, ComeBack) for step in document.steps):
        reached = select(func.count()).select_from(TrackingNumber).join(CallFlow, CallFlow.id == TrackingNumber.flow_id)
        pointed = (
            session.scalar(
                reached.where(
                    CallFlow.client_id == client.id, CallFlow.key == own, TrackingNumber.state == "in_service"
                )
            )
            or 0
        )
    return Surroundings(
        boxes, sources, set(numbers), tables, house.now(), people, teams, set(verifying.verified(session, client.id)),
        client.country, whereabouts(session, house, client.id), inner_flows(session, house, client.id),
        library.facts(session, house, client), consent.concerns(session, client) if _records(document) else (), own, pointed,
    )  # fmt: skip


def _records(document: FlowDocument) -> bool:
    return any(isinstance(step, Ring | HoldLine) and step.recording.purpose != "none" for step in document.steps)


def open_draft(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, document: FlowDocument | None = None
) -> OpenDraft:
    document = as_spoken(session, house, client, document or FlowDocument.model_validate(flow.draft))
    live = session.get(FlowVersion, flow.live_version_id) if flow.live_version_id else None
    undoable, redoable = standing_edits(session, actor, flow.id)
    around = surroundings(session, house, client, document, flow.key)
    sources = sources_of(session, client.id)
    within = None
    if document.rehearsals:
        names = naming.named(around.hours, around.people, sources, around.where.places, client.country, document)
        within = worlds.setting(session, house, client, flow.id, names, around.where)
    return OpenDraft(
        flow=CallFlowView.of(flow),
        client=ClientView.of(client),
        document=document,
        around=around,
        mailboxes=boxes_of(session, client.id),
        sources=sources,
        numbers=TrackingNumberView.all(
            session.execute(
                select(*TrackingNumberView.columns(TrackingNumber))
                .where(TrackingNumber.flow_id == flow.id, TrackingNumber.state == "in_service")
                .order_by(TrackingNumber.e164)
            )
        ),
        live=FlowVersionView.maybe(live),
        undo_words=plain(undoable.words) if undoable else "",
        redo_words=plain(redoable.words) if redoable else "",
        hours=around.hours,
        people=around.people,
        teams=around.teams,
        places=around.where.places,
        flows=other_flows(session, house, client.id),
        setting=within,
    )


def as_spoken(session: Session, house: House, client: Client, document: FlowDocument) -> FlowDocument:
    """A document with the words that prompts of the library have now."""
    if not library_keys(document):
        return document
    known = library.facts(session, house, client)
    return with_words(document, {key: one.words(document.language) for key, one in known.items() if one.takes})


def standing_edits(session: Session, actor: Actor, flow_id: int) -> tuple[Entry | None, Entry | None]:
    """The actor's entries that undo and redo would take back now."""
    return standing(newest_first(session, DraftEdit, DraftEdit.flow_id == flow_id, DraftEdit.user_id == actor.user_id))
