"""A client's sets of hours: the list, the painted week, what is ahead, details, and removing a period."""

from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.hours import words
from ...core.hours.clock_changes import clock_changes
from ...core.hours.document import Hours
from ...core.hours.painting import of_period
from ...core.hours.timetable import open_minutes
from ...core.hours.typed import write_week
from ...work.agency.access import NotFound
from ...work.hours import sets, switches, used
from ...work.hours.sets import OpenHours
from ...work.house.problems import Problem, Problems
from ...work.house.views import HoursSetView
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, differs, go, zone_here
from . import painter

router = APIRouter()

AHEAD = timedelta(days=366)
CHANGES_SHOWN = 40


@router.get("/clients/{client_id}/hours")
@at_once
def listed(request: Request, signed: Signed, client_id: Id) -> Response:
    """The client's sets of hours, and its switches."""
    return listed_again(request, signed, client_id)


def listed_again(
    request: Request, signed: Signed, client_id: int, problems: Problems | None = None, **values: Any
) -> Response:
    """The list again, with words on what is wrong."""
    house, pages = house_of(request), request.app.state.pages
    client, lines, removed = sets.listed(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "hours/sets.html", signed, client=client, section="hours", status=422 if problems else 200, lines=lines,
        removed=removed, purposes=sets.PURPOSES, errors=by_field(problems or []), texts=_totals, switch_kinds=switches.KINDS,
        **{"typed": {}, "switched": "", **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/hours")
def create(request: Request, posted: Form, client_id: Id) -> Response:
    """Makes a set, and opens its week."""
    typed = {name: posted.text(name) for name in ("name", "purpose")}
    made = sets.create(
        house_of(request), posted.actor, client_id, typed["name"], typed["purpose"], posted.whole("like")
    )
    if isinstance(made, HoursSetView):
        return go(request, f"/clients/{client_id}/hours/{made.id}")
    return listed_again(request, posted.signed, client_id, made, typed=typed)


# the painted week


@router.get("/clients/{client_id}/hours/{hours_id}")
@at_once
def week(request: Request, signed: Signed, client_id: Id, hours_id: Id) -> Response:
    """The painted week."""
    one = sets.opened(house_of(request), signed.actor, client_id, hours_id)
    return _week(request, signed, one, painter.of_hours(one.hours, used=used_periods(one)))


def _week(
    request: Request, signed: Any, one: OpenHours, made: painter.Painting, problems: Problems | None = None
) -> Response:
    return show(
        request, signed, one, "week", problems, **painter.context(made, _like_sets(request, signed, one)),
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/paint")
def paint(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """One gesture on the painted week; nothing is kept until it is saved."""
    house = house_of(request)
    one = sets.opened(house, posted.actor, client_id, hours_id)
    like_id = posted.whole("like")
    like = sets.opened(house, posted.actor, client_id, like_id).hours if like_id else None
    made = painter.gesture(posted, painter.posted_painting(posted), like)
    return _painted(request, posted, one, made)


@router.post("/clients/{client_id}/hours/{hours_id}/week")
def save(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """Saves the painted week."""
    house = house_of(request)
    one = sets.opened(house, posted.actor, client_id, hours_id)
    made = painter.posted_painting(posted)
    problems = [Problem(f"p-{key}", sentence) for key, sentence in made.wrong.items()]
    result: OpenHours | Problems = problems
    if not problems:
        base = posted.whole("base")
        result = sets.set_week(house, posted.actor, client_id, hours_id, made.periods, made.week, base)
    if isinstance(result, list):
        return _week(request, posted.signed, one, made, result)
    return go(request, f"/clients/{client_id}/hours/{hours_id}")


def _painted(request: Request, posted: Posted, one: OpenHours, made: painter.Painting) -> Response:
    pages: Pages = request.app.state.pages
    values = painter.context(made, _like_sets(request, posted.signed, one))
    return pages.part(
        request, "hours/painter.html", posted.signed, one.client, one=one, errors=by_field([]),
        paint_at=f"/clients/{one.client.id}/hours/{one.set.id}/paint", **values,
    )  # fmt: skip


def _like_sets(request: Request, signed: Any, one: OpenHours) -> dict[int, str]:
    lines = sets.listed(house_of(request), signed.actor, one.client.id)[1]
    return {line.set.id: line.set.name for line in lines if line.set.id != one.set.id}


@router.post("/clients/{client_id}/hours/{hours_id}/{kind}")
def step_back(request: Request, posted: Form, client_id: Id, hours_id: Id, kind: str) -> Response:
    """Undo, redo, remove and bring back."""
    house, actor = house_of(request), posted.actor
    to = f"/clients/{client_id}/hours"
    match kind:
        case "undo" | "redo":
            result = sets.step_back(house, actor, client_id, hours_id, kind)
            problems = result if isinstance(result, list) else []
            to = posted.text("to") if posted.text("to").startswith(f"{to}/{hours_id}") else f"{to}/{hours_id}"
        case "remove":
            problems = sets.remove(house, actor, client_id, hours_id)
        case "bring-back":
            problems = sets.bring_back(house, actor, client_id, hours_id)
        case _:
            sets.opened(house, actor, client_id, hours_id)
            raise NotFound
    return listed_again(request, posted.signed, client_id, problems) if problems else go(request, to)


# what is ahead


@router.get("/clients/{client_id}/hours/{hours_id}/ahead")
@at_once
def ahead(request: Request, signed: Signed, client_id: Id, hours_id: Id, at: str = "") -> Response:
    """What is ahead: changes, gaps of those who answer, clock changes, and one moment asked."""
    house = house_of(request)
    one = sets.opened(house, signed.actor, client_id, hours_id)
    now = house.now()
    moment, wrong = _moment(at, one, now)
    found = words.changes(one.table, now, now + AHEAD)
    return show(
        request, signed, one, "ahead", [Problem("at", wrong)] if wrong else None, changes=found[1 : CHANGES_SHOWN + 1],
        changes_in_year=len(found) - 1, clock_changes=clock_changes(one.table, now, now + AHEAD), at=at, moment=moment,
        standing=words.sentence(one.table, moment) if moment else "", periods=_totals(one.hours), reason=words.reason,
        cover=[
            (ring, [_gap(since, until, one.table.zone) for since, until in ring.cover.gaps])
            for ring in used.covers(house, signed.actor, client_id, hours_id)
        ],
        length=words.length,
    )  # fmt: skip


def _gap(since: datetime, until: datetime, zone: ZoneInfo) -> str:
    """A stretch of time as "Tue 12:00–13:00"."""
    a, b = since.astimezone(zone), until.astimezone(zone)
    return f"{a:%a %H:%M}–{b:%H:%M}" if until - since < timedelta(days=1) else f"{a:%a %H:%M} – {b:%a %H:%M}"


def _moment(at: str, one: OpenHours, now: datetime) -> tuple[datetime | None, str]:
    """A local time typed or chosen, as an instant; and what is wrong with it."""
    if not at.strip():
        return None, ""
    read = asked.moment(at)
    if read is None:
        return None, f"“{at.strip()[:40]}” is no moment. Write it as 2026-12-24 13:00."
    moment = read if read.tzinfo else read.replace(tzinfo=one.table.zone)
    if abs(moment - now) > timedelta(days=365 * 20):
        return None, "Choose a moment within twenty years."
    return moment, ""


def _totals(one: Hours) -> list[tuple[str, str, str]]:
    """Name, week and open time a week of each period."""
    return [
        (
            period.name,
            write_week(of_period(one.week, period.id)) or "never",
            words.length(open_minutes(one.week, period.id)),
        )
        for period in one.periods
    ]


# details


@router.get("/clients/{client_id}/hours/{hours_id}/details")
@at_once
def details(request: Request, signed: Signed, client_id: Id, hours_id: Id) -> Response:
    """Name, time zone, and what was changed when."""
    one = sets.opened(house_of(request), signed.actor, client_id, hours_id)
    return _details(request, signed, one)


def _details(request: Request, signed: Any, one: OpenHours, problems: Problems | None = None, **typed: str) -> Response:
    values = {"name": one.set.name, "time_zone": one.hours.time_zone or "", **typed}
    return show(
        request, signed, one, "details", problems, zones=sorted(available_timezones()), typed=values, was=sets.details_of(one.set),
        log=sets.log_of(house_of(request), signed.actor, one.client.id, one.set.id),
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/settings/details")
def keep_details(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """Saves the name, the time zone, and whether the top line speaks of the set."""
    house = house_of(request)
    one = sets.opened(house, posted.actor, client_id, hours_id)
    typed = {"name": posted.text("name"), "time_zone": posted.text("time_zone").strip()}
    problems = sets.set_details(
        house, posted.actor, client_id, hours_id, **typed, main=bool(posted.text("main")), was=posted.was()
    )
    if problems:
        one = sets.opened(house, posted.actor, client_id, hours_id)
        return _details(request, posted.signed, one, problems, **typed)
    return go(request, f"/clients/{client_id}/hours/{hours_id}/details")


# removing a period


@router.get("/clients/{client_id}/hours/{hours_id}/periods/{period}")
def period(request: Request, signed: Signed, client_id: Id, hours_id: Id, period: str) -> Response:
    """What becomes of a period that is to go."""
    one = sets.opened(house_of(request), signed.actor, client_id, hours_id)
    return _period(request, signed, one, period)


def _period(request: Request, signed: Any, one: OpenHours, key: str, problems: Problems | None = None) -> Response:
    if one.hours.period(key) is None:
        raise NotFound
    places = [place for place in one.places if key in place.periods]
    return show(
        request, signed, one, "week", problems, template="hours/period.html", period=one.hours.period(key), used=places,
        week_text=write_week(of_period(one.hours.week, key)),
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/periods/{period}")
def remove_period(request: Request, posted: Form, client_id: Id, hours_id: Id, period: str) -> Response:
    """Removes a period."""
    house = house_of(request)
    one = sets.opened(house, posted.actor, client_id, hours_id)
    problems = sets.remove_period(
        house, posted.actor, client_id, hours_id, period, posted.text("becomes"),
        take_exits_out=bool(posted.text("take_exits_out")),
    )  # fmt: skip
    if problems:
        return _period(request, posted.signed, one, period, problems)
    return go(request, f"/clients/{client_id}/hours/{hours_id}")


# what every page of one set has


def used_periods(one: OpenHours) -> list[str]:
    """The periods that flows name."""
    return sorted({period for place in one.places for period in place.periods})


def show(
    request: Request, signed: Any, one: OpenHours, tab: str, problems: Problems | None = None, template: str = "",
    **values: Any,
) -> Response:  # fmt: skip
    """A page of one set: its sentence now, in its own time and the reader's, and its parts."""
    pages: Pages = request.app.state.pages
    house = house_of(request)
    now = house.now()
    own = sets.zone_for(one.table, one.client)
    reader = zone_here(request)
    return pages.show(
        request, template or f"hours/{tab}.html", signed, client=one.client, section="hours", status=422 if problems else 200,
        one=one, tab=tab, sentence=words.sentence(one.table, now), own_zone=own, zone=one.table.zone.key,
        own_words=words.sentence(one.table, now, reader) if differs(now, reader, one.table.zone) else "",
        here=f"/clients/{one.client.id}/hours/{one.set.id}", errors=by_field(problems or []),
        paint_at=f"/clients/{one.client.id}/hours/{one.set.id}/paint", **values,
    )  # fmt: skip
