"""Flows as they are walked: a draft with those that it continues in, and how they go to another process."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.running.flow import Flow
from ...store.agency import Client
from ...store.flows import CallFlow
from ..flows.open_drafts import as_spoken
from ..flows.within import inner_live, other_flows
from ..house.house import House
from ..house.problems import Row


@dataclass(frozen=True, slots=True)
class Drafted:
    """A flow's draft as callers would hear it, with the live flows that it continues in."""

    flow: CallFlow
    client: Client
    document: FlowDocument
    inner: dict[str, FlowDocument]


def drafted(session: Session, house: House, flow_id: int, revision: int) -> Drafted | None:
    """A draft as it stands at a revision; None once it is edited or removed."""
    flow = session.get(CallFlow, flow_id)
    if flow is None or flow.removed_at is not None or flow.revision != revision:
        return None
    client = session.get_one(Client, flow.client_id)
    document = as_spoken(session, house, client, FlowDocument.model_validate(flow.draft))
    return Drafted(flow, client, document, inner_live(document, other_flows(session, house, client.id)))


def as_rows(document: FlowDocument, inner: Mapping[str, FlowDocument]) -> tuple[Row, dict[str, Row]]:
    """Documents as they go to another process: without what was worked out of them in this one."""
    return document.model_dump(mode="json"), {key: one.model_dump(mode="json") for key, one in inner.items()}


def from_rows(document: Row, inner: Mapping[str, Row]) -> Flow:
    """The flow that was sent there, ready to run."""
    return Flow(
        FlowDocument.model_validate(document), {key: FlowDocument.model_validate(one) for key, one in inner.items()}
    )
