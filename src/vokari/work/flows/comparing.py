"""Versions of a flow compared: what was edited, how callers passed through them, and what became of calls before and after each."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.calls.worse import Lost, is_worse
from ...core.flows.conditions.tests import named
from ...core.flows.model.document import FlowDocument
from ...core.flows.shown.differences import Difference, differences
from ...core.people import uses
from ...store.flows import FlowPassage
from ..agency.access import Actor, allow
from ..agency.mailboxes import boxes_of
from ..house import sweeps
from ..house.house import House
from ..house.views import CallFlowView, ClientView, FlowVersionView
from ..people.ringers import callee_names
from .naming import names_of
from .open_drafts import own_flow
from .versions import own_version

DRAFT = 0
"""Stands for the draft where versions have their ids."""
WATCHED = timedelta(days=14)
"""How long a version that went live is compared with the one before, and how much of each is looked at."""

_FATES = text(
    "SELECT version_id, fate, count(*) AS calls FROM calls WHERE client_id = :client AND flow_id = :flow AND NOT test"
    " AND started_at > :since AND version_id IS NOT NULL GROUP BY version_id, fate"
)
_RECENT = text(
    "SELECT f.id, f.agency_id, f.client_id, f.worse, p.version_id AS now, p.at, b.version_id AS before, b.at AS before_at FROM flows f"
    " JOIN LATERAL (SELECT version_id, at FROM put_lives WHERE flow_id = f.id ORDER BY id DESC LIMIT 1) p ON true"
    " JOIN LATERAL (SELECT version_id, at FROM put_lives WHERE flow_id = f.id AND version_id <> p.version_id ORDER BY id DESC LIMIT 1) b"
    " ON true WHERE f.removed_at IS NULL AND (p.at > :since OR f.worse <> '') ORDER BY f.id"
)
_SHARE = text(
    "SELECT count(*) AS calls, count(*) FILTER (WHERE fate = 'lost') AS lost FROM calls WHERE client_id = :client AND version_id = :version"
    " AND NOT test AND started_at > :since AND started_at <= :until"
)
_MARK = text("UPDATE flows SET worse = :words WHERE id = :flow AND live_version_id = :version AND worse <> :words")


@dataclass(frozen=True, slots=True)
class Compared:
    """Two documents of a flow as they are shown, what is called what, and their differences."""

    client: ClientView
    flow: CallFlowView
    older: FlowVersionView | None
    newer: FlowVersionView | None
    before: FlowDocument
    after: FlowDocument
    differences: list[Difference]


def compare(house: House, actor: Actor, client_id: int, flow_id: int, older: int, newer: int) -> Compared:
    """Two versions of a flow, or a version and the draft (`DRAFT`)."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        versions = [own_version(session, flow, one) if one != DRAFT else None for one in (older, newer)]
        raw = [FlowDocument.model_validate(one.document if one else flow.draft) for one in versions]
        names, callees = names_of(session, house, client), callee_names(session, client_id)
        before, after = (uses.named(named(one, names), callees) for one in raw)
        boxes = {one.key: one.name for one in boxes_of(session, client_id)}
        views = [FlowVersionView.maybe(one) for one in versions]
        return Compared(
            ClientView.of(client), CallFlowView.of(flow), views[0], views[1], before, after, differences(before, after, boxes)
        )  # fmt: skip


def fates(session: Session, client_id: int, flow_id: int, since: datetime) -> dict[int, dict[str, int]]:
    """How many calls each version of a flow had since a moment, by fate, test calls left out."""
    found: dict[int, dict[str, int]] = {}
    for row in session.execute(_FATES, {"client": client_id, "flow": flow_id, "since": since}):
        found.setdefault(row.version_id, {})[row.fate] = row.calls
    return found


def fates_of(house: House, actor: Actor, client_id: int, flow_id: int) -> dict[int, dict[str, int]]:
    """What became of the calls of each version of a flow, of the last three months."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        own_flow(session, client_id, flow_id)
        return fates(session, client_id, flow_id, house.now() - timedelta(days=92))


Traffic = Mapping[tuple[str, str], tuple[int, int]]
"""By step and exit (empty: the step as a whole), how many calls passed there, and how many callers gave up."""


def traffic(house: House, actor: Actor, client_id: int, flow_id: int, version_id: int) -> Traffic:
    """How callers passed through a version."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        version = own_version(session, own_flow(session, client_id, flow_id), version_id)
        rows = session.execute(select(FlowPassage).where(FlowPassage.version_id == version.id)).scalars()
        return {(row.step, row.exit): (row.calls, row.gave_up) for row in rows}


def watch(house: House) -> int:
    """Marks flows whose live version loses more callers than the one before it did, and takes marks away; gives how many have one."""
    now = house.now()
    with house.begin() as session:
        recent = session.execute(_RECENT, {"since": now - WATCHED}).mappings().all()

    def one(index: int) -> bool:
        flow = recent[index]
        with house.begin() as session:
            values = {"client": flow["client_id"]}
            after = _share(session, {**values, "version": flow["now"], "since": flow["at"], "until": now})
            since = max(flow["before_at"], flow["at"] - WATCHED)
            before = _share(session, {**values, "version": flow["before"], "since": since, "until": flow["at"]})
            worse = is_worse(before, after)
            words = (
                f"{after.share:.0%} of {after.calls} calls lost, before {before.share:.0%} of {before.calls}"
                if worse
                else ""
            )
            session.execute(_MARK, {"flow": flow["id"], "version": flow["now"], "words": words})
            return worse

    return sweeps.each("versions could not be compared", range(len(recent)), one)


def _share(session: Session, values: Mapping[str, object]) -> Lost:
    row = session.execute(_SHARE, dict(values)).one()
    return Lost(row.calls, row.lost)
