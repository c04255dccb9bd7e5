"""The duty line: people call a number of the client from their own phone, key in their PIN, and switch themselves on or off.

PINs are kept nowhere: each follows from the application's secret, the person, and a version that renews it.
"""

import hashlib
import hmac
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.ready import duty_line
from ...core.flows.running.turn import Passage
from ...core.numbers import numbering
from ...store.agency import AuditEntry
from ...store.numbers import Assignment, TrackingNumber
from ...store.people import DutyRow, PersonRow
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..house.views import PersonView, TrackingNumberView
from . import on_duty

DIGITS = 6
MOST_WRONG = 10
"""So many wrong PINs in a row from somebody's phone shut the line to them until the PIN is renewed."""

_CALLER = text(
    "SELECT id FROM people WHERE client_id = :client AND removed_at IS NULL AND EXISTS (SELECT 1 FROM"
    " jsonb_array_elements(document -> 'phones') AS phone WHERE phone ->> 'to' = :caller) ORDER BY id LIMIT 1"
)


def pin(house: House, person: PersonRow | PersonView) -> str:
    """A person's PIN."""
    return _pin(house, person.id, person.pin_version)


def _pin(house: House, person_id: int, version: int) -> str:
    said = f"pin {person_id} {version}".encode()
    return f"{int(hmac.new(house.secret, said, hashlib.sha256).hexdigest(), 16) % 10**DIGITS:0{DIGITS}d}"


def renew(house: House, actor: Actor, client_id: int, person_id: int) -> None:
    """Gives a person another PIN; the old one ends, and wrong ones are forgotten."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        person = session.get(PersonRow, person_id, with_for_update=True)
        if person is None or person.client_id != client_id or person.removed_at is not None:
            raise NotFound
        person.pin_version += 1
        duty = session.get(DutyRow, (client_id, person.key))
        if duty is not None:
            duty.wrong_pins = 0
        note(session, house, actor, client_id, f"renewed the PIN of {person.name}")


def choices(house: House, actor: Actor, client_id: int) -> list[TrackingNumberView]:
    """The numbers that can be the duty line: in service, without a flow, and given to no lead source."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return TrackingNumberView.all(_choices(session, house, client_id))


def _choices(session: Session, house: House, client_id: int) -> list[TrackingNumber]:
    given = select(Assignment.number_id).where(Assignment.during.contains(house.now()))
    query = select(TrackingNumber).where(
        TrackingNumber.client_id == client_id, TrackingNumber.state == "in_service", TrackingNumber.flow_id.is_(None),
        TrackingNumber.id.not_in(given),
    )  # fmt: skip
    return list(session.scalars(query.order_by(TrackingNumber.e164)))


def choose(house: House, actor: Actor, client_id: int, e164: str) -> Problems:
    """Makes a number of the client its duty line; empty for none."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        if e164 and e164 not in {one.e164 for one in _choices(session, house, client_id)}:
            return [Problem("duty_number", "Choose a number in service that no flow and no lead source has.")]
        client.duty_number = e164
        shown = numbering.shown(e164, client.country) if e164 else "no number"
        note(session, house, actor, client_id, f"made {shown} the duty line")
    return []


# in a call


def caller(session: Session, client_id: int, number: str) -> PersonRow | None:
    """Whose phone somebody calls from."""
    found = session.scalar(_CALLER, {"client": client_id, "caller": number}) if number else None
    return session.get(PersonRow, found) if found else None


def facts(session: Session, person: PersonRow | None) -> Row:
    """What is true of whoever calls the duty line when they call: all that their flow is made of, but the PIN."""
    if person is None:
        return {"person": ""}
    duty = session.get(DutyRow, (person.client_id, person.key))
    return {
        "person": person.key, "name": person.name, "id": person.id, "pin_version": person.pin_version,
        "off": bool(duty and duty.off), "shut": bool(duty and duty.wrong_pins >= MOST_WRONG),
    }  # fmt: skip


def document(house: House, known: Row, language: str) -> FlowDocument:
    """What a caller of the duty line meets, made of their `facts` anew at each event, so that their PIN is kept nowhere."""
    if not known["person"]:
        return duty_line.refused("This line is for staff, from a phone that is known. Goodbye.", language)
    if known["shut"]:
        return duty_line.refused(
            "There were too many wrong PINs from this phone. Ask for a new one. Goodbye.", language
        )
    right = _pin(house, known["id"], known["pin_version"])
    return duty_line.duty_flow(known["name"], right, off=known["off"], language=language)


def without_keys(entry: Row) -> Row:
    """An entry of the log of such a call, without what was keyed in and the way that tells of it."""
    return {**entry, "event": {"kind": entry["event"]["kind"]}, "way": []}


def follow(session: Session, house: House, live: Row | Any, way: tuple[Passage, ...]) -> None:
    """Does what the steps say that a call of the duty line came to."""
    key = live["context"]["duty"]["person"]
    steps = [step for _, step in way]
    person = session.scalar(select(PersonRow).where(PersonRow.client_id == live["client_id"], PersonRow.key == key))
    if person is None:
        return
    for step in steps:
        if step in (duty_line.SWITCH_OFF, duty_line.SWITCH_ON):
            off = step == duty_line.SWITCH_OFF
            if on_duty.set_off(session, house, person, off=off):
                said = f"{person.name} switched themselves {'off' if off else 'on'} by phone"
                session.add(AuditEntry(
                    agency_id=person.agency_id, client_id=person.client_id, user_id=None, at=house.now(), words=said, detail={}
                ))  # fmt: skip
        elif step in (duty_line.RIGHT, duty_line.WRONG):
            duty = session.get(DutyRow, (person.client_id, person.key), with_for_update=True)
            if duty is None:
                duty = DutyRow(
                    client_id=person.client_id, person=person.key, taken=0, missed=0, off=False, wrong_pins=0
                )
                session.add(duty)
            duty.wrong_pins = 0 if step == duty_line.RIGHT else duty.wrong_pins + 1
            session.flush()
