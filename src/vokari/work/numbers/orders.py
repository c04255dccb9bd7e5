"""Many numbers in one go: a number proposed for each lead source, then taken by the worker, a few at a time.

Each number is taken under a key of its own line, so a line that is tried again is never paid for twice.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.numbers import choosing, numbering
from ...formats.source_lists import Line, is_online
from ...store.agency import Client, User
from ...store.numbers import LeadSource, NumberOrder, NumberOrderLine, TrackingNumber
from ..agency.access import Actor, NotFound, allow, note
from ..house import jobs
from ..house.house import House
from ..house.ports import CarrierRefuses, FreeNumber
from ..house.problems import Problem, Problems, Refused
from ..house.views import NumberOrderLineView, NumberOrderView
from .free import MOST_LOOKED_AT, Taken, Wanted, in_use, keep, looked_up
from .numbers import OUT_OF_USE, own_flow
from .sources import TAGS, SourceForm, add_sources, check, sources_of

MOST = 500
CHUNK = 32
"""Numbers that the carrier is asked for, and that are written down, at a time; a stop takes effect after as many."""


_TAKEN = text(
    "UPDATE number_order_lines l SET state = 'taken', reason = '', number_id = v.number"
    " FROM unnest(CAST(:lines AS bigint[]), CAST(:numbers AS bigint[])) AS v (line, number) WHERE l.id = v.line"
)
_REFUSED = text(
    "UPDATE number_order_lines l SET state = 'refused', reason = v.reason"
    " FROM unnest(CAST(:lines AS bigint[]), CAST(:reasons AS text[])) AS v (line, reason) WHERE l.id = v.line"
)


@dataclass(frozen=True, slots=True)
class Proposal:
    """A number proposed for a source: which, its price, and why it (doubtful: the client's rule was not quite kept)."""

    free: FreeNumber
    reason: str
    doubtful: bool


@dataclass(frozen=True, slots=True)
class Row:
    """What is ordered: a lead source, new (`form`) or known (`source_id`), and the number it shall have."""

    e164: str
    form: SourceForm | None = None
    source_id: int | None = None


@dataclass(frozen=True, slots=True)
class OrderLine:
    """A line of an order with the name of its source."""

    line: NumberOrderLineView
    source: str


@dataclass(frozen=True, slots=True)
class Progress:
    """How far an order is."""

    order: NumberOrderView
    lines: list[OrderLine]

    def count(self, state: str) -> int:
        return sum(one.line.state == state for one in self.lines)

    @property
    def part(self) -> float:
        """The part that is done, from 0 to 1."""
        return 1 - self.count("waiting") / max(len(self.lines), 1)


def form_of(line: Line) -> SourceForm:
    """A lead source as a line of a list has it."""
    tags = {tag: line.fields.get(tag, "") for tag in TAGS}
    return SourceForm(line.fields.get("name", ""), online=is_online(line.fields), **tags)


def known_names(house: House, actor: Actor, client_id: int) -> dict[str, str]:
    """The names that are taken in a client, in small letters, with why, for reading a list."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return {one.name.lower(): "the client has this lead source already" for one in sources_of(session, client_id)}


@dataclass(frozen=True, slots=True)
class Offer:
    """Numbers proposed for several sources, and others that could be taken instead."""

    proposals: list[Proposal]
    alternatives: list[str]


ALTERNATIVES = 30


def propose(house: House, actor: Actor, client_id: int, wanted: Wanted, count: int) -> Offer | Problems:
    """A free number for each of `count` sources, by the client's rule; fewer where the carrier has no more."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        others = set(
            session.scalars(
                select(TrackingNumber.e164).where(
                    TrackingNumber.client_id == client_id, TrackingNumber.state.not_in(OUT_OF_USE)
                )
            )
        )
    found = looked_up(house, wanted, most=MOST_LOOKED_AT)
    if isinstance(found, Refused):
        return found.problems
    offers = {one.free.e164: one.free for one in found}
    likeness: choosing.Likeness = (
        "alike" if client.likeness == "alike" else "any" if client.likeness == "any" else "unlike"
    )
    choices = choosing.choose(offers.keys(), count, likeness, others)
    proposals = [Proposal(offers[one.e164], one.reason, one.doubtful) for one in choices]
    chosen = {one.e164 for one in choices}
    return Offer(proposals, [e164 for e164 in offers if e164 not in chosen][:ALTERNATIVES])


def usual_area_codes(house: House, actor: Actor, client_id: int) -> str:
    """The area code of most of a client's local numbers, where its rule keeps to one; empty otherwise."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        if client.country != "US" or not client.same_area:
            return ""
        code = func.substr(TrackingNumber.e164, 3, 3)
        query = (
            select(code)
            .where(
                TrackingNumber.client_id == client_id, TrackingNumber.kind == "local",
                TrackingNumber.e164.startswith("+1"), TrackingNumber.state.not_in(OUT_OF_USE),
            )
            .group_by(code)
            .order_by(func.count().desc(), code)
            .limit(1)
        )  # fmt: skip
        usual = session.scalar(query)
        return usual or (client.fail_safe[2:5] if client.fail_safe.startswith("+1") else "")


def place(
    house: House, actor: Actor, client_id: int, rows: Sequence[Row], flow_id: int | None
) -> NumberOrderView | Problems:
    """Makes the sources that are new and an order of their numbers, which the worker then takes."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        own_flow(session, client_id, flow_id)
        if not rows:
            return [Problem("", "Choose at least one lead source.")]
        if len(rows) > MOST:
            return [Problem("", f"At most {MOST} numbers in one go.")]
        wrong = [problem for row in rows if row.form for problem in check(row.form)]
        if wrong:
            return wrong
        numbers = [row.e164 for row in rows]
        twice = next((one for one in numbers if numbers.count(one) > 1), None)
        if twice:
            return [Problem("number", f"{twice} is chosen for two lead sources.")]
        order = NumberOrder(agency_id=actor.agency_id, client_id=client_id, made_by=actor.user_id, made_at=house.now())
        session.add(order)
        session.flush()
        try:
            with session.begin_nested():
                session.add_all(
                    NumberOrderLine(
                        agency_id=actor.agency_id, order_id=order.id, source_id=source, flow_id=flow_id, e164=row.e164
                    )
                    for row, source in zip(rows, _sources(session, actor, client_id, rows), strict=True)
                )  # fmt: skip
                session.flush()
        except IntegrityError:
            session.delete(order)
            return [Problem("name", "One of these lead sources was added meanwhile: look at the list again.")]
        note(session, house, actor, client_id, f"ordered {len(rows)} numbers")
        jobs.defer(session, "take_order", order_id=order.id)
        return NumberOrderView.of(order)


def _sources(session: Session, actor: Actor, client_id: int, rows: Sequence[Row]) -> list[int]:
    """The source of each row, made where it is new; raises NotFound for one that is not this client's."""
    known = {row.source_id for row in rows if row.form is None}
    own = select(LeadSource.id).where(LeadSource.client_id == client_id, LeadSource.id.in_(known))
    if known - set(session.scalars(own)):
        raise NotFound
    made = iter(add_sources(session, actor, client_id, [row.form for row in rows if row.form]))
    return [row.source_id or 0 if row.form is None else next(made).id for row in rows]


@dataclass(frozen=True, slots=True)
class _Chunk:
    """The next lines of an order, for whom and by whom, and why some of them cannot be taken at all."""

    client: Client
    actor: Actor
    lines: list[NumberOrderLine]
    problems: dict[int, str]


def run(house: House, order_id: int) -> None:
    """Takes the waiting numbers of an order until it is stopped, some at a time. Safe to run again at any point."""
    while chunk := _next_chunk(house, order_id):
        _write_down(house, chunk, _ask(house, chunk))


def _next_chunk(house: House, order_id: int) -> _Chunk | None:
    """The next lines that wait; None when the order is stopped or done."""
    with house.begin() as session:
        order = session.get(NumberOrder, order_id)
        if order is None or order.state != "running":
            return None
        lines = session.scalars(
            select(NumberOrderLine)
            .where(NumberOrderLine.order_id == order_id, NumberOrderLine.state == "waiting")
            .order_by(NumberOrderLine.id)
            .limit(CHUNK)
        ).all()
        if not lines:
            order.state = "done"
            return None
        client = session.get_one(Client, order.client_id)
        user = session.get_one(User, order.made_by)
        held = in_use(session, client, [line.e164 for line in lines])
        problems = {line.id: held[line.e164] for line in lines if line.e164 in held}
        return _Chunk(client, Actor(user.id, user.agency_id, "specialist", None, user.name), list(lines), problems)


def _ask(house: House, chunk: _Chunk) -> list[FreeNumber | str]:
    """For each line the number from the carrier, or why not. The keys are the lines' own, so asking twice pays once."""
    wanted = {line.e164: f"order-line-{line.id}" for line in chunk.lines if line.id not in chunk.problems}
    try:
        answers = house.carrier.take_many(wanted, fail_safe=chunk.client.fail_safe) if wanted else {}
    except CarrierRefuses as refusal:
        answers = dict.fromkeys(wanted, refusal.sentence)
    return [chunk.problems.get(line.id) or answers[line.e164] for line in chunk.lines]


def _write_down(house: House, chunk: _Chunk, answers: Sequence[FreeNumber | str]) -> None:
    """Keeps what was taken and why the rest was not, in one transaction."""
    with house.begin() as session:
        query = (
            select(NumberOrderLine.id)
            .where(NumberOrderLine.id.in_([line.id for line in chunk.lines]), NumberOrderLine.state == "waiting")
            .with_for_update()
        )
        waiting = set(session.scalars(query))
        answered = [pair for pair in zip(chunk.lines, answers, strict=True) if pair[0].id in waiting]
        taken = [(line, answer) for line, answer in answered if not isinstance(answer, str)]
        refused = [(line.id, answer) for line, answer in answered if isinstance(answer, str)]
        if not _keep(session, house, chunk, taken):
            refused += [
                (one[0].id, "Somebody took this number a moment ago.")
                for one in taken
                if not _keep(session, house, chunk, [one])
            ]
        if refused:
            lines, reasons = zip(*refused, strict=True)
            session.execute(_REFUSED, {"lines": list(lines), "reasons": list(reasons)})


def _keep(session: Session, house: House, chunk: _Chunk, taken: Sequence[tuple[NumberOrderLine, FreeNumber]]) -> bool:
    """Writes numbers down for their lines, all or none: false when somebody else's row was first."""
    rows = [Taken(answer, line.source_id, line.flow_id) for line, answer in taken]
    try:
        with session.begin_nested():
            numbers = keep(session, house, chunk.actor, chunk.client, rows)
    except IntegrityError:
        return False
    session.execute(_TAKEN, {"lines": [line.id for line, _ in taken], "numbers": [number.id for number in numbers]})
    return True


def progress(house: House, actor: Actor, client_id: int, order_id: int) -> Progress:
    """An order with its lines."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        order = _own(session, client_id, order_id)
        rows = session.execute(
            select(NumberOrderLine, LeadSource.name)
            .join(LeadSource, LeadSource.id == NumberOrderLine.source_id)
            .where(NumberOrderLine.order_id == order_id)
            .order_by(NumberOrderLine.id)
        ).all()
        return Progress(
            NumberOrderView.of(order), [OrderLine(NumberOrderLineView.of(line), name) for line, name in rows]
        )


def latest(house: House, actor: Actor, client_id: int) -> NumberOrderView | None:
    """The latest order of a client that is running or has numbers that the carrier refused."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        refused = select(NumberOrderLine.id).where(
            NumberOrderLine.order_id == NumberOrder.id, NumberOrderLine.state.in_(("waiting", "refused"))
        )
        return NumberOrderView.maybe(
            session.scalar(
                select(NumberOrder)
                .where(NumberOrder.client_id == client_id, refused.exists())
                .order_by(NumberOrder.id.desc())
                .limit(1)
            )
        )


def stop(house: House, actor: Actor, client_id: int, order_id: int) -> None:
    """Stops an order; numbers that are taken stay, those that wait are not taken."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        order = _own(session, client_id, order_id, lock=True)
        if order.state == "running":
            order.state = "stopped"
            note(session, house, actor, client_id, "stopped an order of numbers")


def again(house: House, actor: Actor, client_id: int, order_id: int, numbers: dict[int, str]) -> Problems:
    """Tries the lines that wait or were refused again, each with its number or another one (by the line's id)."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        order = _own(session, client_id, order_id, lock=True)
        lines = session.scalars(
            select(NumberOrderLine).where(
                NumberOrderLine.order_id == order_id, NumberOrderLine.state.in_(("waiting", "refused"))
            )
        ).all()
        read = [numbering.parse(numbers.get(line.id, line.e164), client.country) for line in lines]
        wrong = [Problem("number", one.sentence) for one in read if isinstance(one, numbering.Wrong)]
        if wrong:
            return wrong
        for line, e164 in zip(lines, read, strict=True):
            line.e164, line.state, line.reason = str(e164), "waiting", ""
        if lines:
            order.state = "running"
            jobs.defer(session, "take_order", order_id=order.id)
    return []


def _own(session: Session, client_id: int, order_id: int, *, lock: bool = False) -> NumberOrder:
    order = session.get(NumberOrder, order_id, with_for_update=lock)
    if order is None or order.client_id != client_id:
        raise NotFound
    return order
