"""The door: what is true of a call when it arrives, from its number, and the row of a new call in progress."""

import json
import uuid
from collections.abc import Mapping
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.ready.fallback import fallback_flow, resting_flow
from ...core.flows.running import engine
from ...formats.call_control.messages import CallArrived, EventMessage
from ...store.agency import Client
from ..flows import ready as versions
from ..flows.open_drafts import as_spoken
from ..house.house import House
from ..house.problems import Row
from ..people import duty_line
from ..prompts import by_telephone
from ..prompts.playing import Chosen

_INSERT_CALL = text(
    "INSERT INTO live_calls (id, carrier_id, ref, agency_id, client_id, version_id, started_at, last_at, last_seq,"
    " talking_to, alive_at, gone, context, state) VALUES (:id, :carrier_id, :ref, :agency_id, :client_id, :version_id,"
    " :started_at, :last_at, 0, NULL, :alive_at, false, CAST(:context AS jsonb), '{}')"
)
_DOOR = text(
    "SELECT n.id AS number_id, n.agency_id, n.client_id, n.flow_id, f.live_version_id AS version_id, c.time_zone, c.country,"
    " CASE WHEN f.draft_until > CAST(:at AS timestamptz) THEN f.draft END AS draft,"
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


def door_of(session: Session, carrier_id: int, called: str, caller: str, at: datetime) -> RowMapping | None:
    """What a number is at a moment: whose, which flow, which lead source, and whether the caller is a test phone; None for
    one that is not in service."""
    values = {"called": called, "caller": caller, "at": at, "carrier": carrier_id}
    return session.execute(_DOOR, values).mappings().first()


def context_of(
    door: RowMapping, called: str, caller: str, pins: Mapping[str, int] | None = None, takes: Chosen | None = None
) -> Row:
    """What is true of a call from its arrival on, as `live_calls.context` keeps it; `pins` are the versions of inner flows, `takes` those
    of the prompts."""
    resting = bool(door["resting"])
    version_id = version_of(door)
    return {
        "caller": caller, "called": called, "number_id": door["number_id"],
        "flow_id": door["flow_id"] if version_id else None, "test": door["test"], "late": resting,
        "source_id": door["last_source_id"] if resting else door["source_id"], "whisper": door["whisper"],
        "divert": "" if resting else door["divert"] or "",
        "time_zone": door["time_zone"], "country": door["country"], "sources": door["sources"] or {},
        **({"pins": pins} if pins else {}), **({"takes": takes} if takes else {}),
        "fallback": None if version_id else _fallback(door, resting=resting).model_dump(mode="json"),
    }  # fmt: skip


def version_of(door: RowMapping) -> int | None:
    """The live version that a call of this number runs on; None for a resting number, a duty line, and one without a flow."""
    version: int | None = None if door["resting"] or door["duty_line"] else door["version_id"]
    return version


def admit(session: Session, house: House, carrier_id: int, message: EventMessage, arrived: CallArrived) -> Row | None:
    """Writes down a new call with what is true of it from now on; None where nobody has the number."""
    at, caller = message.at.astimezone(UTC), arrived.caller or ""
    if arrived.called is None:
        spoken = by_telephone.admitted(session, house, arrived.rung, caller)
        return _written(session, house, carrier_id, message, at, *spoken, version_id=None) if spoken else None
    door = door_of(session, carrier_id, arrived.called, caller, at)
    if door is None:
        return None
    version_id = version_of(door)
    pins = versions.pins_of(session, house, door["client_id"], version_id) if version_id else {}
    zone = ZoneInfo(door["time_zone"])
    runs = {"": version_id, **pins} if version_id else {}
    takes = versions.takes_of(session, house, door["agency_id"], runs, at, zone)
    context = context_of(door, arrived.called, caller, pins, takes)
    if door["test"] and door["draft"] and not (door["resting"] or door["duty_line"]):
        version_id = None
        context |= _on_draft(session, house, door, at, zone)
    if door["duty_line"] and not door["resting"]:
        person = duty_line.caller(session, door["client_id"], caller)
        context |= {
            "duty": duty_line.facts(session, person),
            "language": _language(door),
            "divert": "",
            "fallback": None,
        }
    return _written(
        session, house, carrier_id, message, at, door["agency_id"], door["client_id"], context, version_id=version_id
    )


def _on_draft(session: Session, house: House, door: RowMapping, at: datetime, zone: ZoneInfo) -> Row:
    """What a call of a test phone runs on while its flow’s draft can be heard by telephone: the draft as it is now, which stays that of this call."""
    client = session.get_one(Client, door["client_id"])
    document = as_spoken(session, house, client, FlowDocument.model_validate(door["draft"]))
    runs = engine.prepare(document)
    pins = versions.pinned(session, house, client.id, runs.continues_in)
    takes = versions.takes_of_draft(session, house, client.agency_id, runs, pins, at, zone)
    return {"flow_id": None, "pins": pins, "takes": takes, "fallback": document.model_dump(mode="json")}


def _written(
    session: Session, house: House, carrier_id: int, message: EventMessage, at: datetime, agency_id: int, client_id: int | None,
    context: Row, *, version_id: int | None,
) -> Row:  # fmt: skip
    """The row of a new call in progress."""
    live = {
        "id": call_id(at), "carrier_id": carrier_id, "ref": message.call, "agency_id": agency_id, "client_id": client_id,
        "version_id": version_id, "started_at": at, "last_at": at, "last_seq": 0, "talking_to": None, "alive_at": house.now(),
        "gone": False,
    }  # fmt: skip
    session.execute(_INSERT_CALL, {**live, "context": json.dumps(context)})
    return {**live, "context": context, "state": {}}


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
