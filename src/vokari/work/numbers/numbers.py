"""Tracking numbers: what each has and points at, its name, and the lanes of the route map."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from ...core.numbers import naming, numbering
from ...store.agency import Client
from ...store.flows import CallFlow
from ...store.numbers import Assignment, LeadSource, TrackingNumber
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.kept import once
from ..house.problems import Problem
from ..house.views import ClientView, FlowNameView, LeadSourceView, TrackingNumberView
from .sources import sources_of

CARRIER = "stand-in"

OUT_OF_USE = ("released",)
LONGEST_WHISPER = 200


@dataclass(frozen=True, slots=True)
class Holding:
    """Who has a number at a moment: the source and from when to when (None: until further notice)."""

    source: LeadSourceView
    since: datetime
    until: datetime | None


@dataclass(slots=True)
class NumberLine:
    """A number with its flow, who has it now, who had it last before, and what is planned next."""

    number: TrackingNumberView
    flow: FlowNameView | None
    now: Holding | None = None
    planned: Holding | None = None
    last: Holding | None = None


def lines(session: Session, house: House, client_id: int, *, released: bool = False) -> list[NumberLine]:
    """A client's numbers that are not released (or that are), by number."""
    numbers = session.execute(
        select(*TrackingNumberView.columns(TrackingNumber))
        .where(TrackingNumber.client_id == client_id, TrackingNumber.state.in_(OUT_OF_USE) == released)
        .order_by(TrackingNumber.e164)
    )
    flows = flow_names(session, client_id)
    found = {
        number.id: NumberLine(number, flows.get(number.flow_id or 0)) for number in TrackingNumberView.all(numbers)
    }
    now = house.now()
    runs_on = or_(func.upper_inf(Assignment.during), func.upper(Assignment.during) > now)
    resting = [number_id for number_id, line in found.items() if line.number.state in ("resting", *OUT_OF_USE)]
    sources = {one.id: one for one in sources_of(session, client_id)}
    held = session.execute(
        select(Assignment.number_id, Assignment.source_id, Assignment.during)
        .where(Assignment.client_id == client_id, or_(runs_on, Assignment.number_id.in_(resting)))
        .order_by(func.lower(Assignment.during).desc())
    )
    for number_id, source_id, during in held:
        line, since, until = found.get(number_id), during.lower, during.upper
        if line is None or since is None:
            continue
        holding = Holding(sources[source_id], since, until)
        if until is not None and until <= now:
            line.last = line.last or holding
        elif since <= now:
            line.now = holding
        else:
            line.planned = holding
    return list(found.values())


def flow_names(session: Session, client_id: int) -> dict[int, FlowNameView]:
    """A client's flows by id, without what is in them."""

    def read() -> dict[int, FlowNameView]:
        rows = session.execute(select(*FlowNameView.columns(CallFlow)).where(CallFlow.of(client_id)))
        return {flow.id: flow for flow in FlowNameView.all(rows)}

    return once(session, ("flow names", client_id), read)


def of_client(house: House, actor: Actor, client_id: int) -> list[NumberLine]:
    """A client's numbers, for whoever works for it."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return lines(session, house, client_id)


def untold(number: TrackingNumber | TrackingNumberView, client: Client | ClientView) -> str:
    """What stands between a number's fail-safe and the carrier, as the end of a sentence; empty when the carrier has it."""
    if number.fail_safe_said:
        return f"the carrier did not take it: {number.fail_safe_said}"
    return "" if number.fail_safe_told == (number.fail_safe or client.fail_safe) else "the carrier is being told"


def read_fail_safe(typed: str, client: Client, own: Iterable[str]) -> str | Problem:
    """The E.164 form of a fail-safe destination; empty for none. None of the numbers can be its own."""
    if not typed.strip():
        return ""
    read = numbering.parse(typed, client.country)
    if isinstance(read, numbering.Wrong):
        return Problem("fail_safe", read.sentence)
    return Problem("fail_safe", "A number cannot be its own fail-safe.") if read in own else read


def naming_facts(
    client: Client | ClientView, number: TrackingNumber | TrackingNumberView, source: LeadSource | LeadSourceView | None
) -> dict[str, str]:
    """What a naming pattern can say of a number."""
    tags = {tag: getattr(source, tag) if source else "" for tag in ("medium", "campaign", "placement")}
    place = "Toll-free" if number.kind == "toll_free" else number.place.split(",")[0]
    name = source.name if source else ""
    return {"client": client.name, "place": place, "source": name, "end": number.e164[-4:], **tags}


def given_names(
    session: Session,
    client: Client,
    numbers: Sequence[TrackingNumber],
    sources: Mapping[int, LeadSource],
    of: Sequence[int | None],
) -> list[str]:
    """The names that the client's pattern gives numbers, each of the source of the same place in `of`, made unique; empty
    without a pattern."""
    facts = [
        naming_facts(client, number, sources.get(source_id or 0)) for number, source_id in zip(numbers, of, strict=True)
    ]
    wanted = [naming.fill(client.naming_pattern, one) for one in facts]
    query = select(func.lower(TrackingNumber.name)).where(
        TrackingNumber.client_id == client.id, TrackingNumber.e164.not_in([number.e164 for number in numbers]),
        TrackingNumber.state.not_in(OUT_OF_USE), func.lower(TrackingNumber.name).in_({name.lower() for name in wanted}),
    )  # fmt: skip
    taken = set(session.scalars(query)) if any(wanted) else set()
    found = []
    for name, one in zip(wanted, facts, strict=True):
        found.append(naming.unique(name, one["end"], taken) if name else "")
        taken.add(found[-1].lower())
    return found


def own_number(session: Session, client_id: int, number_id: int) -> TrackingNumber:
    """A number of this client that is not released, locked; raises NotFound for any other."""
    number = session.get(TrackingNumber, number_id, with_for_update=True)
    if number is None or number.client_id != client_id or number.state in OUT_OF_USE:
        raise NotFound
    return number


def own_flow(session: Session, client_id: int, flow_id: int | None) -> CallFlow | None:
    """A flow of this client; raises NotFound for any other, None for none."""
    flow = session.get(CallFlow, flow_id) if flow_id is not None else None
    if flow_id is not None and (flow is None or flow.client_id != client_id):
        raise NotFound
    return flow


@dataclass(frozen=True, slots=True)
class RoutesView:
    """What the route map names: lanes of (source, number, flow) ids, 0 for what is missing, and what the ids stand for."""

    lanes: list[tuple[int, int, int]]
    sources: dict[int, LeadSourceView]
    numbers: dict[int, TrackingNumberView]
    flows: dict[int, FlowNameView]


def routes_view(house: House, actor: Actor, client_id: int) -> RoutesView:
    """The lanes of a client's route map: sources with their numbers, then sources and numbers that lack the other.
    A number that rests lacks nothing: it is a lane only by its calls."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        all_lines = lines(session, house, client_id)
        sources = {one.id: one for one in sources_of(session, client_id)}
        flows = flow_names(session, client_id)
    lanes = [(line.now.source.id, line.number.id, line.number.flow_id or 0) for line in all_lines if line.now]
    lanes.sort(key=lambda lane: (lane[2] == 0, lane[2], sources[lane[0]].name.lower()))
    unheld = [line.number for line in all_lines if line.now is None and line.number.state != "resting"]
    lanes += [(0, number.id, number.flow_id or 0) for number in unheld]
    held = {lane[0] for lane in lanes}
    lanes += [(one, 0, 0) for one in sources if one not in held]
    return RoutesView(
        lanes, sources, {line.number.id: line.number for line in all_lines},
        flows,
    )  # fmt: skip
