"""Rows of people, teams and who is on duty, as they are shown."""

from dataclasses import dataclass
from datetime import date, datetime

from ..problems import Row
from .base import View


@dataclass(frozen=True, slots=True)
class PersonView(View):
    """Somebody who can be rung."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    extension: str
    link_version: int
    pin_version: int
    document: Row
    revision: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class TeamView(View):
    """A team."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    document: Row
    revision: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class DutyView(View):
    """A person at work."""

    client_id: int
    person: str
    off: bool
    taken_on: date | None
    taken: int
    idle_since: datetime | None
    rests_until: datetime | None
    missed: int
    wrong_pins: int
