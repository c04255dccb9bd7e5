"""The flows of a client as others continue in them: what is live of each, and the ways by which it comes back."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.checks.finding import Inner
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import ComeBack
from ...core.flows.running.flow import Flow
from ...store.flows import CallFlow
from ..house.house import House
from ..house.kept import once
from . import ready


@dataclass(frozen=True)
class OtherFlow:
    """A flow of the client: its id and name, what is live of it (None: nothing), and its draft."""

    id: int
    key: str
    name: str
    mark: str
    live: FlowDocument | None

    @property
    def ways(self) -> tuple[str, ...]:
        """The names of the ways by which what is live comes back, each once."""
        return ways_back(self.live.steps) if self.live else ()


def ways_back(steps: Iterable[object]) -> tuple[str, ...]:
    """The names of the ways by which steps come back, each once."""
    found = {step.named: step.way for step in steps if isinstance(step, ComeBack) and step.named}
    return tuple(found.values())


def other_flows(session: Session, house: House, client_id: int) -> dict[str, OtherFlow]:
    """The flows of a client by key, within a transaction."""

    def read() -> dict[str, OtherFlow]:
        query = (
            select(CallFlow.id, CallFlow.key, CallFlow.name, CallFlow.mark, CallFlow.live_version_id)
            .where(CallFlow.of(client_id))
            .order_by(CallFlow.name)
        )
        return {
            row.key: OtherFlow(
                row.id, row.key, row.name, row.mark,
                ready.version(session, house, row.live_version_id).document if row.live_version_id else None,
            )
            for row in session.execute(query)
        }  # fmt: skip

    return once(session, ("flows", client_id), read)


def inner_flows(session: Session, house: House, client_id: int) -> dict[str, Inner]:
    """The flows of a client as findings look at them."""
    return {key: Inner(one.name, one.live) for key, one in other_flows(session, house, client_id).items()}


def inner_live(document: FlowDocument, flows: Mapping[str, OtherFlow]) -> dict[str, FlowDocument]:
    """What is live of the flows that a flow continues in, and of all that those do, by key."""
    found: dict[str, FlowDocument] = {}
    todo = [document]
    while todo:
        for key in Flow(todo.pop()).continues_in:
            live = flows[key].live if key in flows else None
            if live is not None and key not in found:
                found[key] = live
                todo.append(live)
    return found
