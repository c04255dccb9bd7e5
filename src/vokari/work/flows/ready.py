"""Live versions made ready to run: for calls, and for pages that ask what is in them."""

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.running import engine
from ...core.flows.running.flow import Flow
from ..house.house import House

_VERSION = text("SELECT document FROM flow_versions WHERE id = :id")
_LIVE = text(
    "SELECT live_version_id FROM flows WHERE client_id = :client AND live_version_id IS NOT NULL AND removed_at IS NULL"
)


def version(session: Session, house: House, version_id: int) -> Flow:
    """A version; they never change, so each process keeps those it has met."""
    values = {"id": version_id}
    return house.prepared.get(
        session, version_id, lambda: engine.prepare(FlowDocument.model_validate(session.scalar(_VERSION, values)))
    )


def live(session: Session, house: House, client_id: int) -> list[Flow]:
    """The versions of a client that are live."""
    return [version(session, house, one) for one in session.scalars(_LIVE, {"client": client_id})]
