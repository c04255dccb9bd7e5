"""What is done by the clock: making the history's months ahead."""

from datetime import timedelta

from ...store.database import ensure_months
from .house import House


def make_months(house: House) -> None:
    """Makes the partitions of this month and the next three."""
    today = house.now().date()
    with house.begin() as session:
        ensure_months(session.connection(), today, today + timedelta(days=100))
