"""What hours answer to a program: what holds at a moment and why, the next changes, and how own times cover them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select

from ...core.hours import words
from ...core.hours.cover import Cover, cover
from ...core.hours.timetable import Stretch, Timetable, open_minutes
from ...store.hours import HoursSet
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from . import ready


@dataclass(frozen=True, slots=True)
class Known:
    """A set of hours as the API tells of it."""

    key: str
    purpose: str
    is_main: bool
    table: Timetable


def sets(house: House, actor: Actor, client_id: int) -> list[Known]:
    """A client's sets, the main one first."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        rows = {one.key: one for one in session.scalars(select(HoursSet).where(HoursSet.client_id == client_id))}
        tables = ready.Standings(session, house, client_id, house.now()).tables()
        return [Known(key, rows[key].purpose, rows[key].is_main, table) for key, table in tables.items()]


def one(house: House, actor: Actor, client_id: int, key: str) -> Timetable:
    """One set by its key; raises NotFound."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        table = ready.Standings(session, house, client_id, house.now()).table(key)
        if table is None:
            raise NotFound
        return table


def covered(
    house: House, actor: Actor, client_id: int, key: str, own: list[str], since: datetime, until: datetime
) -> Cover:
    """How the own times of some sets cover the open times of one."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        tables = ready.Standings(session, house, client_id, house.now()).tables()
        if key not in tables or any(name not in tables for name in own):
            raise NotFound
        return cover(tables[key], (), [tables[name] for name in own], since, until)


# as values of JSON


def said_at(table: Timetable, at: datetime) -> dict[str, Any]:
    """What holds at a moment, why, and until when."""
    known = words.now(table, at)
    names = table.hours.names
    following = known.following
    return {
        "at": _local(table, at), "open": known.standing.is_open, "period": known.standing.period,
        "period_name": names.get(known.standing.period, ""),
        "because": known.standing.kind or "week", "because_name": known.standing.name,
        "until": _local(table, known.until) if known.until else None,
        "then": following.period if following else None,
        "then_name": names.get(following.period, "") if following else None,
        "sentence": words.sentence(table, at), "time_zone": table.zone.key,
    }  # fmt: skip


def said_changes(table: Timetable, since: datetime, until: datetime, most: int) -> list[dict[str, Any]]:
    """The changes between two moments, at most so many."""
    found: list[Stretch] = words.changes(table, since, until)[1 : most + 1]
    names = table.hours.names
    return [
        {
            "at": _local(table, change.since), "open": change.standing.is_open, "period": change.standing.period,
            "period_name": names.get(change.standing.period, ""), "because": change.standing.kind or "week",
            "because_name": change.standing.name,
        }
        for change in found
    ]  # fmt: skip


def said_open(table: Timetable) -> dict[str, Any]:
    """Open minutes of the usual week, in all and by period id."""
    week = table.hours.week
    return {"week": open_minutes(week), "periods": {one.id: open_minutes(week, one.id) for one in table.hours.periods}}


def said_cover(table: Timetable, found: Cover) -> dict[str, Any]:
    """How much is covered, in minutes, and the gaps."""
    return {
        "open_minutes": round(found.wanted.total_seconds() / 60), "covered_minutes": round(found.covered.total_seconds() / 60),
        "gaps": [{"from": _local(table, since), "to": _local(table, until)} for since, until in found.gaps],
    }  # fmt: skip


def _local(table: Timetable, at: datetime) -> str:
    return at.astimezone(table.zone).isoformat(timespec="seconds")
