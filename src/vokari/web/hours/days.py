"""Exceptions of a set of hours: the next twelve months, each exception's form, and the month calendar."""

import re
from collections.abc import Sequence
from datetime import date
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.hours import public_days
from ...core.hours.document import DAY_NAMES, Day, Exception_, Hours, PublicHolidays, Season, clock
from ...core.hours.typed import read_day, write_day
from ...work.agency.access import NotFound
from ...work.hours import days, sets
from ...work.hours.sets import OpenHours
from ...work.house.keys import new_key
from ...work.house.problems import Problem, Problems
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import Pages, by_field, go
from . import day_forms, painter
from .sets import show

router = APIRouter()
IDENT = re.compile(r"[a-z][a-z0-9_]{0,31}")


@router.get("/clients/{client_id}/hours/{hours_id}/exceptions")
def listed(request: Request, signed: Signed, client_id: Id, hours_id: Id) -> Response:
    """The exceptions of a set: what comes in the next twelve months."""
    return _listed(request, signed, client_id, hours_id)


def _listed(
    request: Request, signed: Any, client_id: int, hours_id: int, problems: Problems | None = None, **typed: str
) -> Response:
    view = days.overview(house_of(request), signed.actor, client_id, hours_id)
    today = house_of(request).now().astimezone(view.open.table.zone).date()
    return show(
        request, signed, view.open, "days", problems, view=view, typed={"times": "", **typed}, today=today,
        day_words=days.day_words,
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/exceptions")
def change(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """Adds a day or range in short, takes an exception out, or chooses the shared lists."""
    house, actor = house_of(request), posted.actor
    match posted.text("do"):
        case "remove":
            problems = days.remove(house, actor, client_id, hours_id, posted.text("exception"))
        case "share":
            chosen = posted.ids("list")
            problems = days.share(house, actor, client_id, hours_id, chosen, posted.was())
        case _:
            one = sets.opened(house, actor, client_id, hours_id)
            made = day_forms.read(posted, "days", new_key("x"), _periods(one.hours), _year(request, one))
            problems = made if isinstance(made, list) else days.keep(house, actor, client_id, hours_id, made)
    if problems:
        typed = {name: posted.text(name) for name in ("name", "first", "last", "times")}
        return _listed(request, posted.signed, client_id, hours_id, problems, **typed)
    return go(request, f"/clients/{client_id}/hours/{hours_id}/exceptions")


# one exception


@router.get("/clients/{client_id}/hours/{hours_id}/exceptions/{ident}")
def form(
    request: Request, signed: Signed, client_id: Id, hours_id: Id, ident: str, kind: str = "days", country: str = "",
    region: str = "",
) -> Response:  # fmt: skip
    """The form of one exception."""
    one = sets.opened(house_of(request), signed.actor, client_id, hours_id)
    values = form_values(
        one.hours.exceptions, ident, kind, _periods(one.hours), _year(request, one),
        country or one.client.country, region,
    )  # fmt: skip
    return _form(request, signed, one, ident, values)


def _form(
    request: Request, signed: Any, one: OpenHours, ident: str, values: dict[str, Any], problems: Problems | None = None
) -> Response:
    return show(
        request, signed, one, "days", problems, template="hours/day.html", ident=ident,
        action=f"/clients/{one.client.id}/hours/{one.set.id}/exceptions/{ident}", was=as_kept(one.hours.exceptions, ident),
        **values,
        back=f"/clients/{one.client.id}/hours/{one.set.id}/exceptions",
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/exceptions/{ident}")
def keep(request: Request, posted: Form, client_id: Id, hours_id: Id, ident: str) -> Response:
    """Saves an exception."""
    house = house_of(request)
    one = sets.opened(house, posted.actor, client_id, hours_id)
    kind, periods, year = posted.text("kind"), _periods(one.hours), _year(request, one)
    made = read_form(posted, kind, ident, periods, year)
    problems = (
        made if isinstance(made, list) else days.keep(house, posted.actor, client_id, hours_id, made, posted.was())
    )
    if problems:
        one = sets.opened(house, posted.actor, client_id, hours_id)
        return _form(request, posted.signed, one, ident, posted_values(posted, kind, year), problems)
    return go(request, f"/clients/{client_id}/hours/{hours_id}/exceptions")


@router.get("/exceptions/holidays")
def holidays_of(request: Request, signed: Signed, country: str = "", region: str = "") -> Response:
    """The holidays of a place, for the form that picks among them; nothing is kept."""
    pages: Pages = request.app.state.pages
    country = country if country in public_days.countries() else ""
    region = region if region in public_days.regions(country) else ""
    values = _place(country, region, house_of(request).now().year, {})
    return pages.part(request, "hours/holiday_picks.html", signed, errors=by_field([]), **values)


def form_values(
    known: Sequence[Exception_], ident: str, kind: str, periods: day_forms.Periods, year: int, country: str, region: str
) -> dict[str, Any]:  # fmt: skip
    """What the form of an exception shows: of one that is kept, or of a new one of a kind."""
    if ident == "new":
        if kind not in day_forms.KINDS:
            raise NotFound
        fields: dict[str, Any] = {"observed": "1", "country": country, "region": region}
        values = {"kind": kind, "fields": fields}
        if kind == "season":
            values |= painter.context(painter.of_week(((),) * 7, periods))
        if kind == "holidays":
            values |= _place(country, region, year, {})
        return values
    one = next((entry for entry in known if entry.id == ident), None)
    if one is None:
        raise NotFound
    values = {"kind": one.kind, "fields": day_forms.shown(one, periods)}
    if isinstance(one, Season):
        values |= painter.context(painter.of_week(one.week, periods))
    if isinstance(one, PublicHolidays):
        values |= _place(one.country, one.region, year, day_forms.picked_of(one, periods))
    return values


def as_kept(known: Sequence[Exception_], ident: str) -> dict[str, Any] | None:
    """An exception as it is kept, for its form to say what it was made of."""
    return next((one.model_dump(mode="json") for one in known if one.id == ident), None)


def posted_values(posted: Posted, kind: str, year: int) -> dict[str, Any]:
    """What the form shows again when something was wrong: all that was typed."""
    kind = kind if kind in day_forms.KINDS else "days"
    names = ("name", "first", "last", "times", "every_year", "cuts", "on_holidays", "observed", "country", "region")
    values: dict[str, Any] = {"kind": kind, "fields": {name: posted.text(name) for name in names}}
    if kind == "season":
        values |= painter.context(painter.posted_painting(posted))
    if kind == "holidays":
        values |= _place(posted.text("country"), posted.text("region"), year, day_forms.posted_picks(posted))
    return values


def read_form(posted: Posted, kind: str, ident: str, periods: day_forms.Periods, year: int) -> Exception_ | Problems:
    """The exception of a posted form; a new one gets an id of its own. Raises NotFound for what is no id."""
    if not IDENT.fullmatch(ident):
        raise NotFound
    if kind not in day_forms.KINDS:
        return [Problem("kind", "Choose what kind of exception this is.")]
    return day_forms.read(posted, kind, new_key("x") if ident == "new" else ident, periods, year)


def _place(country: str, region: str, year: int, picked: dict[str, str]) -> dict[str, Any]:
    return {
        "countries": public_days.countries(), "regions": public_days.regions(country), "country": country, "region": region,
        "holiday_rows": day_forms.holiday_rows(country, region, year, picked), "years": (year, year + 1),
    }  # fmt: skip


def _periods(one: Hours) -> list[tuple[str, str]]:
    return [(period.id, period.name) for period in one.periods]


def _year(request: Request, one: OpenHours) -> int:
    return house_of(request).now().astimezone(one.table.zone).year


# the month


@router.get("/clients/{client_id}/hours/{hours_id}/month")
def month(request: Request, signed: Signed, client_id: Id, hours_id: Id, of: str = "", day: str = "") -> Response:
    """A month of a set as a calendar."""
    return _month(request, signed, client_id, hours_id, of, day)


def _month(
    request: Request, signed: Any, client_id: int, hours_id: int, of: str, day: str, problems: Problems | None = None,
    **typed: str,
) -> Response:  # fmt: skip
    house = house_of(request)
    one = sets.opened(house, signed.actor, client_id, hours_id)
    today = house.now().astimezone(one.table.zone).date()
    chosen = asked.day(day)
    first = asked.day(f"{of}-01") or (chosen or today).replace(day=1)
    _, weeks = days.month_of(house, signed.actor, client_id, hours_id, first.year, first.month)
    usual = one.hours.periods[0].id
    ruling = one.table.ruling(chosen) if chosen else None
    return show(
        request, signed, one, "month", problems, weeks=weeks, first=first, today=today, chosen=chosen, ruling=ruling,
        before=_shifted(first, -1), after=_shifted(first, 1), day_names=DAY_NAMES,
        lines=lambda spans: _lines(spans, one.hours.names, usual), typed=typed,
        chosen_times=write_day(one.table.spans_on(chosen), one.hours.names, usual) if chosen else "",
        own_day=bool(ruling and ruling.kind == "days"),
    )  # fmt: skip


def _lines(spans: Day, names: dict[str, str], usual: str) -> list[str]:
    """What starts on a day, a line each interval; "closed" when nothing does."""
    if not spans:
        return ["closed"]
    return [
        f"{'' if one.period in ('', usual) else names.get(one.period, '') + ' '}{clock(one.start)}–{clock(one.end)}"
        for one in spans
    ]


@router.post("/clients/{client_id}/hours/{hours_id}/month")
def change_day(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """Closes a day of the month, gives it times of its own, or makes it as usual again."""
    house, actor = house_of(request), posted.actor
    one = sets.opened(house, actor, client_id, hours_id)
    on, typed, name = asked.day(posted.text("day")), posted.text("times"), " ".join(posted.text("name").split())[:80]
    problems: Problems = []
    spans: Any = None
    if on is None:
        problems.append(Problem("day", "Choose a day."))
    elif posted.text("do") == "close":
        spans = ()
    elif posted.text("do") == "times":
        read = read_day(typed, dict(_periods(one.hours)), one.hours.periods[0].id)
        if isinstance(read, str):
            problems.append(Problem("times", read))
        else:
            spans = read
    if on is not None and not problems:
        problems = days.set_day(house, actor, client_id, hours_id, on, spans, name)
    if problems or on is None:
        of, day = posted.text("of"), posted.text("day")
        return _month(request, posted.signed, client_id, hours_id, of, day, problems, times=typed, name=name)
    return go(request, f"/clients/{client_id}/hours/{hours_id}/month?of={on:%Y-%m}&day={on.isoformat()}")


def _shifted(first: date, by: int) -> str:
    months = first.year * 12 + first.month - 1 + by
    return f"{months // 12:04d}-{months % 12 + 1:02d}"
