"""Calls that neither side saw to their end: the carrier is asked how they stand, and its word is written down.

Events read what is stored only; these questions are asked by jobs, and never inside a transaction.
"""

from collections.abc import Mapping
from datetime import UTC, date, datetime, timedelta
from functools import partial
from uuid import UUID

import structlog
from sqlalchemy import RowMapping, func, select, text
from sqlalchemy.orm import Session

from ...core.flows.running.state import State
from ...formats.call_control.records import MOST_ASKED, CallRecord, CallStanding
from ...store.calls import CallDifference, LiveCall
from ...store.numbers import Carrier
from ..house.house import House
from ..house.open_pages import notify
from ..house.ports import CarrierRefuses
from ..house.problems import Row
from ..house.sweeps import each
from ..numbers.numbers import CARRIER
from . import closing, folding, live_calls
from .admitting import call_id, context_of, door_of, version_of
from .live_calls import CarrierIdentity

log = structlog.get_logger()

SILENT_AFTER = timedelta(seconds=20)
"""How long a call may give no sign before the carrier is asked about it: asked each minute, a talk is so confirmed within the
90 seconds for which it counts as busy (`ringers.CONFIRMED_WITHIN`)."""
ABANDONED_AFTER = timedelta(hours=4)
"""After so long a call is closed, whether or not the carrier can be asked."""

_LOCKED = text("SELECT * FROM live_calls WHERE carrier_id = :carrier AND ref = :ref FOR UPDATE")
_OVER = text("SELECT call_id FROM call_logs WHERE carrier_id = :carrier AND ref = :ref LIMIT 1")
_DAY = text(
    "SELECT l.ref, l.call_id, l.agency_id, c.client_id FROM call_logs l JOIN calls c ON c.id = l.call_id"
    " AND c.started_at = l.started_at WHERE l.carrier_id = :carrier AND l.started_at >= :since AND l.started_at < :until"
)


def settle(house: House) -> int:
    """Asks the carrier about all calls that have given no sign for a while: those that exist are confirmed, the others get
    their true end. Gives how many ended. Raises CarrierRefuses when it cannot be asked."""
    ended = 0
    with house.begin() as session:
        query = select(LiveCall.ref, LiveCall.carrier_id).where(
            LiveCall.alive_at < house.now() - SILENT_AFTER, ~LiveCall.gone
        )
        silent = session.execute(query.order_by(LiveCall.alive_at)).all()
        carriers = {one.id: CarrierIdentity(one.id, one.stand_in) for one in session.scalars(select(Carrier))}
    for start in range(0, len(silent), MOST_ASKED):
        some = {row.ref: carriers[row.carrier_id] for row in silent[start : start + MOST_ASKED]}
        answers = house.carrier.standing(list(some))
        exist = [one.call for one in answers if one.state == "exists"]
        with house.begin() as session:
            session.execute(
                text("UPDATE live_calls SET alive_at = :now WHERE ref = ANY(:refs)"),
                {"now": house.now(), "refs": exist},
            )
        over = [one for one in answers if one.state in ("over", "unknown")]
        ended += each("a call that is over could not be settled", over, partial(_end, house, some))
    return ended


def _end(house: House, carriers: Mapping[str, CarrierIdentity], standing: CallStanding) -> bool:
    """Ends a call as the carrier says: by its own last events where they came to nobody, else at the moment that it names."""
    carrier = carriers[standing.call]
    for message in standing.untold:
        body = message.model_dump_json().encode()
        live_calls.receive(house, carrier, message, body, late=True)
    record = standing.record
    with house.begin() as session:
        live = session.execute(_LOCKED, {"carrier": carrier.id, "ref": standing.call}).mappings().first()
        if live is None or live["gone"]:
            return bool(standing.untold)
        _close(session, house, live, record)
    return True


def _close(session: Session, house: House, live: RowMapping, record: CallRecord | None) -> None:
    last = folding.state_of(house, live)
    at = max(record.ended_at.astimezone(UTC), live["last_at"]) if record else live["last_at"]
    used = record if record and (record.fail_safe or not record.reached) else None
    closing.close(session, live, at, last, None, used)
    notify(session, live["agency_id"], live["client_id"], live["id"])


def take_records(house: House) -> int:
    """Asks for the calls that the carrier took to their fail-safe since it was last asked, and writes them down; gives how many
    there were. Raises CarrierRefuses when it cannot be asked."""
    taken = 0
    while True:
        with house.begin() as session:
            carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
        found = house.carrier.records(carrier.asked_after, fail_safe=True)
        taken += each(
            "a call at its fail-safe could not be written down",
            found.calls,
            partial(_recorded, house, CarrierIdentity(carrier.id, carrier.stand_in)),
        )
        if found.last > carrier.asked_after:
            with house.begin() as session:
                kept = session.get_one(Carrier, carrier.id, with_for_update=True)
                kept.asked_after = max(kept.asked_after, found.last)
        if not found.more or found.last <= carrier.asked_after:
            return taken


def _recorded(house: House, carrier: CarrierIdentity, one: CallRecord) -> bool:
    """A call that is in progress here is asked about, since its last events may be untold; any other gets its record."""
    with house.begin() as session:
        query = select(LiveCall.id).where(LiveCall.carrier_id == carrier.id, LiveCall.ref == one.call)
        in_progress = session.scalar(query) is not None
    if in_progress:
        return _end(house, {one.call: carrier}, house.carrier.standing([one.call])[0])
    return record(house, carrier.id, one) is not None


def record(house: House, carrier_id: int, one: CallRecord) -> UUID | None:
    """Gives a call that the carrier handled its record, once; None for one that has it already, or whose number is nobody's."""
    at, caller = one.at.astimezone(UTC), one.caller or ""
    with house.begin() as session:
        live_calls.gate(session, one.call)
        live = session.execute(_LOCKED, {"carrier": carrier_id, "ref": one.call}).mappings().first()
        if live is not None:
            if live["gone"]:
                return None
            _close(session, house, live, one)
            return UUID(str(live["id"]))
        if session.execute(_OVER, {"carrier": carrier_id, "ref": one.call}).first() is not None:
            return None
        door = door_of(session, carrier_id, one.called, caller, at)
        if door is None or (door["duty_line"] and not door["resting"]):
            return None
        made: Row = {
            "id": call_id(at), "carrier_id": carrier_id, "ref": one.call, "agency_id": door["agency_id"],
            "client_id": door["client_id"], "version_id": version_of(door), "started_at": at,
            "context": context_of(door, one.called, caller),
        }  # fmt: skip
        row, _ = closing.call_row(made, max(one.ended_at.astimezone(UTC), at), State(), [])
        closing.write(session, made, closing.at_fail_safe(row, one.fail_safe, reached=False), [])
        notify(session, made["agency_id"], made["client_id"], made["id"])
        return UUID(str(made["id"]))


def reconcile(house: House, day: date) -> int:
    """Compares a day's calls, of UTC, with the carrier's list: those missing here are written down, and every difference is kept
    for Today. Gives their count. Raises CarrierRefuses when the carrier cannot be asked."""
    since = datetime(day.year, day.month, day.day, tzinfo=UTC)
    until = since + timedelta(days=1)
    there: dict[str, CallRecord] = {}
    after, more = 0, True
    while more:
        found = house.carrier.records(after, fail_safe=False, since=since.isoformat(), until=until.isoformat())
        there |= {one.call: one for one in found.calls}
        after, more = max(after, found.last), found.more and found.last > after
    with house.begin() as session:
        carrier_id = session.scalars(select(Carrier.id).where(Carrier.name == CARRIER)).one()
        here = {
            row["ref"]: row
            for row in session.execute(_DAY, {"carrier": carrier_id, "since": since, "until": until}).mappings()
        }
        known = {
            *here,
            *session.scalars(select(LiveCall.ref).where(LiveCall.carrier_id == carrier_id)),
            *session.scalars(select(CallDifference.ref).where(CallDifference.carrier_id == carrier_id)),
        }
    missing = [one for ref, one in there.items() if ref not in known]
    unknown = [row for ref, row in here.items() if ref not in there]

    def missing_here(one: CallRecord) -> bool:
        made = record(house, carrier_id, one)
        return made is not None and _differs(house, carrier_id, one.call, day, "missing_here", made)

    differences = each("a call of the carrier’s list could not be written down", missing, missing_here)
    return differences + each(
        "a difference could not be kept", unknown,
        lambda row: _differs(house, carrier_id, row["ref"], day, "missing_there", row["call_id"]),
    )  # fmt: skip


def _differs(house: House, carrier_id: int, ref: str, day: date, kind: str, call: UUID) -> bool:
    with house.begin() as session:
        known = session.scalar(
            select(func.count()).where(CallDifference.carrier_id == carrier_id, CallDifference.ref == ref)
        )
        if known:
            return False
        owner = session.execute(text("SELECT agency_id, client_id FROM calls WHERE id = :call"), {"call": call}).one()
        session.add(CallDifference(
            agency_id=owner.agency_id, client_id=owner.client_id, carrier_id=carrier_id, ref=ref, day=day, kind=kind, call_id=call,
            at=house.now(),
        ))  # fmt: skip
        return True


def close_abandoned(house: House) -> int:
    """Closes calls that gave no sign for hours and that the carrier could not be asked about; gives their count."""
    with house.begin() as session:
        query = select(LiveCall.id).where(LiveCall.alive_at < house.now() - ABANDONED_AFTER)
        abandoned = session.scalars(query).all()

    def close(one: UUID) -> bool:
        with house.begin() as session:
            query = text("SELECT * FROM live_calls WHERE id = :call FOR UPDATE SKIP LOCKED")
            live = session.execute(query, {"call": one}).mappings().first()
            if live is None or live["alive_at"] >= house.now() - ABANDONED_AFTER:
                return False
            _close(session, house, live, None)
            return True

    return each("an abandoned call could not be closed", abandoned, close)


def follow(house: House) -> None:
    """What is done each minute, and when call control starts. A carrier that cannot be asked is asked again in a minute."""
    try:
        ended, recorded = settle(house), take_records(house)
    except CarrierRefuses as refusal:
        log.warning("the carrier cannot be asked about its calls", sentence=refusal.sentence)
        return
    if ended or recorded:
        log.info("calls settled with the carrier", ended=ended, at_the_fail_safe=recorded)
