"""The rollups that reports read: how many calls of a day had which fate, by number, source and flow; and how long they took."""

from collections.abc import Iterable, Iterator
from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

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


def key_of(row: Row, day: date) -> Key:
    """Where a call of the history counts; `day` is that of the client's time zone on which it arrived."""
    return Key(
        row["client_id"], day, row["number_id"], row["source_id"] or 0, row["flow_id"] or 0, row["fate"], row["reason"],
        row["agency_id"],
    )  # fmt: skip


def add(session: Session, row: Row, day: date) -> None:
    """Counts one more call."""
    counted = {"calls": 1, "seconds": row["seconds"], "talk_seconds": row["talk_seconds"]}
    session.execute(_ADD, {**key_of(row, day)._asdict(), **counted})


def added_up(calls: Iterable[tuple[Row, date]]) -> Iterator[tuple[object, ...]]:
    """The rows of `call_days` for many calls at once, each in the order of COLUMNS."""
    found: dict[Key, tuple[int, float, float]] = {}
    for row, day in calls:
        key = key_of(row, day)
        count, seconds, talk = found.get(key, (0, 0.0, 0.0))
        found[key] = (count + 1, seconds + row["seconds"], talk + row["talk_seconds"])
    for key, counted in found.items():
        yield (*key, *counted)
