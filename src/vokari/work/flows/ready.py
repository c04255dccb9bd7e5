"""Live versions made ready to run: for calls, and for pages that ask what is in them."""

from collections.abc import Collection, Mapping

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
_BY_KEY = text(
    "SELECT key, live_version_id FROM flows WHERE client_id = :client AND key = ANY(:keys) AND live_version_id IS NOT NULL"
    " AND removed_at IS NULL"
)

Pins = Mapping[str, int]
"""The versions of inner flows that a call runs on, by the key of the flow."""
DEEPEST = 20
"""How many flows deep flows stand in one another at most."""


def version(session: Session, house: House, version_id: int, pins: Pins | None = None) -> Flow:
    """A version, with the inner flows that were pinned for it; they never change, so each process keeps those it has met."""
    if not pins:
        return _alone(session, house, version_id)
    key = (version_id, *sorted(pins.items()))

    def linked() -> Flow:
        return engine.prepare(_alone(session, house, version_id).document, documents(session, house, pins))

    return house.linked.get(session, key, linked)


def pinned(session: Session, house: House, client_id: int, keys: Collection[str]) -> dict[str, int]:
    """The live versions, now, of some flows by key and of all that those continue in; one without a live version is left out."""
    found: dict[str, int] = {}
    wanted = set(keys)
    for _ in range(DEEPEST):
        if not wanted:
            break
        rows = session.execute(_BY_KEY, {"client": client_id, "keys": sorted(wanted)}).all()
        found |= {row.key: row.live_version_id for row in rows}
        wanted = {key for row in rows for key in _alone(session, house, row.live_version_id).continues_in} - set(found)
    return found


def pins_of(session: Session, house: House, client_id: int, version_id: int) -> dict[str, int]:
    """What is pinned for a call that runs on a version from now on."""
    return pinned(session, house, client_id, _alone(session, house, version_id).continues_in)


def documents(session: Session, house: House, pins: Pins) -> dict[str, FlowDocument]:
    """The inner flows that were pinned, by key."""
    return {key: _alone(session, house, one).document for key, one in pins.items()}


def live(session: Session, house: House, client_id: int) -> list[Flow]:
    """The versions of a client that are live, each by itself."""
    return [version(session, house, one) for one in session.scalars(_LIVE, {"client": client_id})]


def _alone(session: Session, house: House, version_id: int) -> Flow:
    values = {"id": version_id}
    return house.prepared.get(
        session, version_id, lambda: engine.prepare(FlowDocument.model_validate(session.scalar(_VERSION, values)))
    )
