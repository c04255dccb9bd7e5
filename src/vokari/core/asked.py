"""Ids, whole numbers, days and moments as people and programs send them: read in one place, so that nothing that only looks
like one gets further (digits of other scripts, numbers beyond the database's, years in which no client works)."""

from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import Annotated

from pydantic import Field

LARGEST = 2**63 - 1
"""The largest id that the database keeps (PostgreSQL's bigint)."""
Id = Annotated[int, Field(ge=0, le=LARGEST)]
"""An id as addresses and messages name it."""
FIRST_YEAR, LAST_YEAR = 2000, 2099
"""The years that days and moments may lie in."""
LONGEST = 40
"""Letters of the longest moment that is read (RFC 3339 with an offset, and some to spare)."""


def whole(text: object, most: int = LARGEST) -> int | None:
    """A whole number from 0 on in ASCII digits; None for anything else, and for more than `most`."""
    said = text.strip() if isinstance(text, str) else ""
    if not (said.isascii() and said.isdigit()) or len(said) > 19:
        return None
    return int(said) if int(said) <= most else None


def wholes(texts: Iterable[object]) -> list[int]:
    """The whole numbers among what was sent, in order."""
    return [number for text in texts if (number := whole(text)) is not None]


def day(text: str) -> date | None:
    """A day in ISO 8601, in the years that days may lie in; None for anything else."""
    try:
        found = date.fromisoformat(text.strip()[:LONGEST])
    except ValueError:
        return None
    return found if FIRST_YEAR <= found.year <= LAST_YEAR else None


def moment(text: str) -> datetime | None:
    """A moment in ISO 8601, with an offset or without, in the years that moments may lie in; None for anything else."""
    if len(text) > LONGEST:
        return None
    try:
        found = datetime.fromisoformat(text.strip())
    except ValueError:
        return None
    return found if within(found) else None


def within(found: datetime) -> bool:
    """Whether a moment lies in the years that moments may lie in, with a day to spare for every time zone."""
    if not FIRST_YEAR <= found.year <= LAST_YEAR:
        return False
    day_off = timedelta(days=1)
    return (found - day_off).year >= FIRST_YEAR and (found + day_off).year <= LAST_YEAR
