"""Today: what needs a person now, over all clients of the agency."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Subquery, any_, case, func, literal, or_, select, union_all
from sqlalchemy.orm import Session

from ...core.calls.fates import REASONS
from ...core.numbers.numbering import shown
from ...store.agency import Client
from ...store.calls import Call, CallDifference
from ...store.flows import CallFlow
from ...store.numbers import Assignment, LeadSource, TrackingNumber
from ...store.people import DutyRow, PersonRow
from ..calls.history import waiting
from ..house.house import House
from ..house.views import ClientNameView
from ..people.everybody import MISSED_FLAG
from .access import Actor, allow_agency
from .clients import ClientName
from .stack import SHORT_BYTES, free_bytes


@dataclass(frozen=True, slots=True)
class Need:
    """One thing that needs a person: whose it is, a sentence, and what to open next."""

    kind: Literal[
        "lost", "no_flow", "no_fail_safe", "rest_over", "no_source", "no_number", "not_answering", "differences"
    ]
    client: ClientNameView
    sentence: str
    action: str
    number_id: int | None = None
    person_id: int | None = None
    count: int = 1
    latest: datetime | None = None
    day: date | None = None


ORDER = ("no_flow", "lost", "not_answering", "no_fail_safe", "rest_over", "no_source", "no_number", "differences")
"""The kinds of need, worst first."""


def needs(house: House, actor: Actor) -> list[Need]:
    """What needs a person, worst first: numbers that reach nobody, then lost callers, then gaps in the plan."""
    with house.begin() as session:
        allow_agency(actor)
        query = select(*ClientNameView.columns(Client)).where(Client.agency_id == actor.agency_id)
        clients = {client.id: client for client in ClientNameView.all(session.execute(query))}
        found = [*_lost(session, actor, clients, house.now()), *_gaps(session, actor, clients, house.now())]
        found += _unanswering(session, actor, clients)
        found += _differences(session, actor, clients, house.now())
    return sorted(found, key=lambda need: (ORDER.index(need.kind), -need.count, need.client.name))


def _lost(session: Session, actor: Actor, clients: dict[int, ClientNameView], now: datetime) -> Iterator[Need]:
    rows = session.execute(
        select(Call.client_id, Call.reason, func.count(Call.caller.distinct()), func.max(Call.started_at))
        .where(Call.agency_id == actor.agency_id, *waiting(now))
        .group_by(Call.client_id, Call.reason)
    ).all()  # fmt: skip
    by_client: dict[int, list[tuple[str, int, datetime]]] = {}
    for client_id, reason, count, latest in rows:
        by_client.setdefault(client_id, []).append((reason, count, latest))
    for client_id, parts in by_client.items():
        client = clients[client_id]
        parts.sort(key=lambda part: -part[1])
        total, latest = sum(part[1] for part in parts), max(part[2] for part in parts)
        local = latest.astimezone(ZoneInfo(client.time_zone))
        who = "One caller was lost and has" if total == 1 else f"{total} callers were lost and have"
        often = "" if total == 1 else "mostly: "
        sentence = f"{who} not got through since, the latest at {local:%H:%M}; {often}{REASONS[parts[0][0]]}."
        yield Need("lost", client, sentence, "See the calls", count=total, latest=latest)


def _runs_on(now: datetime) -> ColumnElement[bool]:
    return or_(func.upper_inf(Assignment.during), func.upper(Assignment.during) > now)


def _without_number(actor: Actor, now: datetime) -> tuple[ColumnElement[bool], ...]:
    """Lead sources that no number has, now or planned, and that no key of a live flow states."""
    has_number = select(Assignment.id).where(Assignment.source_id == LeadSource.id, _runs_on(now)).exists()
    stated = select(CallFlow.id).where(
        CallFlow.client_id == LeadSource.client_id, LeadSource.key == any_(CallFlow.stated)
    )
    return (LeadSource.agency_id == actor.agency_id, ~has_number, ~stated.exists())


def _lacking(actor: Actor, now: datetime) -> Subquery:
    """Numbers in service that reach no live flow or have no lead source, now or planned: each with the name of its flow, the
    version that is live and whether somebody has it. The assignments are joined: to ask of each number takes many times longer."""
    held = (
        select(Assignment.number_id).distinct().where(Assignment.agency_id == actor.agency_id, _runs_on(now)).subquery()
    )
    duty = select(Client.id).where(Client.id == TrackingNumber.client_id, Client.duty_number == TrackingNumber.e164)
    return (
        select(
            TrackingNumber.id, TrackingNumber.client_id, TrackingNumber.e164, CallFlow.name.label("flow"),
            CallFlow.live_version_id, held.c.number_id.is_not(None).label("held"),
        )
        .outerjoin(CallFlow, CallFlow.id == TrackingNumber.flow_id)
        .outerjoin(held, held.c.number_id == TrackingNumber.id)
        .where(
            TrackingNumber.agency_id == actor.agency_id, TrackingNumber.state == "in_service",
            or_(CallFlow.live_version_id.is_(None), held.c.number_id.is_(None)), ~duty.exists(),
        )
        .subquery()
    )  # fmt: skip


def _silent(actor: Actor) -> tuple[ColumnElement[bool], ...]:
    """People who are on and have not answered so many times in a row."""
    return (
        PersonRow.agency_id == actor.agency_id, PersonRow.removed_at.is_(None), DutyRow.client_id == PersonRow.client_id,
        DutyRow.person == PersonRow.key, DutyRow.missed >= MISSED_FLAG, DutyRow.off.is_(False),
    )  # fmt: skip


def _unanswering(session: Session, actor: Actor, clients: dict[int, ClientNameView]) -> Iterator[Need]:
    rows = session.execute(select(PersonRow, DutyRow.missed).where(*_silent(actor)).order_by(PersonRow.name))
    for person, missed in rows:
        sentence = f"{person.name}’s phone has not answered {missed} times in a row."
        client = clients[person.client_id]
        yield Need("not_answering", client, sentence, "See the person", person_id=person.id, count=missed)


def _unsafe(actor: Actor) -> tuple[ColumnElement[bool], ...]:
    """Numbers in service for which the carrier knows no fail-safe."""
    return (
        TrackingNumber.agency_id == actor.agency_id, TrackingNumber.state == "in_service",
        TrackingNumber.fail_safe == "", Client.fail_safe == "",
    )  # fmt: skip


def _rested(actor: Actor, now: datetime) -> tuple[ColumnElement[bool], ...]:
    """Numbers whose rest is over; the quiet ones are released by themselves, so these still ring."""
    return (
        TrackingNumber.agency_id == actor.agency_id, TrackingNumber.state == "resting",
        TrackingNumber.rest_until < now - timedelta(hours=2),
    )  # fmt: skip


def _gaps(session: Session, actor: Actor, clients: dict[int, ClientNameView], now: datetime) -> Iterator[Need]:
    for number_id, client_id, e164, flow, live, held in session.execute(select(_lacking(actor, now))):
        client = clients[client_id]
        called = shown(e164, client.country)
        if flow is None:
            yield Need(
                "no_flow",
                client,
                f"{called} has no flow: callers reach the fail-safe at best.",
                "Choose a flow",
                number_id,
            )
        elif live is None:
            yield Need(
                "no_flow",
                client,
                f"{called} points at {flow}, which is not live.",
                "Put it live",
                number_id,
            )
        if not held:
            sentence = f"{called} belongs to no lead source: its calls are credited to nothing."
            yield Need("no_source", client, sentence, "Choose a source", number_id)
    for client_id, count in session.execute(
        select(TrackingNumber.client_id, func.count())
        .join(Client, Client.id == TrackingNumber.client_id)
        .where(*_unsafe(actor))
        .group_by(TrackingNumber.client_id)
    ):
        what = "One number has" if count == 1 else f"{count} numbers have"
        sentence = f"{what} no fail-safe: if nothing else works, the caller hears the busy tone."
        yield Need("no_fail_safe", clients[client_id], sentence, "Name one", count=count)
    for number in session.scalars(select(TrackingNumber).where(*_rested(actor, now))):
        called = shown(number.e164, clients[number.client_id].country)
        sentence = f"{called} has rested long enough and still rings: an advert may still show it."
        yield Need("rest_over", clients[number.client_id], sentence, "Decide", number.id)
    without = session.execute(
        select(LeadSource.client_id, LeadSource.name).where(*_without_number(actor, now)).order_by(LeadSource.name)
    ).all()
    names: dict[int, list[str]] = {}
    for client_id, name in without:
        names.setdefault(client_id, []).append(name)
    for client_id, missing in names.items():
        what = f"{missing[0]} has" if len(missing) == 1 else f"{', '.join(missing[:-1])} and {missing[-1]} have"
        yield Need(
            "no_number",
            clients[client_id],
            f"{what} no number yet.",
            "Find a number",
            count=len(missing),
        )


def clients_in_need(house: House, actor: Actor) -> list[ClientName]:
    """The clients of which something stands on Today, worst first, by one query, since every page asks."""
    now = house.now()
    gaps = _lacking(actor, now)
    lacking = select(
        gaps.c.client_id, case((gaps.c.live_version_id.is_(None), _rank("no_flow")), else_=_rank("no_source"))
    )
    without = select(LeadSource.client_id, _rank("no_number")).where(*_without_number(actor, now))
    lost = select(Call.client_id, _rank("lost")).where(Call.agency_id == actor.agency_id, *waiting(now))
    unsafe = (
        select(TrackingNumber.client_id, _rank("no_fail_safe"))
        .join(Client, Client.id == TrackingNumber.client_id)
        .where(*_unsafe(actor))
    )
    rested = select(TrackingNumber.client_id, _rank("rest_over")).where(*_rested(actor, now))
    silent = select(PersonRow.client_id, _rank("not_answering")).where(*_silent(actor))
    differing = select(CallDifference.client_id, _rank("differences")).where(*_differing(actor, now))
    found = union_all(lacking, without, lost, unsafe, rested, silent, differing).subquery()
    client_id, rank = found.columns
    query = (
        select(Client.id, Client.name)
        .join(found, client_id == Client.id)
        .group_by(Client.id, Client.name)
        .order_by(func.min(rank), func.lower(Client.name))
    )
    with house.begin() as session:
        allow_agency(actor)
        return [ClientName(*row) for row in session.execute(query)]


def _rank(kind: str) -> ColumnElement[int]:
    return literal(ORDER.index(kind))


def _differing(actor: Actor, now: datetime) -> tuple[ColumnElement[bool], ...]:
    """Differences with the carrier's list of the last week."""
    return (CallDifference.agency_id == actor.agency_id, CallDifference.at > now - timedelta(days=7))


def _differences(session: Session, actor: Actor, clients: dict[int, ClientNameView], now: datetime) -> Iterator[Need]:
    """Calls on which the carrier's list and ours did not agree, of the last week."""
    rows = session.execute(
        select(CallDifference.client_id, CallDifference.day, CallDifference.kind, func.count())
        .where(*_differing(actor, now))
        .group_by(CallDifference.client_id, CallDifference.day, CallDifference.kind)
    )
    for client_id, day, kind, count in rows:
        calls = "One call" if count == 1 else f"{count} calls"
        sentence = (
            f"{calls} of {day:%b} {day.day} stood in the carrier’s list and not here: written down since."
            if kind == "missing_here"
            else f"{calls} of {day:%b} {day.day} {'is' if count == 1 else 'are'} not in the carrier’s list."
        )
        yield Need("differences", clients[client_id], sentence, "See the day", count=count, day=day)


def short_of_space(house: House, actor: Actor) -> int | None:
    """How many bytes are free where space runs short; None where there is enough, or nobody knows."""
    allow_agency(actor)
    with house.begin() as session:
        free = free_bytes(session, house.now())
    return free if free is not None and free < SHORT_BYTES else None
