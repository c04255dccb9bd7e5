"""The end of a call: its row in the history, its log, and the rollups of reports, in the transaction of the last event."""

import json
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.calls.fates import SERVICE, UNCONFIRMED, Ending, ending
from ...core.flows.model.values import POSTAL_CODE
from ...core.flows.running.state import State
from ...core.numbers import numbering
from ...formats.call_control.records import CallRecord, FailSafeUse
from ..house.problems import Row
from ..people import duty_line
from . import rollups

_ENTRIES = text("SELECT entry FROM live_events WHERE call_id = :call ORDER BY seq")
COLUMNS = (
    "id", "started_at", "agency_id", "client_id", "number_id", "caller", "flow_id", "version_id", "source_id", "source_by",
    "fate", "reason", "seconds", "talk_seconds", "answered_by", "labels", "lead_status", "test", "fail_safe",
)  # fmt: skip
"""The columns of `calls`, as `call_row` fills them."""
_LOG = (
    "INSERT INTO call_logs (call_id, started_at, agency_id, carrier_id, ref, entries)"
    " VALUES (:id, :started_at, :agency_id, :carrier_id, :ref, CAST(:entries AS json))"
)
_CALL = text(
    f"WITH log AS ({_LOG}) INSERT INTO calls ({', '.join(COLUMNS)}) VALUES ({', '.join(f':{name}' for name in COLUMNS)})"
)
_CALL_LOG = text(_LOG)
_OPEN = text(
    "INSERT INTO service_calls (call_id, agency_id, client_id, at) VALUES (:id, :agency_id, :client_id, :started_at)"
)
_FORGET = text(
    "WITH events AS (DELETE FROM live_events WHERE call_id = :call), held AS (DELETE FROM holds WHERE call_id = :call)"
    " DELETE FROM live_calls WHERE id = :call"
)


def call_row(
    live: Row | RowMapping, at: datetime, last: State, entries: list[Row], *, answered_by: str = ""
) -> tuple[Row, Ending]:
    """What the history says of a call that ended at `at` in state `last`."""
    context = live["context"]
    seconds = round((at - live["started_at"]).total_seconds(), 1)
    end = ending(last, seconds)
    if end.fate == "lost" and live["version_id"] is None and not context["late"]:
        end = Ending("lost", "no_flow")
    stated = context["sources"].get(last.source) if last.source else None
    source_id = stated or context["source_id"]
    return {
        "id": live["id"], "started_at": live["started_at"], "agency_id": live["agency_id"], "client_id": live["client_id"],
        "number_id": context["number_id"], "caller": context["caller"], "flow_id": context["flow_id"],
        "version_id": live["version_id"], "source_id": source_id,
        "source_by": "key" if stated else "none" if not source_id else "late" if context["late"] else "assignment",
        "fate": end.fate, "reason": end.reason, "seconds": seconds, "talk_seconds": talk_seconds(entries, at),
        "answered_by": answered_by, "labels": list(last.labels), "lead_status": last.lead_status, "test": context["test"], "fail_safe": "",
    }, end  # fmt: skip


def at_fail_safe(row: Row, use: FailSafeUse | None, *, reached: bool) -> Row:
    """What the history says of a call that its carrier took to the fail-safe: instead of the flow, or after a part of it. Who
    picks up there is not asked for a key, so such an answer is unconfirmed."""
    changed: Row = {"fail_safe": "after" if reached else "instead"}
    if use is not None and use.outcome == "answered" and row["fate"] not in ("answered", "message_left"):
        changed |= {
            "fate": "answered", "reason": UNCONFIRMED, "answered_by": use.to, "talk_seconds": use.talk_seconds,
        }  # fmt: skip
    elif row["fate"] not in ("answered", "message_left"):
        changed |= {"fate": "lost", "reason": "carrier" if reached else "unreached"}
    return row | changed


def talk_seconds(entries: list[Row], ended_at: datetime | None = None) -> float:
    """The seconds from the connection of a person until they or the caller hang up, added up; a talk that no event ended
    lasted until `ended_at`, or the last event."""
    total, since, leg = 0.0, None, 0
    for entry in entries:
        event, at = entry["event"], datetime.fromisoformat(entry["at"])
        over = event["kind"] == "gone" or (event["kind"] == "leg" and event["command"] == leg)
        if since is not None and over:
            total += (at - since).total_seconds()
            since = None
        for command in entry["commands"]:
            if command["type"] == "connect":
                since, leg = at, command["id"]
    if since is not None:
        last = ended_at or datetime.fromisoformat(entries[-1]["at"])
        total += max(0.0, (last - since).total_seconds())
    return round(total, 1)


def close(
    session: Session, live: Row | RowMapping, at: datetime, last: State, entry: Row | None,
    record: CallRecord | None = None,
) -> None:  # fmt: skip
    """Moves a call from those in progress to the history; `entry` is its last event, None when none came, `record` what the
    carrier has of one that it took to the fail-safe."""
    entries = [*session.scalars(_ENTRIES, {"call": live["id"]}), *([entry] if entry else [])]
    row, _ = call_row(live, at, last, entries, answered_by=_answered_by(entries))
    if record is not None:
        row = at_fail_safe(row, record.fail_safe, reached=record.reached)
    if "duty" in live["context"] or "speaker" in live["context"]:
        _keep_answers(session, live, row, entries)
        return
    write(session, live, row, entries)
    code = dict(last.values).get(POSTAL_CODE, "")
    if code and row["caller"] and not row["test"]:
        rollups.note_postal_code(session, row, code)
    session.execute(_FORGET, {"call": live["id"]})


def write(session: Session, live: Row | RowMapping, row: Row, entries: list[Row]) -> None:
    """Writes a call into the history, its log, and the rollup of its day."""
    logged = {"carrier_id": live["carrier_id"], "ref": live["ref"], "entries": json.dumps(entries)}
    session.execute(_CALL, {**row, **logged})
    if row["reason"] == SERVICE and not row["test"]:
        session.execute(_OPEN, row)
    if not row["test"]:
        rollups.add(session, row, ZoneInfo(live["context"]["time_zone"]))
        if row["version_id"]:
            rollups.note_passages(session, row, entries, row["version_id"], live["context"].get("pins") or {})


def _keep_answers(session: Session, live: Row | RowMapping, row: Row, entries: list[Row]) -> None:
    """Ends a call of the duty line, or of somebody who spoke a prompt: it is nobody's lead and stands in no list, so that only what
    repeated events need is kept, without what was keyed in."""
    kept = [duty_line.without_keys(one) for one in entries]
    values = {**row, "carrier_id": live["carrier_id"], "ref": live["ref"], "entries": json.dumps(kept)}
    session.execute(_CALL_LOG, values)
    session.execute(_FORGET, {"call": live["id"]})


def _answered_by(entries: list[Row]) -> str:
    """The number of the last phone that was connected."""
    numbers = {
        c["id"]: numbering.joined(c["number"], c.get("post_dial", ""))
        for entry in entries
        for c in entry["commands"]
        if c["type"] == "ring"
    }
    connected = [c["id"] for entry in entries for c in entry["commands"] if c["type"] == "connect"]
    return str(numbers.get(connected[-1], "")) if connected else ""
