"""Live calls: one transaction an event. The log is the truth; the state beside it continues the call."""

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import text
from sqlalchemy.exc import DBAPIError, IntegrityError
from sqlalchemy.orm import Session

from ...formats.call_control.messages import CallArrived, EventMessage
from ...formats.call_control.signature import VALID_SECONDS
from ..house import sealed
from ..house.house import House
from ..house.problems import Row
from .admitting import admit
from .folding import Answered, Happened, fold


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why an event cannot be taken: the HTTP status, a problem's kind and title, and the sequence number expected."""

    status: int
    kind: str
    title: str
    detail: str = ""
    expected_seq: int | None = None


@dataclass(frozen=True, slots=True)
class CarrierIdentity:
    """The carrier whose signature an event carries."""

    id: int
    stand_in: bool


_LIVE = text("SELECT * FROM live_calls WHERE carrier_id = :carrier AND ref = :ref FOR UPDATE")
_GATE = text("SELECT pg_advisory_xact_lock(hashtext(:ref))")
_EVENT = text("SELECT entry FROM live_events WHERE call_id = :call AND seq = :seq")
_LOG = text("SELECT entries FROM call_logs WHERE carrier_id = :carrier AND ref = :ref ORDER BY started_at DESC LIMIT 1")


def receive(
    house: House, carrier: CarrierIdentity, message: EventMessage, body: bytes, *, late: bool = False
) -> Answered | Refusal:
    """Folds one event into its call, or gives the stored answer of a repeated one, or says why it cannot be taken. Taken again it is
    the same event, so a connection that broke is no reason to send the carrier away. `late`: the
    carrier told of it when it was asked, so that its clock may differ."""
    if not late and not carrier.stand_in and abs((house.now() - message.at).total_seconds()) > VALID_SECONDS:
        return Refusal(422, "clock", "The event’s clock differs from the wall’s", "at lies more than 300 seconds away")
    digest = sealed.digest(house, body)
    try:
        return _receive(house, carrier, message, digest)
    except IntegrityError:
        return _receive(house, carrier, message, digest)
    except DBAPIError as error:
        if not error.connection_invalidated:
            raise
        return _receive(house, carrier, message, digest)


def _receive(house: House, carrier: CarrierIdentity, message: EventMessage, digest: str) -> Answered | Refusal:
    with house.begin() as session:
        live = session.execute(_LIVE, {"carrier": carrier.id, "ref": message.call}).mappings().first()
        if live is None:
            return _at_the_door(session, house, carrier, message, digest)
        if live["gone"] and message.seq > live["last_seq"]:
            return Answered([], ended=True)
        if message.seq <= live["last_seq"]:
            entry = session.scalar(_EVENT, {"call": live["id"], "seq": message.seq})
            return _repeated(entry, digest)
        if message.seq > live["last_seq"] + 1:
            return _gap(live["last_seq"] + 1)
        if isinstance(message.event, CallArrived):
            return Refusal(409, "arrived-twice", "The call has arrived before", expected_seq=live["last_seq"] + 1)
        return fold(session, house, live, _happened(message, digest, live["last_at"]))


def _happened(message: EventMessage, digest: str, last_at: datetime) -> Happened:
    """The event as the call hears it; its clock never goes back."""
    at = max(message.at.astimezone(UTC), last_at)
    return Happened(message.seq, at, message.event.to_core(), message.event, digest)


def gate(session: Session, ref: str) -> None:
    """Waits until nobody else writes down a call of this name: it is in progress or over, never both."""
    session.execute(_GATE, {"ref": ref})


def _gap(expected: int) -> Refusal:
    return Refusal(409, "sequence-gap", "An event is missing", f"the next event is number {expected}", expected)


def _repeated(entry: Row | None, digest: str) -> Answered | Refusal:
    """The stored commands of an event that came before, if it is the same to the byte."""
    if entry is None or entry["digest"] != digest:
        return Refusal(
            409, "sequence-reused", "Another event has this number", "the same number came with another body"
        )
    return Answered(entry["commands"], entry["ended"])


def _at_the_door(
    session: Session, house: House, carrier: CarrierIdentity, message: EventMessage, digest: str
) -> Answered | Refusal:
    """An event of a call that is not in progress: a new call, one that is over, or one nobody knows."""
    if message.seq == 1:
        gate(session, message.call)
    entries = session.scalar(_LOG, {"carrier": carrier.id, "ref": message.call})
    if entries is not None:
        if message.seq <= len(entries):
            return _repeated(entries[message.seq - 1], digest)
        return Answered([], ended=True) if message.seq == len(entries) + 1 else _gap(len(entries) + 1)
    if not isinstance(message.event, CallArrived):
        return Refusal(404, "unknown-call", "Nobody knows this call", "a call begins with call_arrived, number 1", 1)
    if message.seq != 1:
        return _gap(1)
    live = admit(session, house, carrier.id, message, message.event)
    if live is None:
        detail = f"nobody has {message.event.called}" if message.event.called else "this phone was not to be rung"
        return Refusal(404, "unknown-number", "This number is not in service here", detail)
    return fold(session, house, live, _happened(message, digest, live["last_at"]))
