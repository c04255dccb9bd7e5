"""What is done by the clock: closing calls whose carrier went away, and making the history's months ahead."""

from datetime import timedelta

from sqlalchemy import select

from ..core.flows import state
from ..store.calls import LiveCall
from ..store.database import ensure_months
from . import closing
from .house import House

ABANDONED_AFTER = timedelta(hours=4)


def close_abandoned(house: House) -> int:
    """Closes calls that had no event for hours, as lost by carrier failure; gives their count."""
    with house.begin() as session:
        query = (
            select(LiveCall).where(LiveCall.last_at < house.now() - ABANDONED_AFTER).with_for_update(skip_locked=True)
        )
        calls = session.scalars(query).all()
        for live in calls:
            fields = {column.key: getattr(live, column.key) for column in LiveCall.__table__.columns}
            closing.close(session, fields, live.last_at, state.load(live.state), None)
        return len(calls)


def make_months(house: House) -> None:
    """Makes the partitions of this month and the next three."""
    today = house.now().date()
    with house.begin() as session:
        ensure_months(session.connection(), today, today + timedelta(days=100))
