"""Verification calls: a phone rings, whoever picks up presses a key, and the phone counts as verified from that day on."""

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, or_, select, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.numbers import numbering
from ...core.people.destinations import destinations
from ...store.agency import Agency, Client
from ...store.flows import CallFlow, FlowVersion
from ...store.people import Verification
from ..agency.access import Actor, allow, note
from ..house import jobs
from ..house.house import House
from ..house.ports import CarrierRefuses
from ..house.problems import Problem, Problems
from ..house.sweeps import each
from ..house.views import ClientView
from . import ringers

KEY = "1"
ONE_AT_A_TIME = timedelta(minutes=2)
"""A phone that is being rung is not rung again meanwhile; a call of which nothing was heard for so long is over."""

LOOK_AGAIN = timedelta(seconds=2)
"""How long after one look the next phone that waits is thought of."""

STATES = {
    "waiting": "waits its turn",
    "ringing": "ringing now",
    "pressed": "verified",
    "not_answered": "nobody answered",
    "not_pressed": "nobody pressed the key",
    "refused": "the carrier refused",
}

_VERIFIED = text(
    "SELECT destination, max(done_at) AS at FROM verifications WHERE client_id = :client AND state = 'pressed' GROUP BY destination"
)
_LATEST = text(
    "SELECT DISTINCT ON (destination) destination, state, words, asked_at FROM verifications WHERE client_id = :client"
    " ORDER BY destination, id DESC"
)


@dataclass(frozen=True, slots=True)
class Destination:
    """A phone that can be rung: whose it is in words, when it was last verified, and what became of the latest call to it,
    if that was no success; `waiting` for its turn among several."""

    to: str
    whose: list[str]
    verified: datetime | None
    latest: str
    ringing: bool
    waiting: bool = False


@dataclass(frozen=True, slots=True)
class Phones:
    """All phones of a client, those never verified first."""

    client: ClientView
    destinations: list[Destination]

    @property
    def under_way(self) -> bool:
        return any(one.ringing or one.waiting for one in self.destinations)

    @property
    def waiting(self) -> int:
        return sum(1 for one in self.destinations if one.waiting)

    @property
    def never(self) -> int:
        """How many were never verified."""
        return sum(1 for one in self.destinations if one.verified is None)

    @property
    def to_ring(self) -> int:
        """How many were never verified and are not about to be."""
        return sum(1 for one in self.destinations if one.verified is None and not (one.ringing or one.waiting))

    def of(self, to: str) -> Destination | None:
        return next((one for one in self.destinations if one.to == to), None)


def phones(house: House, actor: Actor, client_id: int) -> Phones:
    """Every phone that the client's people and flows can have rung, as it stands now; calls under way are asked after."""
    follow(house, client_id)
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        known = verified(session, client_id)
        latest = {row.destination: row for row in session.execute(_LATEST, {"client": client_id})}
        found = []
        for to, whose in destinations_of(session, house, client_id).items():
            last = latest.get(to)
            said = STATES.get(last.state, "") if last and last.state != "pressed" else ""
            words = f": {last.words}" if last and last.words else ""
            state = last.state if last else ""
            found.append(Destination(to, whose, known.get(to), said + words, state == "ringing", state == "waiting"))
        found.sort(key=lambda one: (one.verified is not None, one.whose[0]))
        return Phones(ClientView.of(client), found)


def verified(session: Session, client_id: int) -> dict[str, datetime]:
    """The phones of a client that were verified, with when that was last."""
    return {row.destination: row.at for row in session.execute(_VERIFIED, {"client": client_id})}


def ask(house: House, actor: Actor, client_id: int, to: str) -> Problems:
    """Rings a phone and asks for the key. Only phones that can be rung anyhow are."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        if to not in destinations_of(session, house, client_id):
            return [Problem("to", "No person and no flow of this client has this phone.")]
        if to in _under_way(session, house, client_id, "ringing"):
            return [Problem("to", "This phone is being rung already.")]
        row = _row(session, house, client, actor, to, "ringing")
        shown = numbering.shown(to, client.country) if to.startswith("+") else to
        note(session, house, actor, client_id, f"rang {shown} to verify it")
        session.flush()
        call = _call(session, row)
    refusal = _place(house, call)
    return [Problem("to", refusal)] if refusal else []


def ask_all(house: House, actor: Actor, client_id: int) -> Problems:
    """Has every phone that was never verified rung, one after the other, by jobs; those that wait already are left alone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        known = {*verified(session, client_id), *_under_way(session, house, client_id, "ringing", "waiting")}
        never = [to for to in destinations_of(session, house, client_id) if to not in known]
        if not never:
            return [Problem("to", "Every phone was verified, or is about to be rung.")]
        for to in never:
            _row(session, house, client, actor, to, "waiting")
        jobs.defer(session, "verify_next", client_id=client_id)
        count = "the phone" if len(never) == 1 else f"the {len(never)} phones"
        note(session, house, actor, client_id, f"has {count} never verified rung one after the other")
    return []


def stop(house: House, actor: Actor, client_id: int) -> None:
    """Rings no more of the phones that wait; the one that rings is not stopped."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        waiting = Verification.client_id == client_id, Verification.state == "waiting"
        if session.execute(delete(Verification).where(*waiting).returning(Verification.id)).all():
            note(session, house, actor, client_id, "stopped the verification calls that were to come")


def ring_next(house: House, client_id: int) -> bool:
    """Rings the next phone that waits, unless another of the client is being rung; whether there is more to do later."""
    if follow(house, client_id):
        return True
    with house.begin() as session:
        session.get_one(Client, client_id, with_for_update={"key_share": True})
        waiting = Verification.client_id == client_id, Verification.state == "waiting"
        row = session.scalar(select(Verification).where(*waiting).order_by(Verification.id).limit(1))
        if row is None or _under_way(session, house, client_id, "ringing"):
            return row is not None
        if row.destination not in destinations_of(session, house, client_id):
            session.delete(row)
            return True
        row.state, row.asked_at = "ringing", house.now()
        session.flush()
        call = _call(session, row)
    _place(house, call)
    return True


def ring_on(house: House, client_id: int) -> None:
    """As `ring_next`, and comes again a moment later until no phone waits."""
    if ring_next(house, client_id):
        with house.begin() as session:
            jobs.defer(session, "verify_next", after=house.now() + LOOK_AGAIN, client_id=client_id)


def waiting_clients(house: House) -> list[int]:
    """The clients of which phones wait to be rung."""
    with house.begin() as session:
        return list(session.scalars(select(Verification.client_id).where(Verification.state == "waiting").distinct()))


def _row(session: Session, house: House, client: Client, actor: Actor, to: str, state: str) -> Verification:
    row = Verification(
        agency_id=client.agency_id, client_id=client.id, destination=to, ref=uuid.uuid4().hex, asked_at=house.now(),
        asked_by=actor.user_id, state=state,
    )  # fmt: skip
    session.add(row)
    return row


def _under_way(session: Session, house: House, client_id: int, *states: str) -> set[str]:
    """The phones that are being rung, or wait to be; one of which nothing was heard for long is not."""
    since = house.now() - ONE_AT_A_TIME
    query = select(Verification.destination).where(
        Verification.client_id == client_id, Verification.state.in_(states),
        or_(Verification.state == "waiting", Verification.asked_at > since),
    )  # fmt: skip
    return set(session.scalars(query))


@dataclass(frozen=True, slots=True)
class _Call:
    """A verification call to place: its row, the phone, and what is said."""

    row: int
    ref: str
    to: str
    words: str


def _call(session: Session, row: Verification) -> _Call:
    agency, client = session.get_one(Agency, row.agency_id), session.get_one(Client, row.client_id)
    said = f"Hello. {agency.name} is checking that calls for {client.name} may ring this phone."
    return _Call(row.id, row.ref, row.destination, f"{said} If that is right, press {KEY}.")


def _place(house: House, call: _Call) -> str:
    """Has the carrier place a call that is written down; what it says against it, empty for nothing."""
    try:
        house.carrier.verify(call.ref, call.to, words=call.words, key=KEY)
    except CarrierRefuses as refusal:
        with house.begin() as session:
            failed = session.get_one(Verification, call.row)
            failed.state, failed.words, failed.done_at = "refused", refusal.sentence, house.now()
        return refusal.sentence
    return ""


def follow(house: House, client_id: int | None = None) -> int:
    """Asks after the calls under way, of one client or of all, and writes down what became of them; gives how many are
    still ringing."""
    with house.begin() as session:
        query = select(Verification).where(Verification.state == "ringing")
        if client_id is not None:
            query = query.where(Verification.client_id == client_id)
        open_ = [(one.id, one.ref, one.asked_at) for one in session.scalars(query)]
    return each("a verification call could not be followed", open_, lambda one: _rings_still(house, *one))


def _rings_still(house: House, row_id: int, ref: str, asked_at: datetime) -> bool:
    try:
        state = house.carrier.verification(ref)
    except CarrierRefuses:
        state = "ringing"
    if state == "ringing" and house.now() - asked_at > ONE_AT_A_TIME:
        state = "not_answered"
    if state == "ringing":
        return True
    with house.begin() as session:
        row = session.get_one(Verification, row_id, with_for_update=True)
        if row.state == "ringing":
            row.state, row.done_at = state if state in STATES else "refused", house.now()
    return False


def destinations_of(session: Session, house: House, client_id: int) -> dict[str, list[str]]:
    """Every phone that a client's people and flows can have rung, with whose it is."""
    people = ringers.people_of(session, house, client_id)
    query = (
        select(CallFlow.draft, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client_id))
        .order_by(CallFlow.name)
    )
    raw = [one for pair in session.execute(query) for one in pair if one]
    return destinations(people, [FlowDocument.model_validate(one) for one in raw])
