"""A client: its route map, its settings, its mailboxes; and the agency's test phones."""

import re
from dataclasses import asdict
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.agency import zones
from ...core.calls.fates import FATES
from ...core.numbers import choosing, naming
from ...core.reports import periods
from ...core.reports import route_map as routemap
from ...core.reports.route_map import Lane
from ...work.agency import clients, mailboxes, trail
from ...work.agency.access import allow_agency
from ...work.agency.clients import COUNTRIES, ClientForm, NumberRules
from ...work.house.views import ClientView
from ...work.numbers import numbers
from ...work.reports import reports
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()


def client_form(posted: Posted) -> ClientForm:
    """The form of a client as it was posted."""
    return ClientForm(
        posted.text("name"),
        posted.text("country"),
        posted.text("time_zone").strip(),
        posted.text("city"),
        posted.text("fail_safe"),
    )


def _zones(request: Request, form: ClientForm) -> dict[str, Any]:
    """What the choice of the time zone shows: the zones that fit the place, the country's others, and all there are."""
    country = form.country if form.country in COUNTRIES else ""
    fitting = clients.zones_for(house_of(request), country, form.city)
    others = [zone for zone in zones.of_country(country) if zone not in fitting]
    return {"fitting": fitting, "others": others, "zones": sorted(available_timezones()), "countries": COUNTRIES}


@router.get("/clients/new")
def new(request: Request, signed: Signed) -> Response:
    """The form of a new client."""
    allow_agency(signed.actor)
    pages: Pages = request.app.state.pages
    empty = ClientForm("", "US", "")
    return pages.show(request, "agency/client_new.html", signed, form=empty, agreed="", **_zones(request, empty))


@router.get("/clients/zones")
def zones_of_place(
    request: Request, signed: Signed, country: str = "", city: str = "", time_zone: str = ""
) -> Response:
    """The choice of the time zone, made anew for a place; one that was chosen stays while it fits."""
    allow_agency(signed.actor)
    pages: Pages = request.app.state.pages
    house = house_of(request)
    stays = time_zone in [zone.key for zone in clients.zones_for(house, country, city)]
    form = ClientForm("", country, time_zone if stays else "", city)
    return pages.part(request, "agency/zone_field.html", signed, form=form, agreed="", **_zones(request, form))


@router.post("/clients/new")
def take_on(request: Request, posted: Form) -> Response:
    """Takes a client on, and goes to its route map."""
    form = client_form(posted)
    result = clients.take_on(house_of(request), posted.actor, form, posted.text("zone_agreed"))
    if isinstance(result, ClientView):
        return go(request, f"/clients/{result.id}/numbers")
    pages: Pages = request.app.state.pages
    return pages.show(
        request,
        "agency/client_new.html",
        posted.signed,
        status=422,
        form=form,
        agreed=form.time_zone,
        errors=by_field(result),
        **_zones(request, form),
    )


@router.get("/clients/{client_id}")
@at_once
def route_map(request: Request, signed: Signed, client_id: Id, period: str = "30") -> Response:
    """The client's page: lead sources, flows and fates of a period, drawn."""
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    today = house.now().astimezone(ZoneInfo(client.time_zone)).date()
    chosen = periods.latest(periods.CHOICES.get(period, 30), today)
    view = numbers.routes_view(house, signed.actor, client_id)
    routes = reports.routes(house, signed.actor, client_id, chosen)
    lanes = [Lane(*lane) for lane in view.lanes]
    known = {(lane.source_id, lane.number_id) for lane in lanes}
    passed = dict.fromkeys(
        (source, number, flow) for source, number, flow, _, _ in routes if (source, number) not in known
    )
    rest = {source for source, number, _ in passed if number}
    lanes = [lane for lane in lanes if lane.number_id or lane.source_id not in rest] + [Lane(*one) for one in passed]
    total: dict[str, int] = dict.fromkeys(FATES, 0)
    for _, _, _, fate, count in routes:
        total[fate] += count
    response: Response = pages.show(
        request, "agency/route_map.html", signed, client=client, section="map", map=routemap.draw(lanes, routes), view=view,
        period=period, total=total, sizes=routemap, choices=periods.CHOICES,
    )  # fmt: skip
    return response


@router.get("/clients/{client_id}/settings")
@at_once
def settings(request: Request, signed: Signed, client_id: Id, mailbox: Id = 0) -> Response:
    """The client's settings, its mailboxes, and the agency's test phones."""
    return _settings(request, signed, client_id, mailbox_open=mailbox)


def _settings(request: Request, signed: Signed, client_id: int, status: int = 200, **values: object) -> Response:
    house, pages = house_of(request), request.app.state.pages
    boxes = mailboxes.of_client(house, signed.actor, client_id)
    client = clients.get(house, signed.actor, client_id)
    form = clients.form_of(client)
    typed = values.get("form")
    shown = typed if isinstance(typed, ClientForm) else form
    defaults = {
        "form": form,
        "form_was": asdict(form),
        "rules_was": asdict(clients.rules_of(client)),
        "box_was": mailboxes.stands,
        "box_can": mailboxes.steps(house, signed.actor, client_id) if signed.actor.works else {},
        "agreed": "",
        "mailbox_open": 0,
        "mailbox_errors": {},
        "mailbox_typed": {},
        "phone_errors": {},
        "phone_typed": "",
        "rules": client,
        "likenesses": choosing.LIKENESSES,
        "naming_fields": naming.FIELDS,
    }
    response: Response = pages.show(
        request, "agency/settings.html", signed, client=client, section="settings", status=status, **_zones(request, shown),
        mailboxes=boxes, told=mailboxes.told_in_words(house, signed.actor, client_id), test_phones=clients.test_phones(house, signed.actor), **{**defaults, **values},
    )  # fmt: skip
    return response


@router.post("/clients/{client_id}/settings")
def change(request: Request, posted: Form, client_id: Id) -> Response:
    """Saves the settings."""
    form = client_form(posted)
    result = clients.change(house_of(request), posted.actor, client_id, form, posted.was(), posted.text("zone_agreed"))
    if isinstance(result, ClientView):
        return go(request, f"/clients/{client_id}/settings")
    return _settings(request, posted.signed, client_id, 422, form=form, agreed=form.time_zone, errors=by_field(result))


@router.get("/clients/{client_id}/trail")
@at_once
def what_was_done(request: Request, signed: Signed, client_id: Id, before: Id | None = None) -> Response:
    """The audit trail."""
    house, pages = house_of(request), request.app.state.pages
    lines = trail.listed(house, signed.actor, client_id, before)
    more = lines[trail.PAGE - 1].id if len(lines) > trail.PAGE else None
    client = clients.get(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "agency/trail.html", signed, client=client, section="settings", lines=lines[: trail.PAGE], more=more
    )


@router.post("/clients/{client_id}/number-rules")
def set_number_rules(request: Request, posted: Form, client_id: Id) -> Response:
    """Saves the rules for numbers."""
    rules = NumberRules(
        posted.text("naming_pattern"), bool(posted.text("same_area")), posted.text("likeness"), posted.whole("rest_days"),
        posted.text("rest_words"), posted.text("rest_to"),
    )  # fmt: skip
    problems = clients.set_number_rules(house_of(request), posted.actor, client_id, rules, posted.was())
    if problems:
        return _settings(request, posted.signed, client_id, 422, rules=rules, errors=by_field(problems))
    return go(request, f"/clients/{client_id}/settings#number-rules")


@router.post("/clients/{client_id}/mailboxes")
def keep_mailbox(request: Request, posted: Form, client_id: Id) -> Response:
    """Makes or changes a mailbox, or takes its latest change back."""
    typed = {"name": posted.text("name"), "tell": posted.text("tell"), "agreed": posted.text("agreed")}
    mailbox_id = posted.whole("mailbox")
    if posted.text("do") in ("undo", "redo"):
        problems = mailboxes.step_back(house_of(request), posted.actor, client_id, mailbox_id or 0, posted.text("do"))
    else:
        result = mailboxes.keep(
            house_of(request), posted.actor, client_id, mailbox_id, typed["name"], typed["tell"], typed["agreed"].split(),
            posted.was(),
        )  # fmt: skip
        problems = result if isinstance(result, list) else []
    if problems:
        typed["agreed"] = " ".join(one for one in re.split(r"[,;\s]+", typed["tell"]) if "@" in one)
        values = {"mailbox_open": mailbox_id or -1, "mailbox_errors": by_field(problems), "mailbox_typed": typed}
        return _settings(request, posted.signed, client_id, 422, **values)
    return go(request, f"/clients/{client_id}/settings#mailboxes")


@router.post("/clients/{client_id}/test-phones")
def add_test_phone(request: Request, posted: Form, client_id: Id) -> Response:
    """Adds a test phone, or takes one out."""
    house = house_of(request)
    client = clients.get(house, posted.actor, client_id)
    remove = posted.whole("remove")
    if remove:
        clients.remove_test_phone(house, posted.actor, remove)
        return go(request, f"/clients/{client_id}/settings#test-phones")
    typed = posted.text("number")
    result = clients.add_test_phone(house, posted.actor, typed, posted.text("name"), client.country)
    if isinstance(result, list):
        return _settings(request, posted.signed, client_id, 422, phone_errors=by_field(result), phone_typed=typed)
    return go(request, f"/clients/{client_id}/settings#test-phones")
