"""The versions of the demo's flows: what is live, what was before it, and what goes live next month."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ..core.flows.model.document import FlowDocument
from ..store.agency import Client, User
from ..store.due import DueChange
from ..store.flows import CallFlow, FlowVersion, PutLive
from ..work.flows.versions import PUT_LIVE, stated
from .jobs import DAYS
from .plan import ClientPlan

SINCE = 20
"""How many days ago the version went live that took the place of an earlier one."""


def next_month(now: datetime, zone: str) -> datetime:
    """The first moment of the next month, in the client's time."""
    local = now.astimezone(ZoneInfo(zone))
    year, month = local.year + local.month // 12, local.month % 12 + 1
    return datetime(year, month, 1, tzinfo=ZoneInfo(zone)).astimezone(UTC)


def first_version(
    session: Session,
    client: Client,
    document: FlowDocument,
    users: list[User],
    now: datetime,
    index: int,
    key: str = "",
) -> tuple[CallFlow, FlowVersion]:
    raw = document.model_dump(mode="json")
    named = {"key": key} if key else {}
    flow = CallFlow(agency_id=client.agency_id, client_id=client.id, revision=0, draft=raw, **named)
    session.add(flow)
    session.flush()
    made = now - timedelta(days=DAYS + 6 - index)
    version = FlowVersion(
        agency_id=client.agency_id,
        flow_id=flow.id,
        number=1,
        document=raw,
        revision=0,
        made_by=users[1].id,
        made_at=made,
    )
    session.add(version)
    session.flush()
    flow.live_version_id, flow.stated = version.id, stated(document)
    session.add(
        PutLive(agency_id=client.agency_id, flow_id=flow.id, version_id=version.id, user_id=users[1].id, at=made)
    )
    return flow, version


def other_versions(
    session: Session, client: Client, plan: ClientPlan, flow: CallFlow, users: list[User], now: datetime
) -> FlowVersion | None:
    """The version before the one that is live, if the plan has one; and one that goes live next month."""
    ids = {"agency_id": client.agency_id, "flow_id": flow.id}
    first = session.get_one(FlowVersion, flow.live_version_id)
    earlier = None
    if plan.earlier is not None:
        document, why = plan.earlier
        earlier, number, at = first, 2, now - timedelta(days=SINCE)
        newer = FlowVersion(
            **ids,
            number=number,
            document=first.document,
            revision=0,
            made_by=users[1].id,
            made_at=at - timedelta(hours=1),
        )
        first.document, first.revision = document.model_dump(mode="json"), -1
        session.add(newer)
        session.flush()
        flow.live_version_id = newer.id
        session.add(PutLive(**ids, version_id=newer.id, user_id=users[1].id, at=at, why=why))
    if plan.planned is not None:
        document, why = plan.planned
        made = now - timedelta(days=2)
        number = 2 if earlier is None else 3
        raw = document.model_dump(mode="json")
        coming = FlowVersion(**ids, number=number, document=raw, revision=0, made_by=users[1].id, made_at=made)
        session.add(coming)
        session.flush()
        flow.draft = raw
        session.add(
            DueChange(
                agency_id=client.agency_id, client_id=client.id, kind=PUT_LIVE, of_id=flow.id, at=next_month(now, plan.zone),
                detail={"version_id": coming.id, "why": why, "numbers": []}, user_id=users[1].id, made_at=made, state="waiting",
            )
        )  # fmt: skip
    session.flush()
    return earlier
