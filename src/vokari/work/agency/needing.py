"""What needs a person, of all clients of an agency, by one query: from it come the list of Today and the marks of every page."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy import (
    BigInteger,
    ColumnElement,
    CompoundSelect,
    Date,
    DateTime,
    Select,
    SQLColumnExpression,
    Subquery,
    Text,
    any_,
    bindparam,
    cast,
    func,
    literal_column,
    null,
    or_,
    select,
    union_all,
)  # fmt: skip
from sqlalchemy.orm import Session
from sqlalchemy.types import TypeEngine

from ...core.checks.at_work import MISSED
from ...store.agency import Client
from ...store.calls import Call, CallDifference, ServiceCall
from ...store.due import DueChange
from ...store.fixed import Fixed
from ...store.flows import CallFlow
from ...store.numbers import Assignment, LeadSource, TrackingNumber
from ...store.people import DutyRow, PersonRow
from ...store.prompts import PlayedTake, PromptRow
from ...store.proofs import LiveFinding
from ..calls.history import CALL_BACK_WITHIN, waiting
from ..prompts.ending import SOON

ORDER = (
    "no_flow",
    "found",
    "worse",
    "refused",
    "prompt_ends",
    "lost",
    "service",
    "not_answering",
    "no_fail_safe",
    "rest_over",
    "no_source",
    "uncalled",
    "no_number",
    "differences",
)
"""The kinds of need, worst first."""

_AGENCY = bindparam("agency", type_=BigInteger, required=False)
_NOW, _HOURS_AGO, _DAY_AGO, _WEEK_AGO, _SOON = (
    bindparam(name, type_=DateTime(timezone=True), required=False)
    for name in ("now", "hours_ago", "day_ago", "week_ago", "soon")
)


_TYPES: dict[str, TypeEngine[Any]] = {
    "of": BigInteger(), "words": Text(), "more": Text(), "count": BigInteger(), "at": DateTime(timezone=True), "day": Date(),
}  # fmt: skip
Query = Select[*tuple[Any, ...]]


@dataclass(frozen=True, slots=True)
class Found:
    """A need: of which client, with its name, country and time zone; of which number or person; what tells it from others of its
    kind, in words; how many; and since when."""

    kind: str
    client_id: int
    of: int | None
    words: str
    more: str | None
    count: int
    at: datetime | None
    day: date | None
    name: str
    country: str
    time_zone: str


def _rows(kind: str, client_id: SQLColumnExpression[int], **given: SQLColumnExpression[Any]) -> Query:
    """Needs of a kind, with the columns of `Found` that are no client's; `count` is 1 unless it is given."""
    usual: dict[str, SQLColumnExpression[Any]] = {"words": literal_column("''"), "count": literal_column("1")}
    columns = (cast(given.get(name, usual.get(name, null())), type_).label(name) for name, type_ in _TYPES.items())
    return select(literal_column(f"'{kind}'", Text).label("kind"), client_id.label("client_id"), *columns)


def _runs_on() -> ColumnElement[bool]:
    return or_(func.upper_inf(Assignment.during), func.upper(Assignment.during) > _NOW)


def _lacking() -> Subquery:
    """Numbers in service that reach no live flow or have no lead source, now or planned: each with the name of its flow, the
    version that is live and whether somebody has it. The assignments are joined: to ask of each number takes many times longer."""
    held = select(Assignment.number_id).distinct().where(Assignment.agency_id == _AGENCY, _runs_on()).subquery()
    duty = select(Client.id).where(Client.id == TrackingNumber.client_id, Client.duty_number == TrackingNumber.e164)
    return (
        select(
            TrackingNumber.id, TrackingNumber.client_id, TrackingNumber.e164, CallFlow.name.label("flow"),
            CallFlow.live_version_id, held.c.number_id.is_not(None).label("held"),
        )
        .outerjoin(CallFlow, CallFlow.id == TrackingNumber.flow_id)
        .outerjoin(held, held.c.number_id == TrackingNumber.id)
        .where(
            TrackingNumber.agency_id == _AGENCY, TrackingNumber.state == "in_service",
            or_(CallFlow.live_version_id.is_(None), held.c.number_id.is_(None)), ~duty.exists(),
        )
        .subquery()
    )  # fmt: skip


def _last_day() -> ColumnElement[date]:
    """The last day on which a prompt is true."""
    return cast(PromptRow.document["true_until"].astext, Date)


def _found() -> CompoundSelect[*tuple[Any, ...]]:
    """The needs of an agency."""
    gaps = _lacking().c
    no_flow = _rows("no_flow", gaps.client_id, of=gaps.id, words=gaps.e164, more=gaps.flow)
    no_source = _rows("no_source", gaps.client_id, of=gaps.id, words=gaps.e164)
    lost = _rows(
        "lost", Call.client_id, words=Call.reason, count=func.count(Call.caller.distinct()), at=func.max(Call.started_at)
    )  # fmt: skip
    taken = _rows("service", ServiceCall.client_id, count=func.count(), at=func.max(ServiceCall.at))
    silent = _rows("not_answering", PersonRow.client_id, of=PersonRow.id, words=PersonRow.name, count=DutyRow.missed)
    unsafe = _rows("no_fail_safe", TrackingNumber.client_id, count=func.count())
    rested = _rows("rest_over", TrackingNumber.client_id, of=TrackingNumber.id, words=TrackingNumber.e164)
    has_number = select(Assignment.id).where(Assignment.source_id == LeadSource.id, _runs_on()).exists()
    stated = select(CallFlow.id).where(
        CallFlow.client_id == LeadSource.client_id,
        CallFlow.removed_at.is_(None),
        LeadSource.key == any_(CallFlow.stated),
    )
    no_number = _rows("no_number", LeadSource.client_id, words=LeadSource.name)
    worse = _rows("worse", CallFlow.client_id, of=CallFlow.id, words=CallFlow.name, more=CallFlow.worse)
    live = _rows(
        "found",
        LiveFinding.client_id,
        of=LiveFinding.flow_id,
        words=CallFlow.name,
        more=LiveFinding.sentence,
        at=LiveFinding.since,
    )
    uncalled = _rows("uncalled", LiveFinding.client_id, of=LiveFinding.flow_id, words=CallFlow.name)
    stands = (
        LiveFinding.agency_id == _AGENCY, LiveFinding.mended_at.is_(None), CallFlow.removed_at.is_(None),
        CallFlow.live_version_id == LiveFinding.version_id,
    )  # fmt: skip
    refused = _rows(
        "refused", DueChange.client_id, of=DueChange.of_id, words=CallFlow.name, more=DueChange.words, at=DueChange.at
    )
    plays = (
        select(PlayedTake.id)
        .join(CallFlow, CallFlow.live_version_id == PlayedTake.version_id)
        .where(PlayedTake.prompt_id == PromptRow.id, PlayedTake.taken_back_at.is_(None), CallFlow.removed_at.is_(None))
    )
    ends = _rows(
        "prompt_ends", func.coalesce(PromptRow.client_id, 0), of=PromptRow.id, words=PromptRow.name, day=_last_day()
    )
    differences = _rows(
        "differences", CallDifference.client_id, words=CallDifference.kind, count=func.count(), day=CallDifference.day
    )  # fmt: skip
    return union_all(
        no_flow.where(gaps.live_version_id.is_(None)),
        no_source.where(~gaps.held),
        lost.where(Call.agency_id == _AGENCY, *waiting(_DAY_AGO)).group_by(Call.client_id, Call.reason),
        # What answering services took, until somebody has dealt with it.
        taken.where(ServiceCall.agency_id == _AGENCY, ServiceCall.dealt_at.is_(None)).group_by(ServiceCall.client_id),
        # Who is on and has not answered so many times in a row.
        silent.where(
            PersonRow.agency_id == _AGENCY, PersonRow.removed_at.is_(None), DutyRow.client_id == PersonRow.client_id,
            DutyRow.person == PersonRow.key, DutyRow.missed >= MISSED, DutyRow.off.is_(False),
        ),
        # Numbers in service for which the carrier knows no fail-safe.
        unsafe.join(Client, Client.id == TrackingNumber.client_id)
        .where(
            TrackingNumber.agency_id == _AGENCY, TrackingNumber.state == "in_service", TrackingNumber.fail_safe == "",
            Client.fail_safe == "",
        )
        .group_by(TrackingNumber.client_id),
        # Numbers whose rest is over; the quiet ones are released by themselves, so these still ring.
        rested.where(
            TrackingNumber.agency_id == _AGENCY, TrackingNumber.state == "resting",
            TrackingNumber.rest_until < _HOURS_AGO,
        ),
        # Lead sources that no number has, now or planned, and that no key of a live flow states; extensions have a page of their own.
        no_number.where(LeadSource.agency_id == _AGENCY, LeadSource.extension == "", ~has_number, ~stated.exists()),
        # What the night found of a live flow, until it is mended; who does not answer stands here as a person.
        live.join(CallFlow, CallFlow.id == LiveFinding.flow_id).where(
            *stands, LiveFinding.kind.not_in(("never_answers", "no_number"))
        ),
        # Live flows that no number leads to.
        uncalled.join(CallFlow, CallFlow.id == LiveFinding.flow_id).where(*stands, LiveFinding.kind == "no_number"),
        # What is live of a flow and loses more callers than what was before.
        worse.where(CallFlow.agency_id == _AGENCY, CallFlow.worse != "", CallFlow.removed_at.is_(None)),
        # Versions that were to go live in the last week, and did not.
        refused.join(CallFlow, CallFlow.id == DueChange.of_id).where(
            DueChange.agency_id == _AGENCY, DueChange.state == "refused", DueChange.at > _WEEK_AGO
        ),
        # Prompts of live flows that are over, or soon will be, while nothing is named that is heard then.
        ends.where(
            PromptRow.agency_id == _AGENCY, PromptRow.removed_at.is_(None), PromptRow.document["fallback"].astext.is_(None),
            _last_day() < func.date(_SOON), plays.exists(),
        ),
        # Differences with the carrier's list of the last week.
        differences.where(
            CallDifference.agency_id == _AGENCY, CallDifference.at > _WEEK_AGO
        ).group_by(CallDifference.client_id, CallDifference.day, CallDifference.kind),
    )  # fmt: skip


def _with_clients() -> Fixed:
    found = _found().subquery()
    return Fixed(
        select(found, Client.name, Client.country, Client.time_zone).join(found, found.c.client_id == Client.id)
    )


def _clients() -> Fixed:
    found = _found().subquery()
    order: ColumnElement[Any] = literal_column("ARRAY[" + ", ".join(f"'{kind}'" for kind in ORDER) + "]")
    return Fixed(
        select(Client.id, Client.name)
        .join(found, found.c.client_id == Client.id)
        .group_by(Client.id, Client.name)
        .order_by(func.min(func.array_position(order, found.c.kind)), func.lower(Client.name))
    )


_NEEDS, _CLIENTS = _with_clients(), _clients()


def needs(session: Session, agency_id: int, now: datetime) -> list[Found]:
    """Every need of an agency, in no order."""
    return [Found(**row._mapping) for row in _NEEDS.rows(session, **_asked(agency_id, now))]


def clients(session: Session, agency_id: int, now: datetime) -> list[tuple[int, str]]:
    """The id and the name of the clients of which something needs a person, worst first."""
    return [(row[0], row[1]) for row in _CLIENTS.rows(session, **_asked(agency_id, now))]


def _asked(agency_id: int, now: datetime) -> dict[str, Any]:
    """The values of the parameters: moments, not distances, so that the database sees which months they lie in."""
    return {
        "agency": agency_id, "now": now, "hours_ago": now - timedelta(hours=2), "day_ago": now - CALL_BACK_WITHIN,
        "week_ago": now - timedelta(days=7), "soon": now + SOON,
    }  # fmt: skip
