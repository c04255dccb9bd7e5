"""What it takes to make a client's calls in a process of its own."""

from dataclasses import dataclass, field
from datetime import datetime

from ..core.flows.model.document import FlowDocument
from ..core.flows.questions.facts import Touch
from ..core.hours.document import Exception_, Hours
from ..core.people.directory import Person, Team
from ..core.places.document import Places
from ..settings import Settings

DAYS = 90
"""How many days of calls are made."""


@dataclass(frozen=True, slots=True)
class LineJob:
    """A number whose calls are to be made: its flow's version, the sources it has, and from which day to which, in days
    before today; `late` while it rests; `pins` are the versions of inner flows."""

    e164: str
    number_id: int
    flow_id: int | None
    version_id: int | None
    document: FlowDocument | None
    holdings: tuple[tuple[datetime, int], ...]
    calls_a_day: float
    first_ago: int = DAYS - 1
    last_ago: int = 0
    late: bool = False
    pins: dict[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class ClientJob:
    """All that a process must know to make one client's calls; `touches` are those of its lead sources, by id and without a number."""

    settings: Settings
    seed: int
    agency_id: int
    client_id: int
    carrier_id: int
    user_id: int
    country: str
    zone: str
    lines: tuple[LineJob, ...]
    sources: dict[str, int]
    habits: dict[str, object]
    tables: dict[str, tuple[Hours, tuple[Exception_, ...]]]
    people: dict[str, Person]
    teams: dict[str, Team]
    lengths: dict[str, float]
    sounds: tuple[tuple[str, float], ...]
    until: datetime
    inner: dict[str, FlowDocument] = field(default_factory=dict)
    places: Places = field(default_factory=Places)
    touches: dict[int, Touch] = field(default_factory=dict)
