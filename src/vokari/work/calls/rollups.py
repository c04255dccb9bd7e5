"""The rollups that reports read: how many calls of a day had which fate, by number, source and flow; and how long they took."""

from collections.abc import Iterable, Iterator
from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.calls.fates import UNCONFIRMED
from ..house.problems import Row


class Key(NamedTuple):
    """What calls are counted by; the names are the columns of `call_days`. No source and no flow are 0."""

    client_id: int
    day: date
    number_id: int
    source_id: int
    flow_id: int
    fate: str
    reason: str
    agency_id: int


COUNTED = ("calls", "seconds", "talk_seconds")
COLUMNS = (*Key._fields, *COUNTED)
"""The columns of `call_days`, keys first."""

_ADD = text(
    f"INSERT INTO call_days ({', '.join(COLUMNS)}) VALUES ({', '.join(f':{name}' for name in COLUMNS)})"
    " ON CONFLICT (client_id, day, number_id, source_id, flow_id, fate, reason) DO UPDATE SET calls = call_days.calls + 1,"
    " seconds = call_days.seconds + EXCLUDED.seconds, talk_seconds = call_days.talk_seconds + EXCLUDED.talk_seconds"
)


_ADD_TO_DAY = text(
    "INSERT INTO day_totals (client_id, day, fate, agency_id, calls, talk_seconds, unconfirmed)"
    " VALUES (:client_id, :day, :fate, :agency_id, 1, :talk_seconds, :unconfirmed) ON CONFLICT (client_id, day, fate) DO UPDATE"
    " SET calls = day_totals.calls + 1, talk_seconds = day_totals.talk_seconds + EXCLUDED.talk_seconds,"
    " unconfirmed = day_totals.unconfirmed + EXCLUDED.unconfirmed"
)
_ADD_TO_MONTH = text(
    "INSERT INTO source_months (client_id, month, source_id, fate, calls, talk_seconds, unconfirmed)"
    " VALUES (:client_id, :month, :source_id, :fate, 1, :talk_seconds, :unconfirmed) ON CONFLICT (client_id, month, source_id, fate)"
    " DO UPDATE SET calls = source_months.calls + 1, talk_seconds = source_months.talk_seconds + EXCLUDED.talk_seconds,"
    " unconfirmed = source_months.unconfirmed + EXCLUDED.unconfirmed"
)

_UNCONFIRMED = f"COALESCE(sum(calls) FILTER (WHERE reason = '{UNCONFIRMED}'), 0)"
_TOTALS = (
    "INSERT INTO day_totals (client_id, day, fate, agency_id, calls, talk_seconds, unconfirmed) SELECT client_id, day, fate,"
    f" agency_id, sum(calls), sum(talk_seconds), {_UNCONFIRMED} FROM call_days {{}} GROUP BY client_id, day, fate, agency_id",
    "INSERT INTO source_months (client_id, month, source_id, fate, calls, talk_seconds, unconfirmed) SELECT client_id,"
    f" date_trunc('month', day)::date, source_id, fate, sum(calls), sum(talk_seconds), {_UNCONFIRMED} FROM call_days {{}}"
    " GROUP BY client_id, date_trunc('month', day), source_id, fate",
)


def totals(where: str) -> list[bytes]:
    """The statements that add up `call_days` where its rows were copied in; `where` says which of them."""
    return [query.format(f"WHERE {where}").encode() for query in _TOTALS]


def key_of(row: Row, day: date) -> Key:
    """Where a call of the history counts; `day` is that of the client's time zone on which it arrived."""
    return Key(
        row["client_id"], day, row["number_id"], row["source_id"] or 0, row["flow_id"] or 0, row["fate"], row["reason"],
        row["agency_id"],
    )  # fmt: skip


def add(session: Session, row: Row, day: date) -> None:
    """Counts one more call, in every rollup in the same order, so that two calls that end at once cannot wait for each other."""
    counted = {"calls": 1, "seconds": row["seconds"], "talk_seconds": row["talk_seconds"]}
    values = {
        **key_of(row, day)._asdict(),
        **counted,
        "month": day.replace(day=1),
        "unconfirmed": int(row["reason"] == UNCONFIRMED),
    }
    for adding in (_ADD, _ADD_TO_DAY, _ADD_TO_MONTH):
        session.execute(adding, values)


def added_up(calls: Iterable[tuple[Row, date]]) -> Iterator[tuple[object, ...]]:
    """The rows of `call_days` for many calls at once, each in the order of COLUMNS."""
    found: dict[Key, tuple[int, float, float]] = {}
    for row, day in calls:
        key = key_of(row, day)
        count, seconds, talk = found.get(key, (0, 0.0, 0.0))
        found[key] = (count + 1, seconds + row["seconds"], talk + row["talk_seconds"])
    for key, counted in found.items():
        yield (*key, *counted)
