"""The ledger of an agency's clients: their last two weeks, and today's calls of all of them, from the rollup of days."""

from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

from sqlalchemy import ColumnElement, Date, Integer, cast, func, literal, select
from sqlalchemy.orm import Session
from sqlalchemy.types import DateTime

from ...core.calls.fates import FATES
from ...store.agency import Agency, Client
from ...store.calls import DayTotal, LiveCall
from ..house.house import House
from .access import Actor, allow_agency

DAYS, PAGE = 14, 25
"""How many days a client's strip shows, and how many clients a page."""
SORTS = ("name", "calls", "lost")


@dataclass(frozen=True, slots=True)
class Asked:
    """How the ledger is asked for: part of a name, the order, and from which client on."""

    text: str = ""
    sort: str = "name"
    start: int = 0


@dataclass(slots=True)
class LedgerLine:
    """A client with its last days: calls by day and fate, on days of its own time zone up to `today`."""

    id: int
    name: str
    city: str
    time_zone: str
    today: date
    days: dict[date, dict[str, int]] = field(default_factory=dict)

    @property
    def calls(self) -> int:
        """Calls of all the days."""
        return sum(sum(counts.values()) for counts in self.days.values())

    @property
    def lost(self) -> int:
        """Those of them that were lost."""
        return sum(counts.get("lost", 0) for counts in self.days.values())


@dataclass(frozen=True, slots=True)
class Ledger:
    """A page of the ledger, how many clients fit, the agency's name, today's calls of all clients by fate, and how many are in
    progress."""

    asked: Asked
    lines: list[LedgerLine]
    count: int
    agency: str
    today: dict[str, int]
    now: int


def view(house: House, actor: Actor, asked: Asked) -> Ledger:
    """A page of the ledger, for whoever works for the agency."""
    allow_agency(actor)
    with house.begin() as session:
        today = cast(func.timezone(Client.time_zone, literal(house.now(), DateTime(timezone=True))), Date)
        fits: tuple[ColumnElement[bool], ...] = (Client.agency_id == actor.agency_id,)
        if asked.text:
            fits += (Client.name.icontains(asked.text, autoescape=True),)
        return Ledger(
            asked=asked,
            lines=_lines(session, asked, fits, today),
            count=session.scalar(select(func.count()).select_from(Client).where(*fits)) or 0,
            agency=session.scalar(select(Agency.name).where(Agency.id == actor.agency_id)) or "",
            today=_today(session, house, actor, today),
            now=session.scalar(select(func.count()).where(LiveCall.agency_id == actor.agency_id, ~LiveCall.gone)) or 0,
        )


def _lines(session: Session, asked: Asked, fits: tuple[ColumnElement[bool], ...], today: Any) -> list[LedgerLine]:
    """The clients of the page, then the days of these."""
    query = select(Client.id, Client.name, Client.city, Client.time_zone, today).where(*fits)
    within = (DayTotal.client_id == Client.id, DayTotal.day > today - DAYS, DayTotal.day <= today)
    if asked.sort in ("calls", "lost"):
        counted = select(func.coalesce(func.sum(DayTotal.calls), 0)).where(*within)
        if asked.sort == "lost":
            counted = counted.where(DayTotal.fate == "lost")
        query = query.order_by(counted.correlate(Client).scalar_subquery().desc())
    rows = session.execute(query.order_by(func.lower(Client.name)).offset(asked.start).limit(PAGE))
    lines = {row[0]: LedgerLine(*row) for row in rows}
    counts = session.execute(
        select(DayTotal.client_id, DayTotal.day, DayTotal.fate, DayTotal.calls)
        .join(Client, Client.id == DayTotal.client_id)
        .where(Client.id.in_(lines), *within)
    )
    for client_id, day, fate, calls in counts:
        lines[client_id].days.setdefault(day, {})[fate] = calls
    return list(lines.values())


def _today(session: Session, house: House, actor: Actor, today: Any) -> dict[str, int]:
    """Calls by fate of the day that each client has now."""
    near = house.now().date()
    rows = session.execute(
        select(DayTotal.fate, cast(func.sum(DayTotal.calls), Integer))
        .join(Client, Client.id == DayTotal.client_id)
        .where(
            DayTotal.agency_id == actor.agency_id,
            DayTotal.day.between(near - timedelta(days=1), near + timedelta(days=1)),
            DayTotal.day == today,
        )
        .group_by(DayTotal.fate)
    )
    return {**dict.fromkeys(FATES, 0), **dict(rows.all())}
