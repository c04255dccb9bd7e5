"""Fail-safes: the destination that the carrier rings when Vokari cannot be reached, set here first and then told.

What is set is committed, and the carrier told by a job afterwards; each number says what the carrier answered.
"""

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...store.agency import Client
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, allow
from ..house import jobs
from ..house.house import House
from ..house.ports import CarrierRefuses
from .numbers import OUT_OF_USE, own_number


def put(session: Session, number: TrackingNumber, destination: str) -> None:
    """Sets a locked number's own destination, and has the carrier told."""
    number.fail_safe, number.fail_safe_said = destination, ""
    tell_later(session, number.id)


def tell_later(session: Session, number_id: int) -> None:
    """Has the carrier told once this is committed: one after the other for each number, so that the latest stands."""
    jobs.defer(session, "tell_fail_safe", lock=f"fail-safe-{number_id}", number_id=number_id)


def again(house: House, actor: Actor, client_id: int, number_id: int) -> None:
    """Tells the carrier once more what it has refused."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        own_number(session, client_id, number_id).fail_safe_said = ""
        tell_later(session, number_id)


def tell(house: House, number_id: int) -> None:
    """Tells the carrier a number's destination and writes down what it answered. Raises CarrierRefuses when it cannot be
    reached, so that the worker tries again."""
    with house.begin() as session:
        number = session.get(TrackingNumber, number_id)
        if number is None or number.state in OUT_OF_USE:
            return
        wanted, e164 = number.fail_safe or session.get_one(Client, number.client_id).fail_safe, number.e164
    refusal = None
    try:
        house.carrier.set_fail_safe(e164, wanted)
    except CarrierRefuses as refused:
        refusal = refused
    with house.begin() as session:
        kept = session.get_one(TrackingNumber, number_id, with_for_update=True)
        kept.fail_safe_said = refusal.sentence if refusal else ""
        if refusal is None:
            kept.fail_safe_told = wanted
    if refusal is not None and not refusal.gone:
        raise refusal


def tell_all(house: House, client_id: int) -> int:
    """Has the carrier told the client's destination for every number without one of its own; gives their count."""
    with house.begin() as session:
        query = select(TrackingNumber.id).where(
            TrackingNumber.client_id == client_id, TrackingNumber.fail_safe == "",
            TrackingNumber.state.not_in(OUT_OF_USE),
        )  # fmt: skip
        numbers = session.scalars(query).all()
        for number_id in numbers:
            tell_later(session, number_id)
        return len(numbers)
