"""Calls as a file: every one that fits, read a few thousand at a time, so that neither memory nor a transaction grows with them.
Many are written by the worker, and wait to be fetched."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter
from sqlalchemy import func, select, tuple_
from sqlalchemy.orm import Session

from ...core.agency.zones import zone_of
from ...formats import calls_table
from ...formats.tables import to_csv
from ...store.agency import Client
from ...store.calls import Call, Export
from ...store.flows import CallFlow
from ...store.numbers import LeadSource, TrackingNumber
from ..agency.access import Actor, NotFound, allow
from ..house import jobs
from ..house.house import House
from ..house.views import ExportView
from .history import CallFilter, fits

AT_ONCE, LARGE = 2000, 20_000
"""How many calls are read at once; more than so many are written by the worker."""
KEPT = timedelta(days=7)
_WANTED = TypeAdapter(CallFilter)


@dataclass(frozen=True, slots=True)
class Straight:
    """Calls that are few enough to be sent at once, as the parts of a CSV file."""

    parts: Iterator[bytes]


class _Stopped(Exception):
    """Nobody wants the export any more."""


def ask(house: House, actor: Actor, client_id: int, wanted: CallFilter) -> Straight | ExportView:
    """The calls that fit, for whoever reads the client's results: at once, or as an export that the worker makes. Who asks for
    the same once more while it is made is shown that one."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        fitting = select(Call.id).where(Call.client_id == client_id, *fits(client, wanted, house.now()))
        many = session.scalar(select(func.count()).select_from(fitting.limit(LARGE + 1).subquery())) or 0
        if many > LARGE:
            what = _WANTED.dump_python(wanted, mode="json")
            made = select(Export).where(
                Export.client_id == client_id, Export.user_id == actor.user_id, Export.state == "making", Export.wanted == what,
            )  # fmt: skip
            under_way = session.scalars(made.limit(1)).first()
            if under_way is not None:
                return ExportView.of(under_way)
            export = Export(
                agency_id=client.agency_id, client_id=client_id, user_id=actor.user_id, made_at=house.now(), wanted=what,
                rows=session.scalar(select(func.count()).select_from(fitting.subquery())) or 0,
            )  # fmt: skip
            session.add(export)
            session.flush()
            jobs.defer(session, "make_export", export_id=export.id)
            return ExportView.of(export)
        return Straight(_parts(house, client_id, client.time_zone, wanted))


def _parts(
    house: House, client_id: int, zone: str, wanted: CallFilter, export_id: int | None = None
) -> Iterator[bytes]:
    """The file, newest call first; how far an export is stands in its row after each part."""
    yield to_csv(calls_table.HEADER, ()).encode()
    local = zone_of(zone) or ZoneInfo("UTC")
    last: tuple[datetime, UUID] | None = None
    done = 0
    while True:
        with house.begin() as session:
            client = session.get_one(Client, client_id)
            query = (
                select(
                    Call.id, Call.started_at, Call.caller, TrackingNumber.e164, LeadSource.name, Call.source_by, CallFlow.name,
                    Call.fate, Call.reason, Call.fail_safe, Call.seconds, Call.talk_seconds, Call.labels,
                )
                .outerjoin(TrackingNumber, TrackingNumber.id == Call.number_id)
                .outerjoin(LeadSource, LeadSource.id == Call.source_id)
                .outerjoin(CallFlow, CallFlow.id == Call.flow_id)
                .where(Call.client_id == client_id, *fits(client, wanted, house.now()))
                .order_by(Call.started_at.desc(), Call.id.desc())
                .limit(AT_ONCE)
            )  # fmt: skip
            if last:
                query = query.where(Call.started_at <= last[0], tuple_(Call.started_at, Call.id) < last)
            rows = session.execute(query).all()
            done += len(rows)
            if export_id is not None:
                export = session.get_one(Export, export_id, with_for_update=True)
                if export.state == "stopped":
                    raise _Stopped
                export.done = done
        if rows:
            calls: list[tuple[Any, ...]] = [row[1:] for row in rows]
            yield to_csv(None, (calls_table.line(local, *call) for call in calls)).encode()
            last = (rows[-1][1], rows[-1][0])
        if len(rows) < AT_ONCE:
            return


def make(house: House, export_id: int) -> None:
    """Writes an export; done again from its beginning if it was broken off."""
    with house.begin() as session:
        export = session.get(Export, export_id, with_for_update=True)
        if export is None or export.state in ("done", "stopped"):
            return
        export.state = "making"
        client = session.get_one(Client, export.client_id)
        wanted, zone = _WANTED.validate_python(export.wanted), client.time_zone
    try:
        name = house.files.put_parts(_parts(house, client.id, zone, wanted, export_id), ".csv")
    except _Stopped:
        return
    except Exception:
        with house.begin() as session:
            session.get_one(Export, export_id).state = "failed"
        raise
    with house.begin() as session:
        export = session.get_one(Export, export_id)
        export.file, export.state, export.rows = name, "done", export.done


def stop(house: House, actor: Actor, client_id: int, export_id: int) -> ExportView:
    """An export is not wanted any more; one that is done stays."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        export = _own(session, client_id, export_id, lock=True)
        if export.state != "done":
            export.state = "stopped"
        return ExportView.of(export)


def progress(house: House, actor: Actor, client_id: int, export_id: int) -> ExportView:
    """How far an export is, for whoever reads the client's results."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        return ExportView.of(_own(session, client_id, export_id))


def _own(session: Session, client_id: int, export_id: int, *, lock: bool = False) -> Export:
    """An export of the client; NotFound where it is none."""
    export = session.get(Export, export_id, with_for_update=lock)
    if export is None or export.client_id != client_id:
        raise NotFound
    return export


def fetch(house: House, actor: Actor, client_id: int, export_id: int) -> Iterator[bytes]:
    """The parts of an export that is done."""
    export = progress(house, actor, client_id, export_id)
    if export.state != "done":
        raise NotFound
    try:
        parts: Iterator[bytes] = house.files.parts(export.file)
    except KeyError as error:
        raise NotFound from error
    return parts


def forget_old(house: House) -> int:
    """Forgets exports that waited long enough, and their files; gives how many."""
    with house.begin() as session:
        old = session.scalars(select(Export).where(Export.made_at < house.now() - KEPT).with_for_update()).all()
        files = {export.file for export in old if export.file}
        for export in old:
            session.delete(export)
        session.flush()
        files -= set(session.scalars(select(Export.file).where(Export.file.in_(files))))
    for name in files:
        house.files.forget(name)
    return len(old)
