"""The rollups that reports read: how many calls of a day had which fate, by number, source and flow, and by hour, key and person; how
long they took, and for how many callers they were the first."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.callers.past import MOST_CALLS
from ...core.calls.fates import UNCONFIRMED
from ...core.calls.passages import passages
from ..house.problems import Row

COLUMNS = (
    "client_id", "day", "number_id", "source_id", "flow_id", "fate", "reason", "agency_id", "calls", "seconds", "talk_seconds",
    "new_callers",
)  # fmt: skip
"""The columns of `call_days`, keys first. No source and no flow are 0."""

_ADD = text(
    f"INSERT INTO call_days ({', '.join(COLUMNS)}) VALUES ({', '.join(f':{name}' for name in COLUMNS)})"
    " ON CONFLICT (client_id, day, number_id, source_id, flow_id, fate, reason) DO UPDATE SET calls = call_days.calls + 1,"
    " seconds = call_days.seconds + EXCLUDED.seconds, talk_seconds = call_days.talk_seconds + EXCLUDED.talk_seconds,"
    " new_callers = call_days.new_callers + EXCLUDED.new_callers"
)
_ADD_TO_DAY = text(
    "INSERT INTO day_totals (client_id, day, fate, agency_id, calls, talk_seconds, unconfirmed)"
    " VALUES (:client_id, :day, :fate, :agency_id, 1, :talk_seconds, :unconfirmed) ON CONFLICT (client_id, day, fate) DO UPDATE"
    " SET calls = day_totals.calls + 1, talk_seconds = day_totals.talk_seconds + EXCLUDED.talk_seconds,"
    " unconfirmed = day_totals.unconfirmed + EXCLUDED.unconfirmed"
)
_ADD_TO_MONTH = text(
    "INSERT INTO source_months (client_id, month, source_id, fate, calls, talk_seconds, unconfirmed, new_callers)"
    " VALUES (:client_id, :month, :source_id, :fate, 1, :talk_seconds, :unconfirmed, :new_callers)"
    " ON CONFLICT (client_id, month, source_id, fate)"
    " DO UPDATE SET calls = source_months.calls + 1, talk_seconds = source_months.talk_seconds + EXCLUDED.talk_seconds,"
    " unconfirmed = source_months.unconfirmed + EXCLUDED.unconfirmed, new_callers = source_months.new_callers + EXCLUDED.new_callers"
)
_PARTS = ("hour", "key", "person")
_ADD_TO_PARTS = text(
    "INSERT INTO call_parts (client_id, kind, day, value, fate, calls, talk_seconds, unconfirmed, new_callers) VALUES "
    + ", ".join(
        f"(:client_id, '{part}', :day, :{part}, :fate, 1, :talk_seconds, :unconfirmed, :new_callers)" for part in _PARTS
    )
    + " ON CONFLICT (client_id, kind, day, value, fate) DO UPDATE SET calls = call_parts.calls + 1,"
    " talk_seconds = call_parts.talk_seconds + EXCLUDED.talk_seconds, unconfirmed = call_parts.unconfirmed + EXCLUDED.unconfirmed,"
    " new_callers = call_parts.new_callers + EXCLUDED.new_callers"
)
_FIRST = text(
    "INSERT INTO callers (client_id, caller, call_id, past) VALUES (:client_id, :caller, :id,"
    " jsonb_build_array(jsonb_build_array(extract(epoch FROM CAST(:started_at AS timestamptz)), CAST(:seconds AS float),"
    " CAST(:fate AS text), CAST(:answered_by AS text)))) ON CONFLICT (client_id, caller) DO UPDATE SET past = CASE WHEN"
    f" jsonb_array_length(callers.past) >= {MOST_CALLS} THEN callers.past - 0 ELSE callers.past END || EXCLUDED.past"
    " RETURNING call_id = CAST(:id AS uuid)"
)
"""Notes a call to those of its caller; whether it is their first."""

_PASSED = text(
    "INSERT INTO flow_passages (version_id, step, exit, calls, gave_up)"
    " SELECT * FROM unnest(CAST(:versions AS bigint[]), CAST(:steps AS text[]), CAST(:exits AS text[]), CAST(:calls AS int[]),"
    " CAST(:gave_up AS int[])) ON CONFLICT (version_id, step, exit) DO UPDATE SET calls = flow_passages.calls + EXCLUDED.calls,"
    " gave_up = flow_passages.gave_up + EXCLUDED.gave_up"
)
_TYPED_CODE = text(
    "UPDATE callers SET postal_code = :code WHERE client_id = :client_id AND caller = :caller AND postal_code <> :code"
)

_UNCONFIRMED = f"COALESCE(sum(calls) FILTER (WHERE reason = '{UNCONFIRMED}'), 0)"
_TOTALS = (
    "INSERT INTO day_totals (client_id, day, fate, agency_id, calls, talk_seconds, unconfirmed) SELECT client_id, day, fate,"
    f" agency_id, sum(calls), sum(talk_seconds), {_UNCONFIRMED} FROM call_days {{}} GROUP BY client_id, day, fate, agency_id",
    "INSERT INTO source_months (client_id, month, source_id, fate, calls, talk_seconds, unconfirmed, new_callers) SELECT client_id,"
    f" date_trunc('month', day)::date, source_id, fate, sum(calls), sum(talk_seconds), {_UNCONFIRMED}, sum(new_callers)"
    " FROM call_days {}"
    " GROUP BY client_id, date_trunc('month', day), source_id, fate",
)


_LOCAL = "k.started_at AT TIME ZONE c.time_zone"
_NEW = "count(*) FILTER (WHERE f.call_id = k.id)"
_CALLS = "FROM calls k JOIN clients c ON c.id = k.client_id LEFT JOIN callers f ON f.client_id = k.client_id AND f.caller = k.caller"
_FROM_CALLS = (
    "INSERT INTO callers (client_id, caller, call_id, past) SELECT client_id, caller, (array_agg(id ORDER BY started_at, id))[1],"
    " jsonb_agg(jsonb_build_array(extract(epoch FROM started_at), seconds, fate, answered_by) ORDER BY started_at)"
    f" FILTER (WHERE n <= {MOST_CALLS}) FROM (SELECT k.*, row_number() OVER (PARTITION BY k.client_id, k.caller ORDER BY k.started_at DESC)"
    " AS n FROM calls k WHERE k.{} AND NOT k.test AND k.caller <> '') mine GROUP BY client_id, caller ON CONFLICT DO NOTHING",
    f"INSERT INTO call_days ({', '.join(COLUMNS)}) SELECT k.client_id, ({_LOCAL})::date, k.number_id, COALESCE(k.source_id, 0),"
    f" COALESCE(k.flow_id, 0), k.fate, k.reason, k.agency_id, count(*), sum(k.seconds), sum(k.talk_seconds), {_NEW} {_CALLS}"
    " WHERE k.{} AND NOT k.test GROUP BY 1, 2, 3, 4, 5, 6, 7, 8",
    f"INSERT INTO call_parts (client_id, day, kind, value, fate, calls, talk_seconds, unconfirmed, new_callers)"
    f" SELECT k.client_id, ({_LOCAL})::date, p.kind, p.value, k.fate, count(*), sum(k.talk_seconds),"
    f" count(*) FILTER (WHERE k.reason = '{UNCONFIRMED}'), {_NEW} {_CALLS} CROSS JOIN LATERAL"
    f" (VALUES ('hour', extract(hour FROM {_LOCAL})::int::text),"
    " ('key', CASE WHEN k.source_by = 'key' THEN k.source_id::text ELSE '' END), ('person', k.answered_by)) p (kind, value)"
    " WHERE k.{} AND NOT k.test GROUP BY 1, 2, 3, 4, 5",
)


def from_calls(where: str) -> Sequence[bytes]:
    """The statements that make the rollups of calls that were copied in; `where` says whose: `client_id = %s`."""
    return [query.format(where).encode() for query in _FROM_CALLS] + totals(where)


def totals(where: str) -> list[bytes]:
    """The statements that add up `call_days` where its rows were copied in; `where` says which of them."""
    return [query.format(f"WHERE {where}").encode() for query in _TOTALS]


def note_passages(session: Session, row: Row, entries: Sequence[Row], version_id: int, pins: Mapping[str, int]) -> None:
    """Counts the steps and exits that a call passed, in one order for all, so that two calls that end at once cannot wait for each other."""
    passed, gave_up = passages(entries, version_id, pins, lost=row["fate"] == "lost")
    places = sorted({*passed, *gave_up})
    if places:
        columns = zip(*((*one, passed[one], gave_up[one]) for one in places), strict=True)
        names = ("versions", "steps", "exits", "calls", "gave_up")
        session.execute(_PASSED, dict(zip(names, map(list, columns), strict=True)))


def note_postal_code(session: Session, row: Row, code: str) -> None:
    """Keeps the postal code that a caller typed, for their next call."""
    session.execute(_TYPED_CODE, {**row, "code": code})


def add(session: Session, row: Row, zone: ZoneInfo) -> None:
    """Counts one more call, in every rollup in the same order, so that two calls that end at once cannot wait for each other.
    `zone` is the client's."""
    began: datetime = row["started_at"]
    local = began.astimezone(zone)
    day: date = local.date()
    first = bool(row["caller"]) and bool(session.scalar(_FIRST, row))
    values = {
        **{name: row[name] for name in ("client_id", "number_id", "fate", "reason", "agency_id", "seconds", "talk_seconds")},
        "day": day, "month": day.replace(day=1), "source_id": row["source_id"] or 0, "flow_id": row["flow_id"] or 0, "calls": 1,
        "unconfirmed": int(row["reason"] == UNCONFIRMED), "new_callers": int(first), "hour": str(local.hour),
        "key": str(row["source_id"]) if row["source_by"] == "key" else "", "person": row["answered_by"],
    }  # fmt: skip
    for adding in (_ADD, _ADD_TO_DAY, _ADD_TO_MONTH, _ADD_TO_PARTS):
        session.execute(adding, values)
