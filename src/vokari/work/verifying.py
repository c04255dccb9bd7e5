"""Verification calls: a phone rings, whoever picks up presses a key, and the phone counts as verified from that day on."""

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ..core import numbering
from ..core.flows.document import FlowDocument
from ..core.ringing.destinations import destinations
from ..store.agency import Agency, Client
from ..store.flows import CallFlow, FlowVersion
from ..store.verifications import Verification
from . import ringers
from .access import Actor, allow, note
from .house import CarrierRefuses, House, Problem, Problems
from .sweeps import each

KEY = "1"
ONE_AT_A_TIME = timedelta(minutes=2)
"""A phone that is being rung is not rung again meanwhile; a call of which nothing was heard for so long is over."""

STATES = {
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
    if that was no success."""

    to: str
    whose: list[str]
    verified: datetime | None
    latest: str
    ringing: bool


@dataclass(frozen=True, slots=True)
class Phones:
    """All phones of a client, those never verified first."""

    client: Client
    destinations: list[Destination]

    @property
    def ringing(self) -> bool:
        return any(one.ringing for one in self.destinations)

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
        for to, whose in _destinations(session, house, client_id).items():
            last = latest.get(to)
            said = STATES.get(last.state, "") if last and last.state != "pressed" else ""
            words = f": {last.words}" if last and last.words else ""
            found.append(Destination(to, whose, known.get(to), said + words, bool(last and last.state == "ringing")))
        found.sort(key=lambda one: (one.verified is not None, one.whose[0]))
        return Phones(client, found)


def verified(session: Session, client_id: int) -> dict[str, datetime]:
    """The phones of a client that were verified, with when that was last."""
    return {row.destination: row.at for row in session.execute(_VERIFIED, {"client": client_id})}


def ask(house: House, actor: Actor, client_id: int, to: str) -> Problems:
    """Rings a phone and asks for the key. Only phones that can be rung anyhow are."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        if to not in _destinations(session, house, client_id):
            return [Problem("to", "No person and no flow of this client has this phone.")]
        now = house.now()
        under_way = select(Verification.id).where(
            Verification.client_id == client_id, Verification.destination == to, Verification.state == "ringing",
            Verification.asked_at > now - ONE_AT_A_TIME,
        )  # fmt: skip
        if session.scalar(under_way):
            return [Problem("to", "This phone is being rung already.")]
        row = Verification(
            agency_id=client.agency_id, client_id=client_id, destination=to, ref=uuid.uuid4().hex, asked_at=now,
            asked_by=actor.user_id, state="ringing",
        )  # fmt: skip
        session.add(row)
        agency = session.get_one(Agency, client.agency_id)
        words = f"Hello. {agency.name} is checking that calls for {client.name} may ring this phone. If that is right, press {KEY}."
        shown = numbering.shown(to, client.country) if to.startswith("+") else to
        note(session, house, actor, client_id, f"rang {shown} to verify it")
        session.flush()
        row_id, ref = row.id, row.ref
    try:
        house.carrier.verify(ref, to, words=words, key=KEY)
    except CarrierRefuses as refusal:
        with house.begin() as session:
            failed = session.get_one(Verification, row_id)
            failed.state, failed.words, failed.done_at = "refused", refusal.sentence, house.now()
        return [Problem("to", refusal.sentence)]
    return []


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


def _destinations(session: Session, house: House, client_id: int) -> dict[str, list[str]]:
    people = ringers.people_of(session, house, client_id)
    query = (
        select(CallFlow.draft, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.client_id == client_id)
        .order_by(CallFlow.name)
    )
    raw = [one for pair in session.execute(query) for one in pair if one]
    return destinations(people, [FlowDocument.model_validate(one) for one in raw])
