"""Calls of the past, written into the history as the end of each would have."""

import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import insert

from tests.world import World
from vokari.store.calls import Call
from vokari.store.database import ensure_months
from vokari.work.calls import rollups
from vokari.work.house.problems import Row


def row(world: World, at: datetime, number_id: int, source_id: int | None = None, **more: object) -> Row:
    """A call; answered, unless something else is said."""
    milliseconds = int(at.timestamp() * 1000)
    return {
        "id": uuid.UUID(int=milliseconds << 80 | 0x7 << 76 | 0b10 << 62 | uuid.uuid4().int >> 66), "started_at": at,
        "agency_id": world.agency_id, "client_id": world.client.id, "number_id": number_id, "caller": "+14105550185",
        "flow_id": None, "version_id": None, "source_id": source_id, "source_by": "assignment" if source_id else "none",
        "fate": "answered", "reason": "", "seconds": 60.0, "talk_seconds": 40.0, "answered_by": "", "labels": [], "test": False,
        "fail_safe": "", **more,
    }  # fmt: skip


def write(world: World, calls: Iterable[Row]) -> None:
    """Writes calls of the client into the history and its rollups."""
    calls, zone = list(calls), ZoneInfo(world.client.time_zone)
    days = [one["started_at"].date() for one in calls]
    with world.house.begin() as session:
        ensure_months(session.connection(), min(days) - timedelta(days=1), max(days))
        session.execute(insert(Call), calls)
        for one in calls:
            rollups.add(session, one, zone)
