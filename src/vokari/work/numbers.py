"""Lead sources, and the tracking numbers given to them."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import Range
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core import numbering
from ..store.flows import CallFlow
from ..store.numbers import Assignment, Carrier, LeadSource, TrackingNumber
from .access import Actor, NotFound, allow, note, require
from .clients import new_key
from .house import CarrierRefuses, FreeNumber, House, Problem, Problems

CARRIER = "stand-in"


@dataclass(frozen=True, slots=True)
class SourceForm:
    """What is typed of a lead source: its name and the open campaign tags, where people see it, online or not."""

    name: str
    source: str = ""
    medium: str = ""
    campaign: str = ""
    term: str = ""
    content: str = ""
    placement: str = ""
    online: bool = False


@dataclass(frozen=True, slots=True)
class Holding:
    """Who has a number, or had it: the source and from when to when (None: still)."""

    source: LeadSource
    since: datetime
    until: datetime | None


@dataclass(slots=True)
class NumberLine:
    """A number with its flow and everyone who had it, the latest first."""

    number: TrackingNumber
    flow: CallFlow | None
    history: list[Holding] = field(default_factory=list)

    @property
    def now(self) -> Holding | None:
        return self.history[0] if self.history and self.history[0].until is None else None


@dataclass(frozen=True, slots=True)
class Plan:
    """A client's lead sources, each with its numbers, and the numbers that no source has."""

    sources: list[tuple[LeadSource, list[NumberLine]]]
    without_source: list[NumberLine]


def plan(house: House, actor: Actor, client_id: int) -> Plan:
    """The numbers page: what each lead source has."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        lines = _lines(session, client_id)
        sources = session.scalars(
            select(LeadSource)
            .where(LeadSource.client_id == client_id)
            .order_by(LeadSource.online, func.lower(LeadSource.name))
        ).all()
    by_source: dict[int, list[NumberLine]] = {}
    for line in lines:
        if line.now:
            by_source.setdefault(line.now.source.id, []).append(line)
    return Plan(
        [(source, by_source.get(source.id, [])) for source in sources], [line for line in lines if line.now is None]
    )


def _lines(session: Session, client_id: int) -> list[NumberLine]:
    numbers = session.execute(
        select(TrackingNumber, CallFlow)
        .outerjoin(CallFlow, CallFlow.id == TrackingNumber.flow_id)
        .where(TrackingNumber.client_id == client_id, TrackingNumber.state != "released")
        .order_by(TrackingNumber.e164)
    ).all()
    lines = {number.id: NumberLine(number, flow) for number, flow in numbers}
    held = session.execute(
        select(Assignment, LeadSource)
        .join(LeadSource, LeadSource.id == Assignment.source_id)
        .where(Assignment.client_id == client_id)
        .order_by(func.lower(Assignment.during).desc())
    ).all()
    for assignment, source in held:
        if assignment.number_id in lines and assignment.during.lower:
            holding = Holding(source, assignment.during.lower, assignment.during.upper)
            lines[assignment.number_id].history.append(holding)
    return list(lines.values())


def sources_of(session: Session, client_id: int) -> list[LeadSource]:
    """A client's lead sources, by name."""
    return list(
        session.scalars(
            select(LeadSource).where(LeadSource.client_id == client_id).order_by(func.lower(LeadSource.name))
        )
    )


def lead_sources(house: House, actor: Actor, client_id: int) -> list[LeadSource]:
    """A client's lead sources, by name, for whoever reads its results."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        return sources_of(session, client_id)


def keep_source(
    house: House, actor: Actor, client_id: int, source_id: int | None, form: SourceForm
) -> LeadSource | Problems:
    """Makes or changes a lead source."""
    require(house, actor, client_id, "work")
    name = " ".join(form.name.split())
    if not 1 <= len(name) <= 80:
        return [Problem("name", "A lead source has a name of 1 to 80 letters.")]
    long = [
        one for one in ("source", "medium", "campaign", "term", "content", "placement") if len(getattr(form, one)) > 120
    ]
    if long:
        return [Problem(one, "At most 120 letters.") for one in long]
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work")
            source = session.get(LeadSource, source_id) if source_id else None
            if source_id and (source is None or source.client_id != client_id):
                raise NotFound
            if source is None:
                source = LeadSource(agency_id=actor.agency_id, client_id=client_id, key=new_key("ls"))
                session.add(source)
            source.name = name
            for tag in ("source", "medium", "campaign", "term", "content", "placement"):
                setattr(source, tag, getattr(form, tag).strip())
            source.online = form.online
            session.flush()
            note(session, house, actor, client_id, f"kept the lead source {name}")
            return source
    except IntegrityError:
        return [Problem("name", "Another lead source of this client has this name already.")]


def get_source(house: House, actor: Actor, client_id: int, source_id: int) -> LeadSource:
    """One lead source."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        source = session.get(LeadSource, source_id)
        if source is None or source.client_id != client_id:
            raise NotFound
        return source


def search(
    house: House, actor: Actor, client_id: int, *, country: str, area_code: str, place: str, kind: str, contains: str
) -> list[FreeNumber] | Problem:
    """Free numbers at the carrier."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
    if area_code and not (area_code.isdigit() and 2 <= len(area_code) <= 5):
        return Problem("area_code", "An area code has 2 to 5 digits.")
    digits = "".join(one for one in contains if one.isdigit())
    if contains.strip() and not digits:
        return Problem("contains", "Look for digits only.")
    try:
        return house.carrier.search(
            country=country, area_code=area_code, place=place.strip(), kind=kind, contains=digits, limit=24
        )
    except CarrierRefuses as refusal:
        return Problem("", refusal.sentence)


def take(
    house: House, actor: Actor, client_id: int, e164: str, source_id: int | None, flow_id: int | None
) -> TrackingNumber | Problems:
    """Takes a number from the carrier, gives it to a lead source from now on, and points it at a flow."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        _own_source(session, client_id, source_id)
        _own_flow(session, client_id, flow_id)
        held = session.scalar(
            select(TrackingNumber).where(TrackingNumber.e164 == e164, TrackingNumber.state != "released")
        )
        if held:
            return [Problem("number", "This number is in use already. Choose another one.")]
        carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
    try:
        free = house.carrier.take(e164, fail_safe=client.fail_safe, key=f"take-{client_id}-{e164}")
    except CarrierRefuses as refusal:
        return [Problem("number", refusal.sentence)]
    try:
        with house.begin() as session:
            number = TrackingNumber(
                agency_id=actor.agency_id, client_id=client_id, carrier_id=carrier.id, e164=free.e164, place=free.place,
                kind=free.kind, state="in_service", flow_id=flow_id, fail_safe="", taken_at=house.now(),
            )  # fmt: skip
            session.add(number)
            session.flush()
            if source_id:
                _give(session, house, actor, number, source_id)
            note(session, house, actor, client_id, f"took the number {numbering.shown(e164, client.country)}")
            return number
    except IntegrityError:
        return [Problem("number", "Somebody took this number a moment ago. Choose another one.")]


def give(house: House, actor: Actor, client_id: int, number_id: int, source_id: int | None) -> None:
    """Gives a number to a lead source from now on (None: to none). What it had before keeps its calls."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        number = _own_number(session, client_id, number_id)
        _own_source(session, client_id, source_id)
        _give(session, house, actor, number, source_id)


def _give(session: Session, house: House, actor: Actor, number: TrackingNumber, source_id: int | None) -> None:
    now = house.now()
    held = session.scalar(
        select(Assignment).where(Assignment.number_id == number.id, func.upper_inf(Assignment.during)).with_for_update()
    )
    if held and held.source_id == source_id:
        return
    if held:
        held.during = Range(held.during.lower, max(now, held.during.lower or now))
        if held.during.lower == now:
            session.delete(held)
        session.flush()
    if source_id:
        session.add(
            Assignment(
                agency_id=actor.agency_id, client_id=number.client_id, number_id=number.id, source_id=source_id,
                during=Range(now, None),
            )
        )  # fmt: skip
        session.flush()
    source = session.get(LeadSource, source_id) if source_id else None
    words = f"gave {number.e164} to {source.name}" if source else f"took {number.e164} back from its lead source"
    note(session, house, actor, number.client_id, words)


def point(house: House, actor: Actor, client_id: int, number_id: int, flow_id: int | None) -> None:
    """Points a number at a flow (None: at none)."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        number = _own_number(session, client_id, number_id)
        _own_flow(session, client_id, flow_id)
        number.flow_id = flow_id
        note(session, house, actor, client_id, f"pointed {number.e164} at another flow")


def set_fail_safe(house: House, actor: Actor, client_id: int, number_id: int, typed: str) -> Problems:
    """Names a number's own fail-safe destination, here and at the carrier; empty takes the client's."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        number = _own_number(session, client_id, number_id)
        destination = ""
        if typed.strip():
            read = numbering.parse(typed, client.country)
            if isinstance(read, numbering.Wrong):
                return [Problem("fail_safe", read.sentence)]
            if read == number.e164:
                return [Problem("fail_safe", "A number cannot be its own fail-safe.")]
            destination = read
        try:
            house.carrier.set_fail_safe(number.e164, destination or client.fail_safe)
        except CarrierRefuses as refusal:
            return [Problem("fail_safe", refusal.sentence)]
        number.fail_safe = destination
        note(session, house, actor, client_id, f"set the fail-safe of {number.e164}")
    return []


def on_flow(session: Session, flow_ids: Iterable[int]) -> dict[int, list[TrackingNumber]]:
    """The numbers in service that point at each of these flows."""
    found: dict[int, list[TrackingNumber]] = {}
    query = select(TrackingNumber).where(
        TrackingNumber.flow_id.in_(list(flow_ids)), TrackingNumber.state == "in_service"
    )
    for number in session.scalars(query.order_by(TrackingNumber.e164)):
        found.setdefault(number.flow_id or 0, []).append(number)
    return found


def _own_number(session: Session, client_id: int, number_id: int) -> TrackingNumber:
    number = session.get(TrackingNumber, number_id, with_for_update=True)
    if number is None or number.client_id != client_id:
        raise NotFound
    return number


def _own_source(session: Session, client_id: int, source_id: int | None) -> None:
    if source_id is not None:
        source = session.get(LeadSource, source_id)
        if source is None or source.client_id != client_id:
            raise NotFound


def _own_flow(session: Session, client_id: int, flow_id: int | None) -> None:
    if flow_id is not None:
        flow = session.get(CallFlow, flow_id)
        if flow is None or flow.client_id != client_id:
            raise NotFound


@dataclass(frozen=True, slots=True)
class RoutesView:
    """What the route map names: lanes of (source, number, flow) ids, 0 for what is missing, and what the ids stand for."""

    lanes: list[tuple[int, int, int]]
    sources: dict[int, LeadSource]
    numbers: dict[int, TrackingNumber]
    flows: dict[int, CallFlow]


def routes_view(house: House, actor: Actor, client_id: int) -> RoutesView:
    """The lanes of a client's route map: sources with their numbers, then sources and numbers that lack the other."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        lines = _lines(session, client_id)
        sources = {one.id: one for one in sources_of(session, client_id)}
        flows = {one.id: one for one in session.scalars(select(CallFlow).where(CallFlow.client_id == client_id))}
    lanes = [(line.now.source.id, line.number.id, line.number.flow_id or 0) for line in lines if line.now]
    lanes.sort(key=lambda lane: (lane[2] == 0, lane[2], sources[lane[0]].name.lower()))
    lanes += [(0, line.number.id, line.number.flow_id or 0) for line in lines if line.now is None]
    held = {lane[0] for lane in lanes}
    lanes += [(one, 0, 0) for one in sources if one not in held]
    return RoutesView(lanes, sources, {line.number.id: line.number for line in lines}, flows)
