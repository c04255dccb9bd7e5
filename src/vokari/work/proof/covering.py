"""The cover of what is live: kept with each flow's proof, asked for anew where the client has changed since."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import case, func, select
from sqlalchemy.orm import Session

from ...store.agency import Client
from ...store.flows import CallFlow, FlowVersion
from ...store.numbers import TrackingNumber
from ...store.proofs import Proof
from ..agency.access import Actor, allow, allow_agency
from ..house.house import House
from ..house.problems import Row
from ..house.views import CallFlowView, ClientView
from . import nightly
from .proving import AGAIN, FRESH, stamp_of
from .walking import SHAPE

CLIENTS = 20
"""How many clients one page shows."""


@dataclass(frozen=True, slots=True)
class FlowCover:
    """A live flow with the version that is live, the numbers that reach it, and its cover (None: not worked out yet); `made_at` is when, and
    `current` whether the client is as it was then."""

    flow: CallFlowView
    version: int
    document: Row
    numbers: tuple[str, ...]
    made_at: datetime | None
    current: bool
    cover: Row | None


@dataclass(frozen=True, slots=True)
class ClientCover:
    """A client with the cover of its live flows, those with numbers first."""

    client: ClientView
    flows: tuple[FlowCover, ...]


def of_client(house: House, actor: Actor, client_id: int) -> ClientCover:
    """The cover of a client; what is missing or of before is asked for."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        return _covers(session, house, [client])[0]


def of_agency(house: House, actor: Actor, text: str = "", start: int = 0) -> tuple[list[ClientCover], int]:
    """The cover of a page of clients by name, whose names hold a text, and how many clients there are."""
    allow_agency(actor)
    with house.begin() as session:
        live = select(CallFlow.client_id).where(CallFlow.live_version_id.is_not(None), CallFlow.removed_at.is_(None))
        wanted = select(Client).where(
            Client.agency_id == actor.agency_id, Client.id.in_(live), Client.name.icontains(text, autoescape=True)
        )
        count = session.scalar(select(func.count()).select_from(wanted.subquery())) or 0
        some = session.scalars(wanted.order_by(func.lower(Client.name), Client.id).offset(start).limit(CLIENTS)).all()
        return _covers(session, house, some), count


def _covers(session: Session, house: House, clients: Sequence[Client]) -> list[ClientCover]:
    ids = [one.id for one in clients]
    known = Proof.document["shape"].astext == str(SHAPE)
    cover = case((known, Proof.document["cover"])).label("cover")
    rows = session.execute(
        select(CallFlow, FlowVersion, Proof.revision, Proof.stamp, Proof.made_at, Proof.asked_at, cover)
        .join(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .outerjoin(Proof, (Proof.flow_id == CallFlow.id) & Proof.live)
        .where(CallFlow.client_id.in_(ids), CallFlow.removed_at.is_(None))
        .order_by(CallFlow.name, CallFlow.id)
    ).all()
    reach: dict[int, list[str]] = {}
    numbers = select(TrackingNumber).where(TrackingNumber.client_id.in_(ids), TrackingNumber.state == "in_service")
    for one in session.scalars(numbers.order_by(TrackingNumber.e164)):
        if one.flow_id:
            reach.setdefault(one.flow_id, []).append(one.e164)
    now, found = house.now(), []
    for client in clients:
        stamp, flows = stamp_of(session, client), []
        for flow, version, revision, stamped, made_at, asked_at, kept in rows:
            if flow.client_id != client.id:
                continue
            current = (revision, stamped) == (version.number, stamp) and made_at is not None and now - made_at < FRESH
            if not current and (asked_at is None or now - asked_at > AGAIN):
                nightly.ask(session, flow, now)
            reached = tuple(reach.get(flow.id, ()))
            view = CallFlowView.of(flow)
            flows.append(FlowCover(view, version.number, version.document, reached, made_at, current, kept))
        flows.sort(key=lambda one: not one.numbers)
        found.append(ClientCover(ClientView.of(client), tuple(flows)))
    return found
