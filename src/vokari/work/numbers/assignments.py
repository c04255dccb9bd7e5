"""Giving numbers to lead sources, now or from a future moment; the past is never rewritten."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import DateTime, and_, func, literal, select
from sqlalchemy.dialects.postgresql import Range
from sqlalchemy.orm import Session

from ...core.numbers import assignments, numbering
from ...core.numbers.assignments import Span
from ...store.agency import Client
from ...store.numbers import Assignment, LeadSource, TrackingNumber
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from .numbers import own_number
from .sources import own_source

RESTS = "A resting number has no lead source: put it back in service first."
PROPOSED = 8
"""How many numbers are proposed for what is typed."""
SLACK_SECONDS = 90
"""A moment that was typed as now may lie this far back by the time it is read."""


def spans_of(session: Session, number_ids: Iterable[int]) -> dict[int, tuple[Span, ...]]:
    """The time line of each of these numbers, oldest first; a number that nobody ever had is left out."""
    found: dict[int, list[Span]] = {}
    query = select(Assignment).where(Assignment.number_id.in_(list(number_ids))).order_by(Assignment.during)
    for row in session.scalars(query):
        if row.during.lower is not None:
            found.setdefault(row.number_id, []).append(Span(row.source_id, row.during.lower, row.during.upper))
    return {number_id: tuple(spans) for number_id, spans in found.items()}


def give(
    house: House, actor: Actor, client_id: int, number_id: int, source_id: int | None,
    since: datetime | None = None, until: datetime | None = None,
) -> Problems:  # fmt: skip
    """Gives a number to a lead source (None: to none) from a moment (None: now) to another (None: until further notice)."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        number = own_number(session, client_id, number_id)
        own_source(session, client_id, source_id)
        if number.state == "resting":
            return [Problem("", RESTS)]
        moment = _from_now_on(house, since)
        if isinstance(moment, Problem):
            return [moment]
        if until is not None and until <= moment:
            return [Problem("until", "The end lies before the beginning.")]
        spans = spans_of(session, [number.id]).get(number.id, ())
        _write(session, number, assignments.give(spans, source_id, moment, until))
        shown = numbering.shown(number.e164, client.country)
        name = _name(session, source_id)
        words = f"gave {shown} to {name}" if source_id else f"took {shown} back from its lead source"
        note(session, house, actor, client_id, words + _when(moment, house.now()))
    return []


def swap(
    house: House, actor: Actor, client_id: int, number_id: int, other: str, since: datetime | None = None
) -> Problems:
    """Exchanges the lead sources of two numbers from a moment on (None: now). The other is typed: its digits, or so many of them
    that no other number has them, or the name of the lead source that has it."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        own_number(session, client_id, number_id)
        found = _like(session, house, client, other, but=number_id, limit=2)
        called = [one for one in found if one.source.lower() == _typed(other)[1].lower() != ""]
        meant = called if len(called) == 1 else found
        if len(meant) != 1:
            return [Problem("other", _not_one(other, len(meant)))]
        other_id = meant[0].id
        pair = {one: own_number(session, client_id, one) for one in sorted((number_id, other_id))}
        if any(number.state == "resting" for number in pair.values()):
            return [Problem("other", RESTS)]
        moment = _from_now_on(house, since)
        if isinstance(moment, Problem):
            return [moment]
        spans = spans_of(session, pair)
        first, second = assignments.swap(spans.get(number_id, ()), spans.get(other_id, ()), moment)
        _write(session, pair[number_id], first)
        _write(session, pair[other_id], second)
        names = " and ".join(numbering.shown(pair[one].e164, client.country) for one in (number_id, other_id))
        note(session, house, actor, client_id, f"swapped the lead sources of {names}{_when(moment, house.now())}")
    return []


def _not_one(typed: str, found: int) -> str:
    if not typed.strip():
        return "Type the number to swap with, or the lead source that has it."
    return "Several numbers are like that: type more of it." if found else "No other number in service is like that."


@dataclass(frozen=True, slots=True)
class NumberOf:
    """A number in service, and the name of the lead source that has it (empty: none)."""

    id: int
    e164: str
    source: str


def others(house: House, actor: Actor, client_id: int, number_id: int, typed: str) -> list[tuple[NumberOf, str]]:
    """The numbers that a few typed letters or digits may mean, each as it is written."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        own_number(session, client_id, number_id)
        found = _like(session, house, client, typed, but=number_id, limit=PROPOSED)
        return [(one, numbering.shown(one.e164, client.country)) for one in found]


def _typed(typed: str) -> tuple[str, str]:
    """The digits or the name that are typed of a number. What is proposed to be typed has both, with a comma between."""
    text = " ".join(typed.split())
    if not text or text[0] not in "+(0123456789":
        return "", text
    return "".join(one for one in text.partition(",")[0] if one.isdigit()).lstrip("0"), ""


def _like(session: Session, house: House, client: Client, typed: str, *, but: int, limit: int) -> list[NumberOf]:
    """Other numbers in service of which this may be typed; those first whose lead source is called just so."""
    digits, name = _typed(typed)
    if not digits and not name:
        return []
    runs = Assignment.during.op("@>")(literal(house.now(), DateTime(timezone=True)))
    like = TrackingNumber.e164.contains(digits) if digits else LeadSource.name.icontains(name, autoescape=True)
    rows = session.execute(
        select(TrackingNumber.id, TrackingNumber.e164, func.coalesce(LeadSource.name, ""))
        .outerjoin(Assignment, and_(Assignment.number_id == TrackingNumber.id, runs))
        .outerjoin(LeadSource, LeadSource.id == Assignment.source_id)
        .where(
            TrackingNumber.client_id == client.id, TrackingNumber.state == "in_service", TrackingNumber.id != but, like
        )
        .order_by(func.lower(LeadSource.name) != name.lower(), LeadSource.name, TrackingNumber.e164)
        .limit(limit)
    )
    return [NumberOf(*row) for row in rows]


def cancel(house: House, actor: Actor, client_id: int, number_id: int, since: datetime) -> Problems:
    """Takes back a change that was planned for a future moment."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        number = own_number(session, client_id, number_id)
        if since <= house.now():
            return [Problem("since", "This change has taken place already.")]
        spans = spans_of(session, [number.id]).get(number.id, ())
        after = assignments.cancel(spans, since)
        if after == spans:
            return [Problem("since", "No change is planned for this moment.")]
        _write(session, number, after)
        shown = numbering.shown(number.e164, client.country)
        note(session, house, actor, client_id, f"took back the change planned for {shown}{_when(since, house.now())}")
    return []


def give_now(session: Session, house: House, number: TrackingNumber, source_id: int | None) -> None:
    """Gives a number within a use case that checked everything: from now on, until further notice."""
    spans = spans_of(session, [number.id]).get(number.id, ())
    _write(session, number, assignments.give(spans, source_id, house.now()))


def give_first(session: Session, number: TrackingNumber, source_id: int, since: datetime) -> None:
    """Gives a number that nobody ever had, from a moment on."""
    session.add(_row(number, Span(source_id, since)))


def _from_now_on(house: House, since: datetime | None) -> datetime | Problem:
    now = house.now()
    if since is None or 0 <= (now - since).total_seconds() <= SLACK_SECONDS:
        return now
    if since < now:
        return Problem("since", "A change begins now or later: calls that came already stay where they are.")
    return since


def _write(session: Session, number: TrackingNumber, wanted: Sequence[Span]) -> None:
    """Makes the rows of a number those of its time line; rows that stay as they are are not touched."""
    rows = {
        (row.source_id, row.during.lower): row
        for row in session.scalars(select(Assignment).where(Assignment.number_id == number.id).with_for_update())
    }
    keep = {(span.source_id, span.since): span for span in wanted}
    for key, row in rows.items():
        if key not in keep:
            session.delete(row)
        elif row.during.upper != keep[key].until and (
            row.during.upper is None or (keep[key].until or row.during.upper) < row.during.upper
        ):
            row.during = Range(row.during.lower, keep[key].until)
    session.flush()
    for key, span in keep.items():
        known = rows.get(key)
        if known is not None:
            known.during = Range(span.since, span.until)
        else:
            session.add(_row(number, span))
    session.flush()


def _row(number: TrackingNumber, span: Span) -> Assignment:
    return Assignment(
        agency_id=number.agency_id, client_id=number.client_id, number_id=number.id, source_id=span.source_id,
        during=Range(span.since, span.until),
    )  # fmt: skip


def _name(session: Session, source_id: int | None) -> str:
    source = session.get(LeadSource, source_id) if source_id else None
    return source.name if source else "no lead source"


def _when(moment: datetime, now: datetime) -> str:
    return "" if moment <= now else f" from {moment:%Y-%m-%d %H:%M} UTC on"
