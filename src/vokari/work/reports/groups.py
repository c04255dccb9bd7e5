"""The report by other things than the lead source, set against an earlier period, with what was spent on campaigns."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from sqlalchemy import Float, Integer, Select, cast, func, select
from sqlalchemy.orm import Session

from ...core.calls.fates import SERVICE, UNCONFIRMED
from ...core.flows.model.values import NumberDestination
from ...core.hours.document import DAY_NAMES
from ...core.numbers import numbering
from ...core.reports import money
from ...core.reports.money import Costs
from ...core.reports.periods import Period
from ...store.calls import CallDay, CallPart
from ...store.numbers import TrackingNumber
from ...store.reports import Spend
from ..agency.access import Actor, allow
from ..flows import ready
from ..house.house import House
from ..house.views import ClientView, LeadSourceView
from ..numbers.numbers import flow_names
from ..numbers.sources import sources_of
from ..people.ringers import people_of
from . import reports
from .reports import Report, Tally

GROUPS = {
    "source": "lead source", "medium": "medium", "campaign": "campaign", "number": "number", "key": "key or extension",
    "flow": "flow", "person": "person", "weekday": "weekday", "hour": "hour",
}  # fmt: skip
"""What a report can be grouped by, as it reads."""
NONE = {
    "source": "No lead source", "medium": "no medium", "campaign": "no campaign", "key": "no key or extension", "flow": "no flow",
    "person": "nobody answered", "number": "a number that is gone",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a report: what it is of, in words, with a second word or two; `wanted` are the fields of the log of calls that
    show its calls; how it was `before`, and what was spent on it (None: not told of such a thing)."""

    name: str
    under: str
    wanted: Mapping[str, str]
    tally: Tally
    before: Tally | None = None
    costs: Costs | None = None
    source: LeadSourceView | None = None


@dataclass(frozen=True, slots=True)
class Grouped:
    """A report by one thing: the report by lead source that it comes with, its lines, all of the earlier period together, and what
    was spent in all; `by_service`: how many of the answered only an answering service took."""

    by: str
    whole: Report
    lines: list[Line]
    compared: Period | None
    before: Tally | None
    costs: Costs | None
    currency: str
    by_service: int


def grouped(house: House, actor: Actor, client_id: int, period: Period, by: str, against: str = "") -> Grouped:
    """A client's calls of a period by one thing of GROUPS, against an earlier period if one is asked for."""
    with house.together():
        whole = reports.by_source(house, actor, client_id, period)
        earlier = period.before(against)
        was = reports.by_source(house, actor, client_id, earlier) if earlier else None
        with house.begin() as session:
            client = allow(session, actor, client_id, "read_results")
            names = _Names(session, house, ClientView.of(client))
            found = _tallies(session, client_id, period, by, whole)
            before = _tallies(session, client_id, earlier, by, was) if earlier and was else {}
            spent = _spent(session, client_id, period)
            by_service = _by_service(session, client_id, period)
            lines = [
                Line(
                    *names.of(by, key), names.wanted(by, key), tally, (before.get(key, Tally()) if earlier else None),
                    _costs(spent, key, tally, period) if by == "campaign" else None, names.source(key) if by == "source" else None,
                )
                for key, tally in ((key, found.get(key, Tally())) for key in {**found, **before})
            ]  # fmt: skip
    return Grouped(
        by, whole, sorted(lines, key=_in_order(by)), earlier, was.total if was else None, _costs(spent, None, whole.total, period),
        money.currency_of(client.country), by_service,
    )  # fmt: skip


def names(house: House, actor: Actor, client_id: int) -> Callable[[str, str], str]:
    """Says what the fields of the log of calls narrow it to, in words."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        found = _Names(session, house, ClientView.of(client))

    def said(by: str, typed: str) -> str:
        key = "" if typed in ("none", "nobody") else typed
        return f"{GROUPS[by]}: {found.of(by, key.lower())[0]}"

    return said


def _in_order(by: str) -> Any:
    """Hours and weekdays in their own order, all else with the most calls first."""
    if by in ("hour", "weekday"):
        return lambda line: int(line.wanted[by])
    return lambda line: (-line.tally.calls, line.name.lower())


def _tallies(session: Session, client_id: int, period: Period, by: str, whole: Report) -> dict[str, Tally]:
    found: dict[str, Tally] = {}
    if by in ("source", "medium", "campaign"):
        for line in whole.lines:
            source = line.source
            if by == "source":
                key = str(source.id) if source else ""
            else:
                key = getattr(source, by).strip().lower() if source else ""
            if line.tally.calls or by == "source":
                _join(found.setdefault(key, Tally()), line.tally)
        return found
    if by in ("hour", "weekday"):
        found = {str(one): Tally() for one in (range(24) if by == "hour" else range(7))}
    for key, *figures in session.execute(_query(client_id, period, by)):
        found.setdefault(str(key or ""), Tally()).add(*figures)
    return found


def _join(one: Tally, other: Tally) -> None:
    for fate, count in other.by_fate.items():
        one.by_fate[fate] += count
    one.talk_seconds += other.talk_seconds
    one.unconfirmed += other.unconfirmed
    one.new_callers += other.new_callers


def _query(client_id: int, period: Period, by: str) -> Select[Any]:
    if by in ("hour", "key", "person"):
        figures = (CallPart.calls, CallPart.talk_seconds, CallPart.unconfirmed, CallPart.new_callers)
        return (
            select(
                CallPart.value, CallPart.fate, cast(func.sum(figures[0]), Integer), cast(func.sum(figures[1]), Float),
                cast(func.sum(figures[2]), Integer), cast(func.sum(figures[3]), Integer),
            )
            .where(
                CallPart.client_id == client_id, CallPart.kind == by, CallPart.day.between(period.first, period.last)
            )
            .group_by(CallPart.value, CallPart.fate)
        )  # fmt: skip
    weekday = cast(func.extract("isodow", CallDay.day), Integer) - 1
    key: Any = {"number": CallDay.number_id, "flow": func.nullif(CallDay.flow_id, 0), "weekday": weekday}[by]
    if by == "weekday":
        key = func.concat(weekday)
    return (
        select(
            key, CallDay.fate, cast(func.sum(CallDay.calls), Integer), cast(func.sum(CallDay.talk_seconds), Float),
            func.coalesce(cast(func.sum(CallDay.calls).filter(CallDay.reason == UNCONFIRMED), Integer), 0),
            cast(func.sum(CallDay.new_callers), Integer),
        )
        .where(CallDay.client_id == client_id, CallDay.day.between(period.first, period.last))
        .group_by(key, CallDay.fate)
    )  # fmt: skip


def _by_service(session: Session, client_id: int, period: Period) -> int:
    query = select(func.coalesce(func.sum(CallDay.calls), 0)).where(
        CallDay.client_id == client_id, CallDay.day.between(period.first, period.last), CallDay.reason == SERVICE
    )
    return int(session.scalar(query) or 0)


# money

_Spent = dict[str, tuple[Decimal, int]]


def _spent(session: Session, client_id: int, period: Period) -> _Spent:
    """By campaign what was spent, and on how many days there is a figure; the empty one is all of them together."""
    rows = session.execute(
        select(Spend.campaign, Spend.day, Spend.amount).where(
            Spend.client_id == client_id, Spend.day.between(period.first, period.last)
        )
    ).all()
    found: _Spent = {}
    days = set()
    for campaign, day, amount in rows:
        whole, count = found.get(campaign, (Decimal(0), 0))
        found[campaign] = (whole + amount, count + 1)
        days.add(day)
    if rows:
        found[""] = (sum((amount for _, _, amount in rows), Decimal(0)), len(days))
    return found


def _costs(spent: _Spent, campaign: str | None, tally: Tally, period: Period) -> Costs | None:
    """What was spent on a campaign, or on all (None), for each of its calls; None where nothing is known."""
    if campaign == "" or (campaign or "") not in spent:
        return None
    amount, days = spent[campaign or ""]
    return money.costs(amount, days, period.days, tally.calls, tally.by_fate["answered"], tally.new_callers)


# names


class _Names:
    """What the keys of a grouping are called."""

    def __init__(self, session: Session, house: House, client: ClientView) -> None:
        self.session, self.house, self.client = session, house, client
        self.sources = {str(one.id): one for one in sources_of(session, client.id)}
        self._people: dict[str, str] | None = None

    def source(self, key: str) -> LeadSourceView | None:
        return self.sources.get(key)

    def of(self, by: str, key: str) -> tuple[str, str]:
        """The name, and a second word or two."""
        if by == "weekday":
            return DAY_NAMES[int(key)], ""
        if by == "hour":
            return f"{int(key):02d}:00 to {int(key) + 1:02d}:00", ""
        if not key:
            return NONE[by], ""
        match by:
            case "source" | "key":
                found = self.sources.get(key)
                if found is None:
                    return NONE["source"], ""
                return found.name, found.extension if by == "key" else found.medium
            case "medium" | "campaign":
                return next(
                    (getattr(one, by) for one in self.sources.values() if getattr(one, by).lower() == key), key
                ), ""
            case "number":
                number = self.session.get(TrackingNumber, int(key))
                return (
                    (numbering.shown(number.e164, self.client.country), number.name) if number else (NONE["number"], "")
                )
            case "flow":
                flow = flow_names(self.session, self.client.id).get(int(key))
                return (flow.name, flow.mark) if flow else ("a flow that was removed", "")
        shown = numbering.shown(key, self.client.country)
        name = self.people.get(key)
        return (name, shown) if name else (shown, "")

    @property
    def people(self) -> dict[str, str]:
        """Whose phones answer: people’s, and those that live flows ring by name."""
        if self._people is None:
            people = people_of(self.session, self.house, self.client.id).values()
            self._people = {phone.to: one.name for one in people for phone in one.phones}
            for to, name in self._rung_by_flows():
                self._people.setdefault(to, name)
        return self._people

    def _rung_by_flows(self) -> Iterator[tuple[str, str]]:
        for flow in ready.live(self.session, self.house, self.client.id):
            for step in flow.steps.values():
                for one in getattr(step, "to", ()) or ():
                    if isinstance(one, NumberDestination) and one.name:
                        yield one.dialed, one.name

    def wanted(self, by: str, key: str) -> dict[str, str]:
        """The fields of the log of calls that show the calls of a line."""
        match by:
            case "source" | "flow":
                return {by: key or "0"}
            case "key":
                return {"key": key or "none"}
            case "person":
                return {"person": key or "nobody"}
            case "medium" | "campaign":
                return {by: key or "none"}
        return {by: key}
