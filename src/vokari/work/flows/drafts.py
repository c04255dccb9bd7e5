"""Drafts: opening a flow, editing it, undo and redo, with two people at once in mind."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from functools import cached_property

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.checks.finding import Finding, Surroundings
from ...core.checks.flows import findings
from ...core.flows.conditions import tests as conditions
from ...core.flows.conditions.base import Names
from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep, ComeBack, ContinueIn, Junction
from ...core.flows.model.walks import names_in
from ...core.hours.timetable import Timetable
from ...core.people import uses
from ...core.people.directory import Person, Team
from ...core.places.document import Places
from ...store.agency import Client, User
from ...store.flows import CallFlow, DraftEdit, FlowVersion
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, NotFound, allow, note
from ..agency.mailboxes import addresses, boxes_of
from ..hours.ready import standings
from ..house.house import House
from ..house.kept import read_once
from ..house.open_pages import flow_changed
from ..house.problems import Problem, Problems, Row
from ..house.undoing import Entry, newest_first, plain, said, standing
from ..house.views import (
    CallFlowView,
    ClientView,
    DraftEditView,
    FlowVersionView,
    LeadSourceView,
    MailboxView,
    TrackingNumberView,
)
from ..numbers.sources import sources_of
from ..people import verifying
from ..people.ringers import people_of, teams_of
from ..places.ready import whereabouts
from . import naming
from .within import OtherFlow, inner_flows, other_flows


@dataclass(frozen=True, slots=True)
class Conflict:
    """Somebody changed the row since this page was made: who, what in words, and the row as it was and is now."""

    row: str
    who: str
    words: tuple[str, ...]
    before: Row | None
    now: Row | None


@dataclass(frozen=True, slots=True)
class RowAround:
    """What it takes to read the form of a row: the client's country; of a junction, what conditions can name and the hours by key; and
    for a Continue in the client's flows by key."""

    country: str
    hours: Mapping[str, Timetable] = field(default_factory=dict)
    names: Names = field(default_factory=Names)
    flows: Mapping[str, OtherFlow] = field(default_factory=dict)


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

    @cached_property
    def findings(self) -> list[Finding]:
        """What is wrong with the draft."""
        return findings(self.document, self.around)

    @property
    def callees(self) -> dict[str, str]:
        """What the client's people and teams are called, by key, and its flows by their keys behind "flow:"."""
        names = {key: one.name for key, one in self.people.items()}
        names |= {f"flow:{key}": one.name for key, one in self.flows.items()}
        return names | {key: one.name for key, one in self.teams.items()}

    @property
    def names(self) -> Names:
        """What its conditions can name."""
        return naming.named(self.hours, self.people, self.sources, self.places, self.client.country, self.document)

    @property
    def row_around(self) -> RowAround:
        """What it takes to read the form of one of its rows."""
        return RowAround(self.client.country, self.hours, self.names, self.flows)

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


def listed(house: House, actor: Actor, client_id: int) -> list[tuple[CallFlowView, FlowVersionView | None, int]]:
    """A client's flows, by name: with the live version and the count of numbers that point at each."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        count = (
            select(func.count())
            .select_from(TrackingNumber)
            .where(TrackingNumber.flow_id == CallFlow.id, TrackingNumber.state == "in_service")
            .scalar_subquery()
        )
        query = (
            select(CallFlow, FlowVersion, count)
            .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
            .where(CallFlow.of(client_id))
            .order_by(func.lower(CallFlow.name))
        )
        return [
            (CallFlowView.of(flow), FlowVersionView.maybe(version), numbers)
            for flow, version, numbers in session.execute(query)
        ]


def create(house: House, actor: Actor, client_id: int, name: str, mark: str) -> CallFlowView | Problems:
    """A new flow with an empty draft."""
    name, mark = " ".join(name.split()), mark.strip().upper()
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "work", changing=True)
            language = "en-GB" if client.country == "GB" else "en-US"
            document = FlowDocument(name=name, mark=mark or _mark(name), language=language)
            raw = document.model_dump(mode="json")
            flow = CallFlow(agency_id=actor.agency_id, client_id=client_id, draft=raw, revision=0)
            session.add(flow)
            session.flush()
            note(session, house, actor, client_id, f"made the flow {name}")
            return CallFlowView.of(flow)
    except ValidationError as error:
        sentences = {
            "name": "A flow has a name of 1 to 60 letters.",
            "mark": "A mark has two or three capital letters or digits.",
        }
        fields = sorted({str(one["loc"][0]) for one in error.errors()})
        return [Problem(field, sentences.get(field, "This cannot be read.")) for field in fields]
    except IntegrityError:
        return [Problem("name", "Another flow of this client has this name already.")]


def duplicate(house: House, actor: Actor, client_id: int, flow_id: int) -> CallFlowView:
    """A new flow of the client with the draft of another, under a name and a mark that are free."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id)
        others = session.execute(select(CallFlow.name, CallFlow.mark).where(CallFlow.of(client_id))).all()
        names, marks = {one.name.lower() for one in others}, {one.mark for one in others}
        document = FlowDocument.model_validate(flow.draft)
        words = (f"{document.name[:50]} copy{n}" for n in ("", *(f" {n}" for n in range(2, 1000))))
        name = next(one for one in words if one.lower() not in names)
        mark = next(
            (one for one in (f"{document.mark[:2]}{n}" for n in range(2, 10)) if one not in marks), document.mark
        )
        raw = document.model_copy(update={"name": name, "mark": mark}).model_dump(mode="json")
        made = CallFlow(agency_id=actor.agency_id, client_id=client_id, draft=raw, revision=0)
        session.add(made)
        session.flush()
        note(session, house, actor, client_id, f"duplicated the flow {flow.name} as {name}")
        return CallFlowView.of(made)


def _mark(name: str) -> str:
    letters = [word[0] for word in name.upper().split() if word[0].isascii() and word[0].isalpha()]
    return ("".join(letters[:3]) + "XX")[: max(2, min(3, len(letters)))]


def opened(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft:
    """A draft with its findings and all that its rows can name."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        return _open(session, house, actor, client, own_flow(session, client_id, flow_id))


def edit_row(
    house: House, actor: Actor, client_id: int, flow_id: int, row: str,
    read: Callable[[AnyStep, RowAround], AnyStep | Problems], base: int | None = None,
) -> OpenDraft | Conflict | Problems:  # fmt: skip
    """The same for one row, which `read` makes of the step as it is and what the client has."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        document = FlowDocument.model_validate(flow.draft)
        step = document.step(row)
        if step is None:
            return [Problem("", "This step was removed meanwhile; what you typed is not saved.")]
        made = read(step, _row_around(session, house, client, document, step))
        if isinstance(made, list):
            return made
        return _edited(session, house, actor, client, flow, [edits.SetStep(step=made)], base, document)


def _row_around(session: Session, house: House, client: Client, document: FlowDocument, step: AnyStep) -> RowAround:
    flows = other_flows(session, house, client.id) if isinstance(step, ContinueIn) else {}
    if not isinstance(step, Junction):
        return RowAround(client.country, flows=flows)
    tables = standings(session, house, client.id).tables()
    return RowAround(client.country, tables, naming.names_of(session, house, client, document))


def edit(
    house: House, actor: Actor, client_id: int, flow_id: int, wanted: Sequence[edits.Edit], base: int | None = None
) -> OpenDraft | Conflict | Problems:
    """Carries out edits as one step of the log.

    `base` is the revision of the page they were made on. An edit of a row that somebody else, or another page, has
    changed since is not carried out but told; edits of other rows stand beside each other.
    """
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        return _edited(session, house, actor, client, flow, wanted, base)


def _edited(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, wanted: Sequence[edits.Edit], base: int | None,
    document: FlowDocument | None = None,
) -> OpenDraft | Conflict | Problems:  # fmt: skip
    """Edits of a locked flow, whose draft `document` is."""
    for one in wanted:
        conflict = _conflict(session, flow, one, base)
        if conflict:
            return conflict
    changed = change_rows(session, house, actor, flow, wanted, document)
    if isinstance(changed, list):
        return changed
    with read_once(session):
        return _open(session, house, actor, client, flow, changed)


def change_rows(
    session: Session, house: House, actor: Actor, flow: CallFlow, wanted: Sequence[edits.Edit], document: FlowDocument | None = None
) -> FlowDocument | Problems:  # fmt: skip
    """Carries out edits of a locked flow as one step of its log, in the caller's transaction; or says why not."""
    result = edits.apply(document or FlowDocument.model_validate(flow.draft), *wanted)
    if isinstance(result, edits.Refused):
        return [Problem(result.field, result.sentence)]
    problems: Problems = []
    if result.changes:
        problems = _logged(session, house, actor, flow, "edit", None, result.words, result.changes, result.document)
    return problems or result.document


def undo(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft | Problems:
    """Takes back the actor's latest edit that stands."""
    return _step_back(house, actor, client_id, flow_id, "undo")


def redo(house: House, actor: Actor, client_id: int, flow_id: int) -> OpenDraft | Problems:
    """Does again what the actor took back last, if nothing was edited by the actor since."""
    return _step_back(house, actor, client_id, flow_id, "redo")


def _step_back(house: House, actor: Actor, client_id: int, flow_id: int, kind: str) -> OpenDraft | Problems:
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        undoable, redoable = _standing(session, actor, flow.id)
        found = undoable if kind == "undo" else redoable
        if found is None:
            return [Problem("", f"There is nothing of yours to {kind}.")]
        target = session.get_one(DraftEdit, (flow.id, found.seq))
        document = FlowDocument.model_validate(flow.draft)
        changes = tuple(edits.RowChange(**one) for one in target.changes)
        names = {change.row: str((change.after or change.before or {}).get("name", "")) for change in changes}
        result = edits.undo(document, changes, names)
        if isinstance(result, edits.Refused):
            return [Problem("", result.sentence)]
        words = said(kind, target.words)
        problems = _logged(session, house, actor, flow, kind, target.seq, words, result.changes, result.document)
        if problems:
            return problems
        return _open(session, house, actor, client, flow)


def _standing(session: Session, actor: Actor, flow_id: int) -> tuple[Entry | None, Entry | None]:
    """The actor's entries that undo and redo would take back now."""
    return standing(newest_first(session, DraftEdit, DraftEdit.flow_id == flow_id, DraftEdit.user_id == actor.user_id))


def history(
    house: House, actor: Actor, client_id: int, flow_id: int, limit: int = 200
) -> list[tuple[DraftEditView, str]]:
    """The latest edits of a draft, newest first, each with who made it."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        query = (
            select(DraftEdit, User.name)
            .join(User, User.id == DraftEdit.user_id)
            .where(DraftEdit.flow_id == flow_id)
            .order_by(DraftEdit.seq.desc())
            .limit(limit)
        )
        return [(DraftEditView.of(entry), name) for entry, name in session.execute(query)]


def own_flow(session: Session, client_id: int, flow_id: int, *, lock: bool = False, removed: bool = False) -> CallFlow:
    """A flow of this client, or one that was removed; raises NotFound for any other."""
    flow = session.get(CallFlow, flow_id, with_for_update=lock)
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
        client.country, whereabouts(session, house, client.id), inner_flows(session, house, client.id), own, pointed,
    )  # fmt: skip


def _open(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, document: FlowDocument | None = None
) -> OpenDraft:
    document = document or FlowDocument.model_validate(flow.draft)
    live = session.get(FlowVersion, flow.live_version_id) if flow.live_version_id else None
    undoable, redoable = _standing(session, actor, flow.id)
    around = surroundings(session, house, client, document, flow.key)
    return OpenDraft(
        flow=CallFlowView.of(flow),
        client=ClientView.of(client),
        document=document,
        around=around,
        mailboxes=boxes_of(session, client.id),
        sources=sources_of(session, client.id),
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
    )


def _conflict(session: Session, flow: CallFlow, wanted: edits.Edit, base: int | None) -> Conflict | None:
    """What was changed since `base` in the row that an edit replaces, or in any, where it replaces all; edits of single exits replace no
    row."""
    row = {
        "set_step": getattr(getattr(wanted, "step", None), "id", None),
        "remove_step": getattr(wanted, "id", None),
    }.get(wanted.do)
    if isinstance(wanted, edits.SetFlow):
        row = edits.FLOW_ROW
    whole = isinstance(wanted, edits.Rewrite)
    if (row is None and not whole) or base is None or base == flow.revision:
        return None
    touched = [] if whole else [DraftEdit.rows.contains([row])]
    later = session.execute(
        select(DraftEdit, User.name)
        .join(User, User.id == DraftEdit.user_id)
        .where(DraftEdit.flow_id == flow.id, DraftEdit.seq > base, *touched)
        .order_by(DraftEdit.seq)
    ).all()
    if not later:
        return None
    if whole or row is None:
        return Conflict(
            "", " and ".join(sorted({name for _, name in later})), tuple(one.words for one, _ in later), None, None
        )
    changes = [next(c for c in entry.changes if c["row"] == row) for entry, _ in later]
    names = sorted({name for _, name in later})
    return Conflict(
        row, " and ".join(names), tuple(entry.words for entry, _ in later), changes[0]["before"], changes[-1]["after"]
    )


def _logged(
    session: Session, house: House, actor: Actor, flow: CallFlow, kind: str, of_seq: int | None, words: str,
    changes: tuple[edits.RowChange, ...], document: FlowDocument,
) -> Problems:  # fmt: skip
    """Writes a change of a locked flow down, unless its name is taken."""
    try:
        with session.begin_nested():
            _log(session, house, actor, flow, kind, of_seq, words, changes, document)
    except IntegrityError:
        return [Problem("name", "Another flow of this client has this name already.")]
    return []


def _log(
    session: Session, house: House, actor: Actor, flow: CallFlow, kind: str, of_seq: int | None, words: str,
    changes: tuple[edits.RowChange, ...], document: FlowDocument,
) -> None:  # fmt: skip
    flow.revision += 1
    flow.draft = document.model_dump(mode="json")
    session.add(
        DraftEdit(
            flow_id=flow.id, seq=flow.revision, agency_id=actor.agency_id, user_id=actor.user_id, at=house.now(),
            kind=kind, of_seq=of_seq, words=words[:500], rows=[change.row for change in changes],
            changes=[asdict(change) for change in changes],
        )
    )  # fmt: skip
    session.flush()
    flow_changed(session, flow.client_id, flow.id, flow.revision)
