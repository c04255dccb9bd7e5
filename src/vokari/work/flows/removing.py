"""Flows removed, and brought back: never one that a number uses. Calls that ran on it keep their history."""

from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from ...core.checks.within import outer_flows
from ...core.numbers import numbering
from ...store.flows import CallFlow
from ...store.numbers import NumberOrderLine, TrackingNumber
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import FlowNameView
from .open_drafts import own_flow
from .within import inner_flows

SHOWN_FOR = timedelta(days=30)
"""How long a removed flow is offered to be brought back."""


def remove(house: House, actor: Actor, client_id: int, flow_id: int) -> Problems:
    """Removes a flow that no number uses, and none that is ordered will."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        used = select(TrackingNumber.e164).where(TrackingNumber.flow_id == flow_id, TrackingNumber.state != "released")
        ordered = select(NumberOrderLine.e164).where(
            NumberOrderLine.flow_id == flow_id, NumberOrderLine.state == "waiting"
        )
        number = session.scalar(used.limit(1)) or session.scalar(ordered.limit(1))
        if number is not None:
            shown = numbering.shown(number, client.country)
            return [Problem("", f"{shown} uses {flow.name}: choose another flow for it first.")]
        outer = outer_flows(flow.key, inner_flows(session, house, client_id))
        if outer:
            some = next(iter(outer.values())).name
            return [Problem("", f"{some} continues in {flow.name}: change that flow first.")]
        flow.removed_at = house.now()
        note(session, house, actor, client_id, f"removed the flow {flow.name}")
    return []


def bring_back(house: House, actor: Actor, client_id: int, flow_id: int) -> Problems:
    """Brings a removed flow back as it was."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work", changing=True)
            flow = own_flow(session, client_id, flow_id, lock=True, removed=True)
            flow.removed_at = None
            session.flush()
            note(session, house, actor, client_id, f"brought the flow {flow.name} back")
    except IntegrityError:
        return [Problem("", "Another flow has this name now: rename it first.")]
    return []


def removed(house: House, actor: Actor, client_id: int) -> list[FlowNameView]:
    """The flows of a client that were removed of late, the latest first."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        late = CallFlow.removed_at > house.now() - SHOWN_FOR
        query = select(*FlowNameView.columns(CallFlow)).where(CallFlow.client_id == client_id, late)
        return FlowNameView.all(session.execute(query.order_by(CallFlow.removed_at.desc())))
