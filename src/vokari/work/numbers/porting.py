"""Numbers that come across from another carrier, in stages; documents that carriers ask for; numbers that leave."""

import contextlib
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.numbers import assignments, numbering
from ...store.agency import Client
from ...store.flows import CallFlow
from ...store.numbers import Carrier, LeadSource, NumberDocument, Port, TrackingNumber
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.ports import CarrierRefuses, PortState
from ..house.problems import Problem, Problems
from ..house.sweeps import each
from ..house.views import CallFlowView, LeadSourceView, NumberDocumentView, PortView, TrackingNumberView
from .assignments import give_first, give_now, spans_of
from .free import in_use
from .numbers import CARRIER, given_names, own_flow, own_number
from .sources import own_source

OPEN_STAGES = ("requested", "documents", "accepted")
STAGE_NAMES = {
    "requested": "requested", "documents": "documents required", "accepted": "accepted", "rejected": "rejected",
    "done": "done", "withdrawn": "withdrawn",
}  # fmt: skip
LARGEST_DOCUMENT = 2_500_000
DOCUMENT_KINDS = {b"%PDF-": ".pdf", b"\x89PNG\r\n\x1a\n": ".png", b"\xff\xd8\xff": ".jpg"}
"""The first bytes of the files that are taken: PDF (ISO 32000), PNG (RFC 2083), JPEG (ITU-T T.81)."""


@dataclass(frozen=True, slots=True)
class PortLine:
    """A port with its number, the flow and the source that are prepared for it, and the documents that were given."""

    port: PortView
    number: TrackingNumberView
    flow: CallFlowView | None
    source: LeadSourceView | None
    documents: list[NumberDocumentView]


def listed(house: House, actor: Actor, client_id: int) -> list[PortLine]:
    """A client's ports, the latest first."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        rows = session.execute(
            select(Port, TrackingNumber, CallFlow, LeadSource)
            .join(TrackingNumber, TrackingNumber.id == Port.number_id)
            .outerjoin(CallFlow, CallFlow.id == TrackingNumber.flow_id)
            .outerjoin(LeadSource, LeadSource.id == Port.source_id)
            .where(Port.client_id == client_id)
            .order_by(Port.id.desc())
        ).all()
        documents = documents_of(session, [number.id for _, number, _, _ in rows])
        return [
            PortLine(
                PortView.of(port),
                TrackingNumberView.of(number),
                CallFlowView.maybe(flow),
                LeadSourceView.maybe(source),
                NumberDocumentView.all(documents.get(number.id, [])),
            )
            for port, number, flow, source in rows
        ]


def documents_of(session: Session, number_ids: list[int]) -> dict[int, list[NumberDocument]]:
    """The documents that were given for numbers, oldest first."""
    found: dict[int, list[NumberDocument]] = {}
    query = select(NumberDocument).where(NumberDocument.number_id.in_(number_ids)).order_by(NumberDocument.id)
    for document in session.scalars(query):
        found.setdefault(document.number_id, []).append(document)
    return found


def request(
    house: House, actor: Actor, client_id: int, typed: str, losing_carrier: str, account: str,
    source_id: int | None = None, flow_id: int | None = None,
) -> PortView | Problems:  # fmt: skip
    """Asks the carrier to bring a number across; its source and flow take over at the moment of the transfer."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        own_source(session, client_id, source_id)
        own_flow(session, client_id, flow_id)
        read = numbering.parse(typed, client.country)
        problems = [] if isinstance(read, str) else [Problem("number", read.sentence)]
        if not losing_carrier.strip():
            problems.append(Problem("losing_carrier", "Name the carrier that has the number now."))
        if not account.strip():
            problems.append(Problem("account", "Give the account number at that carrier: it stands on its bill."))
        if isinstance(read, str):
            problems += [Problem("number", sentence) for sentence in in_use(session, client, [read]).values()]
        if problems:
            return problems
        e164 = str(read)
        count = len(session.scalars(select(Port.id).where(Port.client_id == client_id)).all())
    try:
        state = house.carrier.request_port(
            e164, account=account.strip()[:60], key=f"port-{client_id}-{e164}-{count}", fail_safe=client.fail_safe
        )
    except CarrierRefuses as refusal:
        return [Problem("number", refusal.sentence)]
    try:
        with house.begin() as session:
            port = _keep(session, house, actor, client, state, source_id, flow_id)
            port.losing_carrier, port.account = losing_carrier.strip()[:80], account.strip()[:60]
            return PortView.of(port)
    except IntegrityError:
        return [Problem("number", "Somebody asked for this number a moment ago.")]


def _keep(
    session: Session, house: House, actor: Actor, client: Client, state: PortState, source_id: int | None,
    flow_id: int | None,
) -> Port:  # fmt: skip
    carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
    number = TrackingNumber(
        agency_id=actor.agency_id, client_id=client.id, carrier_id=carrier.id, e164=state.e164, place=state.place,
        kind=state.kind, state="porting_in", flow_id=flow_id, fail_safe="", fail_safe_told=client.fail_safe, taken_at=house.now(), rent=Decimal(state.rent),
        set_up=Decimal(state.set_up), asked_for=state.asked_for,
    )  # fmt: skip
    source = session.get(LeadSource, source_id) if source_id else None
    sources = {source.id: source} if source else {}
    (number.name,) = given_names(session, client, [number], sources, [source_id])
    session.add(number)
    session.flush()
    port = Port(
        agency_id=actor.agency_id, client_id=client.id, number_id=number.id, source_id=source_id, ref=state.ref,
        losing_carrier="", account="", stage=state.stage, words=state.words, requested_at=house.now(),
    )  # fmt: skip
    session.add(port)
    session.flush()
    shown = numbering.shown(state.e164, client.country)
    note(session, house, actor, client.id, f"asked to bring {shown} across")
    return port


def follow(house: House, port_id: int) -> None:
    """Asks the carrier how a port stands and follows it: a date plans the assignment, done puts it in service.

    Raises CarrierRefuses when the carrier cannot be reached.
    """
    with house.begin() as session:
        port = session.get(Port, port_id)
        if port is None or port.stage not in OPEN_STAGES:
            return
        ref = port.ref
    state = house.carrier.port(ref)
    with house.begin() as session:
        port, number = _locked(session, port_id)
        _apply(session, house, port, number, state)


def _apply(session: Session, house: House, port: Port, number: TrackingNumber, state: PortState) -> None:
    port.stage, port.words = state.stage, state.words
    number.asked_for = state.asked_for
    moves_at = datetime.fromisoformat(state.moves_at) if state.moves_at else None
    if moves_at and port.source_id and not spans_of(session, [number.id]):
        give_first(session, number, port.source_id, moves_at)
    port.moves_at = moves_at
    if state.stage == "done" and number.state == "porting_in":
        number.state = "in_service"
    if state.stage in ("rejected", "withdrawn") and number.state == "porting_in":
        number.state, number.flow_id = "released", None
        number.ended_at, number.ended_how = house.now(), state.stage


def follow_all(house: House) -> int:
    """Follows every open port; gives how many there are. One that cannot be asked about now waits for the next time."""
    with house.begin() as session:
        ports = session.scalars(select(Port.id).where(Port.stage.in_(OPEN_STAGES))).all()

    def follow_one(port_id: int) -> bool:
        with contextlib.suppress(CarrierRefuses):
            follow(house, port_id)
        return True

    each("a port could not be followed", ports, follow_one)
    return len(ports)


def ask_now(house: House, actor: Actor, client_id: int) -> Problems:
    """Follows a client's open ports at once, because somebody wants to know."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        query = select(Port.id).where(Port.client_id == client_id, Port.stage.in_(OPEN_STAGES))
        ports = session.scalars(query).all()
    try:
        for port_id in ports:
            follow(house, port_id)
    except CarrierRefuses as refusal:
        return [Problem("", refusal.sentence)]
    return []


def withdraw(house: House, actor: Actor, client_id: int, port_id: int) -> Problems:
    """Takes a request back while the number has not come across."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        port = session.get(Port, port_id)
        if port is None or port.client_id != client_id:
            raise NotFound
        if port.stage not in OPEN_STAGES:
            return [Problem("", "This port is over already.")]
    try:
        state = house.carrier.withdraw_port(port.ref)
    except CarrierRefuses as refusal:
        return [Problem("", refusal.sentence)]
    with house.begin() as session:
        kept, number = _locked(session, port_id)
        if kept.stage not in OPEN_STAGES:
            return []
        spans = spans_of(session, [number.id]).get(number.id, ())
        if spans and assignments.holder(spans, house.now()) is None:
            give_now(session, house, number, None)
        _apply(session, house, kept, number, state)
        note(session, house, actor, client_id, f"withdrew the port of {numbering.shown(number.e164, client.country)}")
    return []


def _locked(session: Session, port_id: int) -> tuple[Port, TrackingNumber]:
    port = session.get_one(Port, port_id, with_for_update=True)
    return port, session.get_one(TrackingNumber, port.number_id, with_for_update=True)


def plain_name(name: str) -> str:
    """The name of an uploaded file without the folders that some browsers, and all who mean ill, send along."""
    last = "".join(one for one in name.replace("\\", "/").rpartition("/")[2] if one.isprintable()).strip(". ")
    return last[-120:] or "document"


def give_document(
    house: House, actor: Actor, client_id: int, number_id: int, kind: str, name: str, content: bytes
) -> Problems:
    """Gives the carrier a document that it asked for: a PDF, PNG or JPEG file."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        number = own_number(session, client_id, number_id)
        if kind not in number.asked_for:
            return [Problem("file", "The carrier does not ask for this now.")]
        suffix = next((end for start, end in DOCUMENT_KINDS.items() if content.startswith(start)), None)
        if not content or suffix is None:
            return [Problem("file", "Choose a PDF, PNG or JPEG file.")]
        if len(content) > LARGEST_DOCUMENT:
            return [Problem("file", f"A document has at most {LARGEST_DOCUMENT / 1_000_000:.1f} MB.")]
        port = session.scalar(select(Port).where(Port.number_id == number_id, Port.stage.in_(OPEN_STAGES)))
    file = house.files.put(content, suffix)
    try:
        answer = (
            house.carrier.give_port_document(port.ref, kind) if port else house.carrier.give_document(number.e164, kind)
        )
    except CarrierRefuses as refusal:
        return [Problem("file", refusal.sentence)]
    with house.begin() as session:
        if port and isinstance(answer, PortState):
            kept, number = _locked(session, port.id)
            _apply(session, house, kept, number, answer)
        elif isinstance(answer, list):
            number = session.get_one(TrackingNumber, number_id, with_for_update=True)
            number.asked_for = answer
            if not answer and number.state == "awaiting_documents":
                number.state = "in_service"
        document = NumberDocument(
            agency_id=actor.agency_id, client_id=client_id, number_id=number_id, kind=kind, name=plain_name(name), file=file,
            at=house.now(),
        )  # fmt: skip
        session.add(document)
        shown = numbering.shown(number.e164, client.country)
        note(session, house, actor, client_id, f"gave the carrier {kind} for {shown}")
    return []


def leave(house: House, actor: Actor, client_id: int, number_id: int, *, sure: bool) -> Problems:
    """A number goes on at another carrier: its assignment ends now, its history stays."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        number = own_number(session, client_id, number_id)
        if number.state != "in_service":
            return [Problem("leave", "Only a number in service can leave.")]
        if not sure:
            return [
                Problem("leave", "Tick that the other carrier has confirmed the transfer: this cannot be taken back.")
            ]
    try:
        house.carrier.give_back(number.e164, leaves=True)
    except CarrierRefuses as refusal:
        if not refusal.gone:
            return [Problem("leave", refusal.sentence)]
    with house.begin() as session:
        kept = session.get_one(TrackingNumber, number_id, with_for_update=True)
        if kept.state == "released":
            return []
        give_now(session, house, kept, None)
        kept.state, kept.flow_id = "released", None
        kept.ended_at, kept.ended_how = house.now(), "ported out"
        note(session, house, actor, client_id, f"{numbering.shown(kept.e164, client.country)} left to another carrier")
    return []
