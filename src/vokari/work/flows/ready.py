"""Live versions made ready to run: for calls, and for pages that ask what is in them."""

from collections.abc import Collection, Mapping
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.running import engine
from ...core.flows.running.flow import Flow
from ..house.house import House
from ..prompts.playing import DRAFT, Chosen, Played, as_heard, chosen

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


def version(
    session: Session, house: House, version_id: int, pins: Pins | None = None, takes: Chosen | None = None
) -> Flow:
    """A version, with the inner flows and the takes that were pinned for it; they never change, so each process keeps those it has met."""
    if not pins and not takes:
        return _alone(session, house, version_id)
    key = (version_id, *sorted((pins or {}).items()), *_flat(takes or {}))

    def linked() -> Flow:
        heard = as_heard(session, house, takes or {})
        return engine.prepare(_alone(session, house, version_id).document, documents(session, house, pins or {}), heard)

    return house.linked.get(session, key, linked)


def _flat(takes: Chosen) -> list[tuple[str, str, str, int]]:
    """Takes in the order of their names."""
    return sorted(
        (flow, key, language, take)
        for flow, prompts in takes.items()
        for key, languages in prompts.items()
        for language, take in languages.items()
    )


def takes_of(session: Session, house: House, agency_id: int, versions: Pins, at: datetime, zone: ZoneInfo) -> Chosen:
    """The takes of the prompts that a call plays which is admitted at a moment, on versions by the key of the inner flow (empty: the flow
    itself)."""
    flows = [Played(key, one, _alone(session, house, one).prompts) for key, one in versions.items()]
    return chosen(session, agency_id, flows, at, at.astimezone(zone).date())


def takes_of_draft(
    session: Session, house: House, agency_id: int, draft: Flow, pins: Pins, at: datetime, zone: ZoneInfo
) -> Chosen:
    """The takes that a call on a draft plays: its newest, and of the inner flows those that a live call would."""
    newest = chosen(session, agency_id, [Played("", DRAFT, draft.prompts)], at, at.astimezone(zone).date())
    return {**takes_of(session, house, agency_id, pins, at, zone), **newest}


def draft(session: Session, house: House, document: FlowDocument, pins: Pins, takes: Chosen) -> Flow:
    """A document that is no version, with the inner flows and the takes that were pinned for a call."""
    return engine.prepare(document, documents(session, house, pins), as_heard(session, house, takes))


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
