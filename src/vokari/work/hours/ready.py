"""A client's hours made ready to answer: for live calls, rehearsals, pages and the API. Says nothing about who may ask."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter
from sqlalchemy import RowMapping, select, text
from sqlalchemy.orm import Session

from ...core.flows.conditions.base import HoursNames
from ...core.hours.document import CLOSED, Exception_, Hours
from ...core.hours.timetable import Switch, Timetable
from ...store.hours import ExceptionList
from ..house.house import House
from ..house.kept import once

EXCEPTIONS: TypeAdapter[tuple[Exception_, ...]] = TypeAdapter(tuple[Exception_, ...])

_SETS = (
    "SELECT h.id, h.key, h.name, h.purpose, h.is_main, h.revision, h.lists, c.time_zone, h.document ->> 'time_zone' AS own_zone,"
    " (SELECT array_agg(l.revision ORDER BY l.id) FROM exception_lists l WHERE l.id = ANY(h.lists)) AS list_revisions"
    " FROM hours_sets h JOIN clients c ON c.id = h.client_id WHERE h.client_id = :client AND h.removed_at IS NULL"
)
_ALL_SETS = text(f"{_SETS} ORDER BY h.is_main DESC, h.id")
_ONE_SET = text(f"{_SETS} AND h.key = :key")
_MAIN_SET = text(f"{_SETS} AND h.is_main")
_DOCUMENT = text("SELECT document FROM hours_sets WHERE id = :id")
_SWITCHES = text(
    "SELECT id, hours_id, kind, period, since, until, ended_at FROM hours_switches WHERE client_id = :client"
    " AND COALESCE(ended_at, until) > :at ORDER BY id"
)


class Standings:
    """The hours of one client within one transaction, each set read when it is first asked for. Switches that end
    before `at` are left out."""

    def __init__(self, session: Session, house: House, client_id: int, at: datetime) -> None:
        self.session, self.house, self.client_id, self.at = session, house, client_id, at
        self._switches: Sequence[RowMapping] | None = None
        self._known: dict[str, Timetable | None] = {}
        self._all: Sequence[RowMapping] | None = None

    def table(self, key: str) -> Timetable | None:
        """A set by the key that flows name it by, with the switches that hold for it; None for one that is gone."""
        if key not in self._known:
            row = self.session.execute(_ONE_SET, {"client": self.client_id, "key": key}).mappings().first()
            self._known[key] = self._made(row) if row else None
        return self._known[key]

    def main(self) -> Timetable | None:
        """The set that the client's top line speaks of; None for a client without hours."""
        if self._all is None:
            row = self.session.execute(_MAIN_SET, {"client": self.client_id}).mappings().first()
        else:
            row = next((one for one in self._all if one["is_main"]), None)
        return self._made(row) if row else None

    def tables(self) -> dict[str, Timetable]:
        """All sets of the client by key, the main one first."""
        if self._all is None:
            self._all = self.session.execute(_ALL_SETS, {"client": self.client_id}).mappings().all()
        return {row["key"]: self._made(row) for row in self._all}

    def _made(self, row: RowMapping) -> Timetable:
        zone = row["own_zone"] or row["time_zone"]
        known = (row["id"], row["revision"], zone, tuple(row["lists"]), tuple(row["list_revisions"] or ()))
        table = self.house.timetables.get(self.session, known, lambda: self._read(row, zone))
        switches = self._switches_of(row["id"], row["purpose"])
        return table.switched(switches) if switches else table

    def _read(self, row: RowMapping, zone: str) -> Timetable:
        raw = self.session.scalar(_DOCUMENT, {"id": row["id"]})
        return Timetable(Hours.model_validate(raw), ZoneInfo(zone), shared_exceptions(self.session, row["lists"]))

    def _switches_of(self, set_id: int, purpose: str) -> list[Switch]:
        return [
            Switch(one["since"], one["ended_at"] or one["until"], one["period"] or CLOSED, f"switch{one['id']}", "")
            for one in self.switches()
            if one["kind"] != "divert"
            and (one["hours_id"] == set_id or (one["hours_id"] is None and purpose == "client"))
        ]

    def switches(self) -> Sequence[RowMapping]:
        """The client's switches that hold, or will."""
        if self._switches is None:
            found = self.session.execute(_SWITCHES, {"client": self.client_id, "at": self.at})
            self._switches = found.mappings().all()
        return self._switches


def standings(session: Session, house: House, client_id: int) -> Standings:
    """The client's hours as they are now, the same for all of a page."""
    return once(session, ("standings", client_id), lambda: Standings(session, house, client_id, house.now()))


def shared_exceptions(session: Session, lists: Sequence[int]) -> tuple[Exception_, ...]:
    """The exceptions of shared lists, in the order in which a set names the lists."""
    if not lists:
        return ()
    rows = {one.id: one for one in session.scalars(select(ExceptionList).where(ExceptionList.id.in_(lists)))}
    found: list[Exception_] = []
    for list_id in lists:
        if list_id in rows:
            found += [
                one.model_copy(update={"id": f"l{list_id}_{one.id}"[:32]})
                for one in EXCEPTIONS.validate_python(rows[list_id].exceptions)
            ]
    return tuple(found)


def hours_names(tables: Mapping[str, Timetable]) -> dict[str, HoursNames]:
    """What each set, its periods and its exceptions are called."""
    return {
        key: HoursNames(
            table.hours.name, {period.id: period.name for period in table.hours.periods}, table.exception_names
        )
        for key, table in tables.items()
    }
