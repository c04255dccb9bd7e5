"""Finding anything by a few letters or digits: clients, flows, lead sources, numbers, and a caller's calls."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from ...core.numbers import numbering
from ...store.agency import Client
from ...store.calls import Call
from ...store.flows import CallFlow
from ...store.numbers import LeadSource, TrackingNumber
from ..house.house import House
from ..house.views import ClientView
from .access import Actor

MOST = 6
"""Hits of one kind that are given."""

SHORTEST_DIGITS = 3


@dataclass(frozen=True, slots=True)
class Hit:
    """Something that was found: its kind, its id, the client it belongs to, its name, and when (for a call)."""

    kind: Literal["client", "flow", "source", "number", "call"]
    id: object
    client: ClientView
    name: str
    at: datetime | None = None
    fate: str = ""


def find(house: House, actor: Actor, typed: str) -> list[Hit]:
    """What fits the words or digits; a client's own people find calls of their client only."""
    text = " ".join(typed.replace("\0", " ").split())[:60]
    if not text:
        return []
    with house.begin() as session:
        hits = list(_by_name(session, actor, text)) if actor.works else []
        digits = "".join(one for one in text if one.isdigit()).lstrip("0")
        if len(digits) >= SHORTEST_DIGITS:
            if actor.works:
                hits += _numbers(session, actor, digits)
            hits += _calls(session, actor, text)
        return hits


def _like(column: InstrumentedAttribute[str], text: str) -> ColumnElement[bool]:
    return column.icontains(text, autoescape=True)


def _by_name(session: Session, actor: Actor, text: str) -> Iterator[Hit]:
    """Names that begin with the text stand before those that hold it elsewhere."""
    clients = session.scalars(
        select(Client)
        .where(Client.agency_id == actor.agency_id, _like(Client.name, text))
        .order_by(~Client.name.istartswith(text, autoescape=True), func.lower(Client.name))
        .limit(MOST)
    )
    for client in clients:
        yield Hit("client", client.id, ClientView.of(client), client.name)
    flows = session.execute(
        select(CallFlow.id, CallFlow.mark, CallFlow.name, Client)
        .join(Client, Client.id == CallFlow.client_id)
        .where(
            CallFlow.agency_id == actor.agency_id,
            CallFlow.removed_at.is_(None),
            or_(_like(CallFlow.name, text), CallFlow.mark == text.upper()),
        )
        .order_by(func.lower(CallFlow.name), Client.name)
        .limit(MOST)
    )
    for flow_id, mark, name, client in flows:
        yield Hit("flow", flow_id, ClientView.of(client), f"{mark} {name}")
    sources = session.execute(
        select(LeadSource, Client)
        .join(Client, Client.id == LeadSource.client_id)
        .where(
            LeadSource.agency_id == actor.agency_id,
            or_(_like(LeadSource.name, text), _like(LeadSource.campaign, text)),
        )
        .order_by(func.lower(LeadSource.name), Client.name)
        .limit(MOST)
    )
    for source, client in sources:
        yield Hit("source", source.id, ClientView.of(client), source.name)


def _numbers(session: Session, actor: Actor, digits: str) -> Iterator[Hit]:
    rows = session.execute(
        select(TrackingNumber, Client)
        .join(Client, Client.id == TrackingNumber.client_id)
        .where(
            TrackingNumber.agency_id == actor.agency_id, TrackingNumber.state != "released",
            TrackingNumber.e164.contains(digits),
        )
        .order_by(TrackingNumber.e164)
        .limit(MOST)
    )  # fmt: skip
    for number, client in rows:
        yield Hit("number", number.id, ClientView.of(client), numbering.shown(number.e164, client.country))


def _calls(session: Session, actor: Actor, text: str) -> Iterator[Hit]:
    """The latest calls of a caller whose whole number was typed, in the form of either country."""
    wanted = {read for country in ("US", "GB") if isinstance(read := numbering.parse(text, country), str)}
    if not wanted:
        return
    query = select(Call, Client).join(Client, Client.id == Call.client_id)
    query = query.where(Call.agency_id == actor.agency_id, Call.caller.in_(wanted))
    if not actor.works:
        query = query.where(Call.client_id == actor.client_id)
    for call, client in session.execute(query.order_by(Call.started_at.desc()).limit(MOST)):
        yield Hit(
            "call",
            call.id,
            ClientView.of(client),
            numbering.shown(call.caller, client.country),
            call.started_at,
            call.fate,
        )
