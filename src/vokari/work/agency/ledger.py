"""The ledger of an agency's clients: their last two weeks, and today's calls of all of them, from the rollup of days."""

from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from sqlalchemy import Date, bindparam, cast, func, literal, select, text
from sqlalchemy.orm import Session
from sqlalchemy.types import DateTime

from ...core.calls.fates import FATES
from ...store.agency import Client
from ...store.calls import DayTotal
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


_HEAD = text(
    "SELECT (SELECT name FROM agencies WHERE id = :agency),"
    " (SELECT count(*) FROM live_calls WHERE agency_id = :agency AND NOT gone)"
)
_DAYS = text(
    "SELECT c.id, json_agg(json_build_array((:now AT TIME ZONE c.time_zone)::date - t.day, t.fate, t.calls))"
    " FROM clients c JOIN day_totals t ON t.client_id = c.id AND t.day BETWEEN :since AND :until AND t.day <= (:now AT TIME ZONE c.time_zone)::date"
    f" AND t.day > (:now AT TIME ZONE c.time_zone)::date - {DAYS} WHERE c.id = ANY(:clients) GROUP BY c.id"
).bindparams(bindparam("now", type_=DateTime(timezone=True)))
"""For each client how many days ago it had how many calls of a fate."""
_TODAY = text(
    "SELECT t.fate, sum(t.calls)::int FROM day_totals t JOIN clients c ON c.id = t.client_id"
    " WHERE t.agency_id = :agency AND t.day BETWEEN :since AND :until AND t.day = (:now AT TIME ZONE c.time_zone)::date"
    " GROUP BY t.fate"
).bindparams(bindparam("now", type_=DateTime(timezone=True)))
"""Calls by fate of the day that each client has now."""


def view(house: House, actor: Actor, asked: Asked) -> Ledger:
    """A page of the ledger, for whoever works for the agency."""
    allow_agency(actor)
    with house.begin() as session:
        now = house.now()
        lines, count = _lines(session, actor, asked, now)
        near = {"since": now.date() - timedelta(days=1), "until": now.date() + timedelta(days=1)}
        counted = session.execute(_TODAY, {"agency": actor.agency_id, "now": now, **near})
        name, calls = session.execute(_HEAD, {"agency": actor.agency_id}).one()
        return Ledger(
            asked=asked, lines=lines, count=count, agency=name, now=calls,
            today={**dict.fromkeys(FATES, 0), **dict(counted.all())},
        )  # fmt: skip


def _lines(session: Session, actor: Actor, asked: Asked, now: datetime) -> tuple[list[LedgerLine], int]:
    """The clients of the page with their days, and how many fit in all."""
    today = cast(func.timezone(Client.time_zone, literal(now, DateTime(timezone=True))), Date)
    fits = [Client.agency_id == actor.agency_id]
    if asked.text:
        fits.append(Client.name.icontains(asked.text, autoescape=True))
    query = select(Client.id, Client.name, Client.city, Client.time_zone, today, func.count().over()).where(*fits)
    if asked.sort in ("calls", "lost"):
        counted = select(func.coalesce(func.sum(DayTotal.calls), 0)).where(
            DayTotal.client_id == Client.id, DayTotal.day > today - DAYS, DayTotal.day <= today
        )
        if asked.sort == "lost":
            counted = counted.where(DayTotal.fate == "lost")
        query = query.order_by(counted.correlate(Client).scalar_subquery().desc())
    rows = session.execute(query.order_by(func.lower(Client.name)).offset(asked.start).limit(PAGE)).all()
    lines = {row[0]: LedgerLine(*row[:-1]) for row in rows}
    near = {"since": now.date() - timedelta(days=DAYS), "until": now.date() + timedelta(days=1)}
    for client_id, days in session.execute(_DAYS, {"clients": list(lines), "now": now, **near}):
        line = lines[client_id]
        for ago, fate, calls in days:
            line.days.setdefault(line.today - timedelta(days=ago), {})[fate] = calls
    if rows or not asked.start:
        return list(lines.values()), rows[0][-1] if rows else 0
    return [], session.scalar(select(func.count()).select_from(Client).where(*fits)) or 0
