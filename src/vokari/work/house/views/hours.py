"""Rows of hours, their exceptions and overrides, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ..problems import Row
from .base import View


@dataclass(frozen=True, slots=True)
class HoursSetView(View):
    """A set of hours."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    purpose: str
    is_main: bool
    document: Row
    lists: list[int]
    revision: int
    feed_version: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class ExceptionListView(View):
    """Exceptions kept at the agency, which many sets of hours share."""

    id: int
    agency_id: int
    name: str
    exceptions: list[dict[str, Any]]
    revision: int


@dataclass(frozen=True, slots=True)
class HoursSwitchView(View):
    """A temporary switch of a client."""

    id: int
    agency_id: int
    client_id: int
    hours_id: int | None
    kind: str
    period: str
    phone: str
    since: datetime
    until: datetime
    ended_at: datetime | None
    user_id: int
