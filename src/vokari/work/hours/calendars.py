"""Hours in files: iCalendar and hours files read with a preview, written, and offered at a private address."""

import re
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from sqlalchemy.orm import Session

from ...core.agency.zones import zone_of
from ...core.hours.document import Exception_, Hours
from ...core.hours.gathered import closures, to_hours
from ...formats import calendar_read, calendar_write, hours_file
from ...store.agency import Client
from ...store.hours import HoursSet
from ..agency.access import Actor, allow, note
from ..house import apart, secret_links
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems
from ..house.views import HoursSetView
from . import ready
from .sets import change, open_set, own_set

Mode = Literal["replace", "closures"]
MODES: dict[Mode, str] = {
    "replace": "the week and all its own exceptions are replaced",
    "closures": "the week stays; closed days are added to the exceptions",
}

LINK = "calendar"


@dataclass(frozen=True, slots=True)
class Preview:
    """What a file would make of a set: the whole set, the closures alone, whether it opens at all, and what is left out."""

    hours: Hours
    closures: tuple[Exception_, ...]
    opens: bool
    left_out: list[str]


def preview(house: House, actor: Actor, client_id: int, hours_id: int, data: bytes) -> Preview | Problems:
    """Reads a file for a set and keeps nothing."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        one = open_set(session, house, client, own_set(session, client_id, hours_id))
    return _worked_out(house, data, one.table.zone.key, one.hours)


def apply(house: House, actor: Actor, client_id: int, hours_id: int, data: bytes, mode: str) -> Problems:
    """Takes a file over, as one change that can be undone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        one = own_set(session, client_id, hours_id)
        if mode not in MODES:
            return [Problem("mode", "Choose what is taken over.")]
        revision, old = one.revision, Hours.model_validate(one.document)
        zone = old.time_zone or client.time_zone
    read = _worked_out(house, data, zone, old)
    if isinstance(read, list):
        return read
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        if one.revision != revision:
            return [
                Problem("file", "These hours were changed while the file was read. Look at them, then take it again.")
            ]
        if mode == "closures":
            known = {_times(exception) for exception in old.exceptions}
            added = tuple(entry for entry in read.closures if _times(entry) not in known)
            return change(
                session,
                house,
                actor,
                one,
                {"exceptions": (*old.exceptions, *added)},
                f"took {len(added)} closures from a file",
            )
        new = read.hours
        update = {"periods": new.periods, "week": new.week, "exceptions": new.exceptions}
        return change(session, house, actor, one, update, "took its week and exceptions from a file")


def _times(one: Exception_) -> tuple[object, ...]:
    return tuple(getattr(one, name, None) for name in ("kind", "first", "last", "every_year", "spans"))


def _worked_out(house: House, data: bytes, zone: str, old: Hours) -> Preview | Problems:
    today = house.now().astimezone(zone_of(zone)).date()
    read = apart.worked_out(_read, data, zone, old, today)
    return [read] if isinstance(read, Problem) else read


def _read(data: bytes, zone: str, old: Hours, today: date) -> Preview | Problems:
    if data.lstrip()[:1] == b"{":
        return _read_hours_file(data, old)
    place = zone_of(zone)
    assert place is not None
    calendar = calendar_read.read(data, place, today, [period.name for period in old.periods])
    if isinstance(calendar, str):
        return [Problem("file", calendar)]
    hours = to_hours(calendar, old.name, old.periods, new_key)
    if isinstance(hours, str):
        return [Problem("file", hours)]
    opens = any(day.opened for day in calendar.days.values())
    return Preview(hours, tuple(closures(calendar, new_key)), opens, calendar.left_out)


def _read_hours_file(data: bytes, old: Hours) -> Preview | Problems:
    """An hours file: its periods keep the ids of the set's own of the same name, so that flows go on asking for them."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return [Problem("file", "This file is no text in UTF-8.")]
    read = hours_file.read(text)
    if isinstance(read, list):
        return [Problem("file", "; ".join(str(mistake) for mistake in read[:5]))]
    ids = {period.name.casefold(): period.id for period in old.periods}
    taken = {period.id: ids.get(period.name.casefold(), period.id) for period in read.periods}
    if len(set(taken.values())) < len(taken):
        return [Problem("file", "Two of its periods would have the id of one: give them other names.")]
    hours = read.with_ids(taken)
    shut = tuple(entry for entry in hours.exceptions if entry.kind == "days" and not entry.spans)
    return Preview(hours, shut, any(hours.week), [])


# out


def export(house: House, actor: Actor, client_id: int, hours_id: int, form: str) -> tuple[str, bytes]:
    """The name and content of a set's file: `ics`, or `json` for an hours file."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours")
        one = own_set(session, client_id, hours_id)
        stem = re.sub(r"[^a-z0-9]+", "-", one.name.lower()).strip("-") or "hours"
        if form == "json":
            return f"{stem}.json", hours_file.write(Hours.model_validate(one.document)).encode()
        return f"{stem}.ics", _ics(session, house, one)


def feed_path(house: House, one: HoursSet | HoursSetView) -> str:
    """The private address at which a calendar program reads a set, without a sign-in."""
    return f"/calendars/{secret_links.token(house, LINK, one.id, one.feed_version)}.ics"


def renew_feed(house: House, actor: Actor, client_id: int, hours_id: int) -> None:
    """Gives a set another address; the old one ends."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        one.feed_version += 1
        note(session, house, actor, client_id, f"{one.name}: renewed the address for calendar programs")


def feed(house: House, token: str) -> bytes | None:
    """The calendar at a private address; None for an address that is not one, or not any more."""
    hours_id = secret_links.id_of(token)
    if hours_id is None:
        return None
    with house.begin() as session:
        one = session.get(HoursSet, hours_id)
        if one is None or one.removed_at is not None:
            return None
        return _ics(session, house, one) if secret_links.fits(house, token, LINK, one.id, one.feed_version) else None


def _ics(session: Session, house: House, one: HoursSet) -> bytes:
    """Switches are for hours, calendars for months: they are left out."""
    now = house.now()
    client = session.get(Client, one.client_id)
    assert client is not None
    table = ready.Standings(session, house, client.id, now).table(one.key)
    assert table is not None
    midnight = datetime(now.year, now.month, now.day, tzinfo=now.tzinfo)
    return calendar_write.write(table.switched(()), one.key, midnight)
