"""Live calls: one transaction an event. The log is the truth; the state beside it continues the call."""

import hashlib
import json
import random
import uuid
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import RowMapping, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core.flows import engine, questions, state
from ..core.flows.answering import answer_source
from ..core.flows.commands import Connect, RingLeg
from ..core.flows.document import FlowDocument
from ..core.flows.fallback import diverted, fallback_flow, resting_flow
from ..core.flows.steps import LookUp
from ..formats import call_log
from ..formats.call_control.messages import (
    CallArrived,
    CallerGone,
    EventMessage,
    LegChanged,
    RecordingFinished,
    Talked,
)  # fmt: skip
from ..formats.call_control.signature import VALID_SECONDS
from . import closing, dutyline, holding, jobs, lookups, notices, notifying, standing
from .house import House, Row
from .ringers import Ringers, dialed, note_work, on_call, people_of
from .speech import known_sounds

PREPARED_MOST = 2000


@dataclass(frozen=True, slots=True)
class Answered:
    """The commands for an event, as they were given the first time and are given for every repetition."""

    commands: list[Row]
    ended: bool


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
_EVENT = text("SELECT entry FROM live_events WHERE call_id = :call AND seq = :seq")
_LOG = text("SELECT entries FROM call_logs WHERE carrier_id = :carrier AND ref = :ref ORDER BY started_at DESC LIMIT 1")
_INSERT_EVENT = text("INSERT INTO live_events (call_id, seq, entry) VALUES (:call, :seq, CAST(:entry AS jsonb))")
_UPDATE = text(
    "UPDATE live_calls SET last_at = :at, last_seq = :seq, talking_to = :talking, state = CAST(:state AS jsonb)"
    " WHERE id = :call"
)
_INSERT_CALL = text(
    "INSERT INTO live_calls (id, carrier_id, ref, agency_id, client_id, version_id, started_at, last_at, last_seq,"
    " talking_to, context, state) VALUES (:id, :carrier, :ref, :agency, :client, :version, :at, :at, 0, NULL,"
    " CAST(:context AS jsonb), '{}')"
)
_DOOR = text(
    "SELECT n.id AS number_id, n.agency_id, n.client_id, n.flow_id, f.live_version_id AS version_id, c.time_zone, c.country,"
    " n.state = 'resting' AS resting, n.whisper, c.rest_words, c.rest_to,"
    " COALESCE(NULLIF(n.fail_safe, ''), c.fail_safe) AS fail_safe, c.duty_number = n.e164 AS duty_line,"
    " (SELECT a.source_id FROM assignments a WHERE a.number_id = n.id AND a.during @> CAST(:at AS timestamptz)) AS source_id,"
    " (SELECT a.source_id FROM assignments a WHERE n.state = 'resting' AND a.number_id = n.id"
    " AND lower(a.during) <= CAST(:at AS timestamptz) ORDER BY lower(a.during) DESC LIMIT 1) AS last_source_id,"
    " (SELECT s.phone FROM hours_switches s WHERE s.client_id = n.client_id AND s.kind = 'divert' AND s.since <= CAST(:at AS timestamptz)"
    " AND COALESCE(s.ended_at, s.until) > CAST(:at AS timestamptz) ORDER BY s.id DESC LIMIT 1) AS divert,"
    " EXISTS (SELECT 1 FROM test_phones t WHERE t.agency_id = n.agency_id AND t.e164 = :caller) AS test,"
    " (SELECT jsonb_object_agg(s.key, s.id) FROM lead_sources s WHERE s.client_id = n.client_id) AS sources"
    " FROM tracking_numbers n JOIN clients c ON c.id = n.client_id LEFT JOIN flows f ON f.id = n.flow_id"
    " WHERE n.e164 = :called AND n.carrier_id = :carrier AND n.state IN ('in_service', 'resting', 'porting_in')"
)
_VERSION = text("SELECT document FROM flow_versions WHERE id = :id")


def receive(house: House, carrier: CarrierIdentity, message: EventMessage, body: bytes) -> Answered | Refusal:
    """Folds one event into its call, or gives the stored answer of a repeated one, or says why it cannot be taken."""
    if not carrier.stand_in and abs((house.now() - message.at).total_seconds()) > VALID_SECONDS:
        return Refusal(422, "clock", "The event’s clock differs from the wall’s", "at lies more than 300 seconds away")
    digest = hashlib.sha256(body).hexdigest()
    try:
        return _receive(house, carrier, message, digest)
    except IntegrityError:
        return _receive(house, carrier, message, digest)


def _receive(house: House, carrier: CarrierIdentity, message: EventMessage, digest: str) -> Answered | Refusal:
    with house.begin() as session:
        live = session.execute(_LIVE, {"carrier": carrier.id, "ref": message.call}).mappings().first()
        if live is None:
            return _at_the_door(session, house, carrier, message, digest)
        if message.seq <= live["last_seq"]:
            entry = session.scalar(_EVENT, {"call": live["id"], "seq": message.seq})
            return _repeated(entry, digest)
        if message.seq > live["last_seq"] + 1:
            return _gap(live["last_seq"] + 1)
        if isinstance(message.event, CallArrived):
            return Refusal(409, "arrived-twice", "The call has arrived before", expected_seq=live["last_seq"] + 1)
        return _fold(session, house, live, message, digest)


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
    entries = session.scalar(_LOG, {"carrier": carrier.id, "ref": message.call})
    if entries is not None:
        if message.seq <= len(entries):
            return _repeated(entries[message.seq - 1], digest)
        return Answered([], ended=True) if message.seq == len(entries) + 1 else _gap(len(entries) + 1)
    if not isinstance(message.event, CallArrived):
        return Refusal(404, "unknown-call", "Nobody knows this call", "a call begins with call_arrived, number 1", 1)
    if message.seq != 1:
        return _gap(1)
    live = _admit(session, house, carrier, message, message.event)
    return live if isinstance(live, Refusal) else _fold(session, house, live, message, digest)


def _admit(
    session: Session, house: House, carrier: CarrierIdentity, message: EventMessage, arrived: CallArrived
) -> Row | Refusal:
    """Writes down a new call with what is true of it from now on: flow version, lead source, whether it counts."""
    at = message.at.astimezone(UTC)
    values = {"called": arrived.called, "caller": arrived.caller or "", "at": at, "carrier": carrier.id}
    door = session.execute(_DOOR, values).mappings().first()
    if door is None:
        return Refusal(404, "unknown-number", "This number is not in service here", f"nobody has {arrived.called}")
    resting = bool(door["resting"])
    version_id = None if resting or door["duty_line"] else door["version_id"]
    context = {
        "caller": arrived.caller or "", "called": arrived.called, "number_id": door["number_id"],
        "flow_id": door["flow_id"] if version_id else None, "test": door["test"], "late": resting,
        "source_id": door["last_source_id"] if resting else door["source_id"], "whisper": door["whisper"],
        "divert": "" if resting else door["divert"] or "",
        "time_zone": door["time_zone"], "sources": door["sources"] or {},
        "fallback": None if version_id else _fallback(door, resting=resting).model_dump(mode="json"),
    }  # fmt: skip
    if door["duty_line"] and not resting:
        person = dutyline.caller(session, door["client_id"], arrived.caller or "")
        context["duty"], context["divert"] = person.key if person else "", ""
        context["fallback"] = dutyline.document(session, house, person, _language(door)).model_dump(mode="json")
    live = {
        "id": call_id(at), "carrier": carrier.id, "ref": message.call, "agency": door["agency_id"],
        "client": door["client_id"], "version": version_id, "at": at, "context": json.dumps(context),
    }  # fmt: skip
    session.execute(_INSERT_CALL, live)
    return {
        "id": live["id"], "carrier_id": carrier.id, "ref": message.call, "agency_id": door["agency_id"],
        "client_id": door["client_id"], "version_id": version_id, "started_at": at, "last_at": at,
        "last_seq": 0, "talking_to": None, "context": context, "state": {},
    }  # fmt: skip


def _fallback(door: RowMapping, *, resting: bool) -> FlowDocument:
    """What runs where no version does: the line of a resting number, or the way to the fail-safe."""
    if resting:
        return resting_flow(door["rest_words"], door["rest_to"], _language(door))
    return fallback_flow(door["fail_safe"], _language(door))


def _language(door: RowMapping) -> str:
    return "en-GB" if door["country"] == "GB" else "en-US"


def call_id(at: datetime) -> uuid.UUID:
    """A new call's id: UUID version 7 (RFC 9562), so that ids sort by the moment of the call."""
    milliseconds = int(at.timestamp() * 1000) & ((1 << 48) - 1)
    drawn = uuid.uuid4().int & ((1 << 74) - 1)
    value = (milliseconds << 80) | (0x7 << 76) | ((drawn >> 62) << 64) | (0b10 << 62) | (drawn & ((1 << 62) - 1))
    return uuid.UUID(int=value)


def _fold(session: Session, house: House, live: Row | RowMapping, message: EventMessage, digest: str) -> Answered:
    flow = flow_of(session, house, live["version_id"], live["context"]["fallback"])
    if live["context"].get("divert"):
        flow = diverted(flow, live["context"]["divert"])
    at = max(message.at.astimezone(UTC), live["last_at"])
    before = state.load(live["state"])
    event = message.event.to_core()
    ringers = partial(_ringers, session, house, live, at)
    lines = holding.HoldLines(session, live, at, ringers)
    held = holding.has_lines(flow) or (before.phase == "talking" and holding.any_lines(session, live["client_id"]))
    if held:
        lines.gate()
    following, answers = engine.run(flow, before, event, _answers_for(session, house, live, flow, at, lines, before))
    sounds = known_sounds(session, following.commands)
    talking = _talking_to(before, following, flow, live["talking_to"])
    whisper = live["context"]["whisper"]
    entry = call_log.entry(
        message.seq,
        at.isoformat(),
        event,
        answers,
        following,
        sounds,
        digest,
        whisper,
        _fields(session, house, live, following),
    )
    if message.seq == 1 and live["context"]["fallback"]:
        entry["fallback"] = live["context"]["fallback"]
    if message.seq == 1 and live["context"]["divert"]:
        entry["divert"] = live["context"]["divert"]
    values = {"call": live["id"], "seq": message.seq}
    if not live["context"]["test"] and "duty" not in live["context"]:
        note_work(session, live["client_id"], ZoneInfo(live["context"]["time_zone"]), at, before, event, following)
    if isinstance(message.event, LegChanged | CallerGone) and message.event.recording:
        keep_recording(session, live, at, message.event)
    if isinstance(message.event, RecordingFinished) and following.state.message and not before.message:
        keep_message(session, live, at, message.event, before, flow)
    if "duty" in live["context"]:
        dutyline.follow(session, house, live, following.way)
    if not live["context"]["test"]:
        notifying.follow(session, house, live, message.seq, flow, following)
    somebody_free = held and lines.follow(before, event, following.state)
    if following.state.ended:
        if any(isinstance(step, LookUp) for step in flow.steps.values()):
            lookups.forget(session, live)
        closing.close(session, live, at, following.state, entry)
    else:
        session.execute(_INSERT_EVENT, {**values, "entry": json.dumps(entry)})
        dumped = json.dumps(state.dump(following.state))
        session.execute(_UPDATE, {**values, "at": at, "talking": talking, "state": dumped})
    if somebody_free:
        lines.tell()
    notices.notify(session, live["agency_id"], live["client_id"], live["id"])
    return Answered(entry["commands"], following.state.ended)


def _answers_for(
    session: Session,
    house: House,
    live: Row | RowMapping,
    flow: engine.Flow,
    at: datetime,
    lines: holding.HoldLines,
    before: state.State,
) -> questions.AnswerSource:
    """The client's hours at the call's own clock; a phone that is connected in another call of the agency is on a call."""
    people = _ringers(session, house, live, at)
    return answer_source(
        flow,
        at,
        people.zone,
        people.tables,
        people.busy,
        people.staff(live["context"]["flow_id"]),
        lines.turn,
        _one_in_hundred,
        lookups.LookUps(session, house, live, before).answer,
    )


def _one_in_hundred(count: int) -> bool:
    """Whether this is one of so many calls in a hundred, drawn anew for each."""
    return random.randrange(100) < count


def _ringers(session: Session, house: House, live: Row | RowMapping, at: datetime) -> Ringers:
    """The client's people as they are for this call."""
    busy = on_call(session, live["agency_id"])
    hours = standing.Standings(session, house, live["client_id"], at)
    zone = ZoneInfo(live["context"]["time_zone"])
    counts = not live["context"]["test"]
    return Ringers(
        session, house, live["client_id"], at, zone, hours.table, busy, counts=counts, caller=live["context"]["caller"]
    )


def _talking_to(before: state.State, after: engine.Next, flow: engine.Flow, known: str | None) -> str | None:
    """The number that is connected after this event."""
    if after.state.phase != "talking":
        return None
    winner = next((one.id for one in after.commands if isinstance(one, Connect)), None)
    legs = before.ring.legs if before.ring else ()
    leg = next((one for one in legs if one.command == winner), None)
    step = flow.steps.get(after.state.at)
    if leg is None or step is None:
        return known
    return dialed(leg, step) or known


def keep_message(
    session: Session,
    live: Row | RowMapping,
    at: datetime,
    event: RecordingFinished,
    before: state.State,
    flow: engine.Flow,
) -> None:
    """Writes down a message and queues fetching its sound and telling those whom the mailbox names."""
    step = flow.steps.get(before.at)
    message_id = session.scalar(
        text(
            "INSERT INTO voice_messages (agency_id, client_id, call_id, at, mailbox, seconds, recording, file, told)"
            " VALUES (:agency, :client, :call, :at, :mailbox, :seconds, :recording, '', false) RETURNING id"
        ),
        {
            "agency": live["agency_id"], "client": live["client_id"], "call": live["id"], "at": at,
            "mailbox": getattr(step, "mailbox", None) or "", "seconds": event.voice_seconds, "recording": event.recording,
        },
    )  # fmt: skip
    if not live["context"]["test"]:
        jobs.defer(session, "tell_of_message", message_id=int(message_id or 0))
    jobs.defer(session, "fetch_message", message_id=int(message_id or 0))


def keep_recording(session: Session, live: Row | RowMapping, at: datetime, event: Talked) -> None:
    """Writes down the recording of a talk and queues fetching its sound."""
    recording_id = session.scalar(
        text(
            "INSERT INTO call_recordings (agency_id, client_id, call_id, at, seconds, recording, file)"
            " VALUES (:agency, :client, :call, :at, :seconds, :recording, '') RETURNING id"
        ),
        {
            "agency": live["agency_id"], "client": live["client_id"], "call": live["id"], "at": at,
            "seconds": event.recorded_seconds, "recording": event.recording,
        },
    )  # fmt: skip
    jobs.defer(session, "fetch_recording", recording_id=int(recording_id or 0))


def _fields(session: Session, house: House, live: Row | RowMapping, after: engine.Next) -> dict[str, str]:
    """What a whisper can name; looked up only where one does."""
    if not any("{" in one.whisper for one in after.commands if isinstance(one, RingLeg)):
        return {}
    return notifying.fields(session, live, after.state, people_of(session, house, live["client_id"]))


def flow_of(session: Session, house: House, version_id: int | None, fallback: Row | None) -> engine.Flow:
    """A version made ready to run, or the small flow of a number that has none."""
    if version_id is None:
        return engine.prepare(FlowDocument.model_validate(fallback))
    flow = house.prepared.get(version_id)
    if flow is None:
        document: Any = session.scalar(_VERSION, {"id": version_id})
        flow = engine.prepare(FlowDocument.model_validate(document))
        if len(house.prepared) >= PREPARED_MOST:
            house.prepared.clear()
        house.prepared[version_id] = flow
    return flow
