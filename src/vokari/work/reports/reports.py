"""Reports: calls by lead source and fate, read from the rollups that each call's end keeps in step."""

from dataclasses import dataclass, field
from datetime import date, timedelta

from sqlalchemy import Float, Integer, cast, func, select

from ...core.calls.fates import FATES, UNCONFIRMED
from ...core.reports.periods import Period
from ...store.calls import CallDay
from ...store.numbers import LeadSource
from ..agency.access import Actor, allow, allow_agency
from ..house.house import House
from ..house.views import LeadSourceView


@dataclass(slots=True)
class Tally:
    """Counts of calls by fate, the seconds talked, and how many of the answered nothing confirmed."""

    by_fate: dict[str, int] = field(default_factory=lambda: dict.fromkeys(FATES, 0))
    talk_seconds: float = 0.0
    unconfirmed: int = 0

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
    """A client's calls of a period: by source, by day, and all together."""

    period: Period
    lines: list[SourceLine]
    days: list[tuple[date, Tally]]
    total: Tally


def by_source(house: House, actor: Actor, client_id: int, period: Period) -> Report:
    """Calls by lead source and fate; sources without calls are there with zeros."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        where = (CallDay.client_id == client_id, CallDay.day >= period.first, CallDay.day <= period.last)
        calls, talk = cast(func.sum(CallDay.calls), Integer), cast(func.sum(CallDay.talk_seconds), Float)
        unsure = func.coalesce(cast(func.sum(CallDay.calls).filter(CallDay.reason == UNCONFIRMED), Integer), 0)
        by_source = session.execute(
            select(CallDay.source_id, CallDay.fate, calls, talk, unsure)
            .where(*where)
            .group_by(CallDay.source_id, CallDay.fate)
        ).all()
        by_day = session.execute(
            select(CallDay.day, CallDay.fate, calls, talk).where(*where).group_by(CallDay.day, CallDay.fate)
        ).all()
        sources = session.scalars(select(LeadSource).where(LeadSource.client_id == client_id)).all()
    tallies: dict[int, Tally] = {source.id: Tally() for source in sources}
    total = Tally()
    for source_id, fate, count, seconds, unconfirmed in by_source:
        for tally in (tallies.setdefault(source_id, Tally()), total):
            _add(tally, fate, count, seconds)
            tally.unconfirmed += unconfirmed
    days = {period.first + timedelta(days=n): Tally() for n in range(period.days)}
    for day, fate, count, seconds in by_day:
        _add(days[day], fate, count, seconds)
    names = {source.id: source for source in sources}
    lines = [SourceLine(LeadSourceView.maybe(names.get(source_id)), tally) for source_id, tally in tallies.items()]
    lines.sort(key=lambda line: (-line.tally.calls, line.source.name.lower() if line.source else "~"))
    return Report(period, lines, sorted(days.items()), total)


def by_client(house: House, actor: Actor, period: Period) -> dict[int, list[tuple[date, Tally]]]:
    """For each client of the agency, its calls by day; days without calls are left out."""
    with house.begin() as session:
        allow_agency(actor)
        calls, talk = cast(func.sum(CallDay.calls), Integer), cast(func.sum(CallDay.talk_seconds), Float)
        rows = session.execute(
            select(CallDay.client_id, CallDay.day, CallDay.fate, calls, talk)
            .where(CallDay.agency_id == actor.agency_id, CallDay.day >= period.first, CallDay.day <= period.last)
            .group_by(CallDay.client_id, CallDay.day, CallDay.fate)
        ).all()
    found: dict[int, dict[date, Tally]] = {}
    for client_id, day, fate, count, seconds in rows:
        _add(found.setdefault(client_id, {}).setdefault(day, Tally()), fate, count, seconds)
    return {client_id: sorted(days.items()) for client_id, days in found.items()}


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


def _add(tally: Tally, fate: str, count: int, seconds: float) -> None:
    tally.by_fate[fate] += count
    tally.talk_seconds += seconds
