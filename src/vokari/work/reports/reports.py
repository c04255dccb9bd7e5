"""Reports: calls by lead source and fate, read from the rollups that each call's end keeps in step."""

from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

from sqlalchemy import (
    CompoundSelect,
    Date,
    Float,
    Integer,
    cast,
    false,
    func,
    literal,
    select,
    type_coerce,
    union_all,
)
from sqlalchemy.orm import Session

from ...core.calls.fates import FATES, UNCONFIRMED
from ...core.reports.periods import Period, part_of, parts
from ...store.calls import CallDay, DayTotal, SourceMonth
from ..agency.access import Actor, allow
from ..house.house import House
from ..house.views import LeadSourceView
from ..numbers.sources import sources_of

DAY = timedelta(days=1)


@dataclass(slots=True)
class Tally:
    """Counts of calls by fate, the seconds talked, how many of the answered nothing confirmed, and for how many callers the call was
    their first."""

    by_fate: dict[str, int] = field(default_factory=lambda: dict.fromkeys(FATES, 0))
    talk_seconds: float = 0.0
    unconfirmed: int = 0
    new_callers: int = 0

    def add(self, fate: str, count: int, seconds: float, unconfirmed: int, new_callers: int) -> None:
        """Counts calls of a fate."""
        self.by_fate[fate] += count
        self.talk_seconds += seconds
        self.unconfirmed += unconfirmed
        self.new_callers += new_callers

    @property
    def calls(self) -> int:
        return sum(self.by_fate.values())

    @property
    def mean_talk(self) -> float:
        answered = self.by_fate["answered"]
        return self.talk_seconds / answered if answered else 0.0


@dataclass(frozen=True, slots=True)
class SourceLine:
    """A lead source (None: calls credited to none) with its calls."""

    source: LeadSourceView | None
    tally: Tally


@dataclass(frozen=True, slots=True)
class Report:
    """A client's calls of a period: by source, by the parts of the period (`periods.parts`) and fate, and all together."""

    period: Period
    lines: list[SourceLine]
    parts: list[tuple[Period, dict[str, int]]]
    total: Tally


def by_source(house: House, actor: Actor, client_id: int, period: Period) -> Report:
    """Calls by lead source and fate; sources without calls are there with zeros."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        counted = session.execute(_by_source(client_id, period)).all()
        parts = _by_part(session, client_id, period)
        sources = {one.id: one for one in sources_of(session, client_id)}
    tallies: dict[int, Tally] = {source_id: Tally() for source_id in sources}
    total = Tally()
    for source_id, *figures in counted:
        for tally in (tallies.setdefault(source_id, Tally()), total):
            tally.add(*figures)
    lines = [SourceLine(sources.get(source_id), tally) for source_id, tally in tallies.items()]
    lines.sort(key=lambda line: (-line.tally.calls, line.source.name.lower() if line.source else "~"))
    return Report(period, lines, parts, total)


def _by_source(client_id: int, period: Period) -> CompoundSelect[Any]:
    """Counts by source and fate: of the months that lie whole in a period from the rollup of months, of the days before and after
    them from that of days, each read by itself."""
    whole = period.months
    edges = (
        [period] if whole is None else [Period(period.first, whole.first - DAY), Period(whole.last + DAY, period.last)]
    )
    days = [
        select(
            CallDay.source_id, CallDay.fate, cast(func.sum(CallDay.calls), Integer), cast(func.sum(CallDay.talk_seconds), Float),
            func.coalesce(cast(func.sum(CallDay.calls).filter(CallDay.reason == UNCONFIRMED), Integer), 0),
            cast(func.sum(CallDay.new_callers), Integer),
        )
        .where(CallDay.client_id == client_id, CallDay.day.between(edge.first, edge.last))
        .group_by(CallDay.source_id, CallDay.fate)
        for edge in edges
    ]  # fmt: skip
    months = (
        select(
            SourceMonth.source_id, SourceMonth.fate, cast(func.sum(SourceMonth.calls), Integer),
            cast(func.sum(SourceMonth.talk_seconds), Float), cast(func.sum(SourceMonth.unconfirmed), Integer),
            cast(func.sum(SourceMonth.new_callers), Integer),
        )
        .where(
            SourceMonth.client_id == client_id,
            SourceMonth.month.between(whole.first, whole.last) if whole else false(),
        )
        .group_by(SourceMonth.source_id, SourceMonth.fate)
    )  # fmt: skip
    return union_all(*days, months)


def _by_part(session: Session, client_id: int, period: Period) -> list[tuple[Period, dict[str, int]]]:
    """Counts by fate of each part of a period."""
    part = part_of(period)
    day: Any = DayTotal.day
    if part == "week":
        first = literal(period.first, Date)
        day = first + type_coerce(DayTotal.day - first, Integer) // 7 * 7
    elif part != "day":
        day = func.greatest(cast(func.date_trunc(part, DayTotal.day), Date), literal(period.first, Date))
    rows = session.execute(
        select(day, DayTotal.fate, cast(func.sum(DayTotal.calls), Integer))
        .where(DayTotal.client_id == client_id, DayTotal.day.between(period.first, period.last))
        .group_by(day, DayTotal.fate)
    )
    found: dict[date, dict[str, int]] = {}
    for begin, fate, count in rows:
        found.setdefault(begin, {})[fate] = count
    return [(one, found.get(one.first, {})) for one in parts(period)]


def routes(house: House, actor: Actor, client_id: int, period: Period) -> list[tuple[int, int, int, str, int]]:
    """Calls of a period by (lead source, number, flow, fate) with their count, for the route map; 0 stands for none."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        rows = session.execute(
            select(
                CallDay.source_id,
                CallDay.number_id,
                CallDay.flow_id,
                CallDay.fate,
                cast(func.sum(CallDay.calls), Integer),
            )
            .where(CallDay.client_id == client_id, CallDay.day >= period.first, CallDay.day <= period.last)
            .group_by(CallDay.source_id, CallDay.number_id, CallDay.flow_id, CallDay.fate)
        ).all()
        return [(source, number, flow, fate, count) for source, number, flow, fate, count in rows]
