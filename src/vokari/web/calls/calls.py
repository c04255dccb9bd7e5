"""Calls: the log, those in progress, one call with its way, and the sound of messages."""

import uuid
from collections.abc import Iterator
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response, StreamingResponse

from ...core import asked
from ...core.calls.timeline import CALLED
from ...core.flows.shown import drawing, outline, way
from ...core.numbers.numbering import caller_shown
from ...core.reports import periods
from ...formats.tables import CSV
from ...work.agency import clients
from ...work.agency.access import NotFound
from ...work.calls import calling_back, exports, history, sounding
from ...work.calls.exports import Straight
from ...work.calls.history import CallFilter, CallPage
from ...work.holding import board
from ...work.house.house import House
from ...work.house.problems import Problems
from ...work.house.views import ClientView
from ...work.numbers import sources
from ...work.reports import groups
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import Pages, by_field, go, is_partial
from .transcripts import transcript

router = APIRouter()

REPORTED = ("medium", "campaign", "key", "person", "weekday", "hour", "new")
"""What the figures of a report narrow the log by."""


def _filter(request: Request, client: ClientView) -> tuple[CallFilter, dict[str, str], str]:
    """The filter that the address asks for, what was typed, and a sentence if the period cannot be read."""
    query = request.query_params
    names = (
        "period", "first", "last", "fate", "source", "caller", "number", "flow", "label", "tests", "waiting", *REPORTED
    )  # fmt: skip
    typed = {name: query.get(name, "")[:40] for name in names}
    typed["period"] = typed["period"] or "30"
    for name, most in (("weekday", 6), ("hour", 23)):
        typed[name] = typed[name] if asked.whole(typed[name], most) is not None else ""
    zone = ZoneInfo(client.time_zone)
    today = house_of(request).now().astimezone(zone).date()
    period = periods.chosen(typed["period"], typed["first"], typed["last"], today)
    problem = period if isinstance(period, str) else ""
    since, until = (periods.latest(30, today) if isinstance(period, str) else period).instants(zone)

    wanted = CallFilter(
        since, until, fate=typed["fate"], source_id=asked.whole(typed["source"]), flow_id=asked.whole(typed["flow"]),
        label=typed["label"], number_id=asked.whole(typed["number"]), caller=typed["caller"], with_tests=bool(typed["tests"]),
        waiting=bool(typed["waiting"]), medium=typed["medium"], campaign=typed["campaign"], key=typed["key"],
        person=typed["person"], weekday=asked.whole(typed["weekday"]), hour=asked.whole(typed["hour"]), new=bool(typed["new"]),
    )  # fmt: skip
    return wanted, typed, problem


@router.get("/clients/{client_id}/calls")
@at_once
def log(request: Request, signed: Signed, client_id: Id, before: str = "") -> Response:
    """The log of calls, narrowed and by pages."""
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    wanted, typed, problem = _filter(request, client)
    found = history.log(house, signed.actor, client_id, wanted, before=_instant(before), limit=history.PAGE + 1)
    more = found[history.PAGE - 1].call.started_at if len(found) > history.PAGE else None
    values = {
        "holds": board.leads_to_lines(house, signed.actor, client_id),
        "lines": found[: history.PAGE], "more": more, "typed": typed, "live": history.in_progress(house, signed.actor, client_id),
        "sources": sources.lead_sources(house, signed.actor, client_id), "query": str(request.query_params), "narrowed": _narrowed(house, signed, client, typed),
        "errors": {"period": problem} if problem else {}, "choices": periods.CHOICES,
        **history.choices(house, signed.actor, client_id),
    }  # fmt: skip
    assert isinstance(pages, Pages)
    return pages.show(
        request, "calls/calls.html", signed, client=client, section="calls", status=422 if problem else 200, **values
    )


def _narrowed(house: House, signed: Signed, client: ClientView, typed: dict[str, str]) -> dict[str, str]:
    """What a figure of a report narrowed the log by, in words."""
    names = groups.names(house, signed.actor, client.id)
    return {name: names(name, typed[name]) if name != "new" else "new callers" for name in REPORTED if typed[name]}


@router.get("/clients/{client_id}/calls/live")
@at_once
def live_part(request: Request, signed: Signed, client_id: Id) -> Response:
    """The calls in progress, as a part of the page."""
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    response: Response = pages.part(
        request, "calls/calls_live.html", signed, client, live=history.in_progress(house, signed.actor, client_id)
    )
    return response


@router.get("/clients/{client_id}/calls.csv")
def export(request: Request, signed: Signed, client_id: Id) -> Response:
    """The calls of a period as CSV: at once, or where they are many as a file to wait for."""
    house = house_of(request)
    client = clients.get(house, signed.actor, client_id)
    wanted, _, _ = _filter(request, client)
    found = exports.ask(house, signed.actor, client_id, wanted)
    if isinstance(found, Straight):
        return _csv(found.parts)
    return RedirectResponse(f"/clients/{client_id}/exports/{found.id}", 303)


@router.get("/clients/{client_id}/exports/{export_id}")
def export_progress(request: Request, signed: Signed, client_id: Id, export_id: Id) -> Response:
    """How far an export is; asks again by itself until it is done."""
    house, pages = house_of(request), request.app.state.pages
    found = exports.progress(house, signed.actor, client_id, export_id)
    template = "calls/export_part.html" if is_partial(request) else "calls/export.html"
    client = clients.get(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(request, template, signed, client=client, section="calls", export=found, kept=exports.KEPT.days)


@router.post("/clients/{client_id}/exports/{export_id}")
def stop_export(request: Request, posted: Form, client_id: Id, export_id: Id) -> Response:
    """Stops an export."""
    exports.stop(house_of(request), posted.actor, client_id, export_id)
    return go(request, f"/clients/{client_id}/exports/{export_id}")


@router.get("/clients/{client_id}/exports/{export_id}/calls.csv")
def export_file(request: Request, signed: Signed, client_id: Id, export_id: Id) -> Response:
    """The file of an export."""
    return _csv(exports.fetch(house_of(request), signed.actor, client_id, export_id))


def _csv(parts: Iterator[bytes]) -> Response:
    headers = {"Content-Disposition": 'attachment; filename="calls.csv"'}
    return StreamingResponse(parts, media_type=CSV, headers=headers)


@router.get("/clients/{client_id}/calls/{call_id}")
@at_once
def one(request: Request, signed: Signed, client_id: Id, call_id: uuid.UUID) -> Response:
    """One call, in progress or over, with the way it took."""
    return _one(request, signed, client_id, call_id)


def _one(
    request: Request, signed: Signed, client_id: int, call_id: uuid.UUID, problems: Problems | None = None
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    page = history.one(house, signed.actor, client_id, call_id)
    template = "calls/call_desk.html" if is_partial(request) else "calls/call.html"
    assert isinstance(pages, Pages)
    return pages.show(
        request, template, signed, client=page.client, section="calls", page=page, status=422 if problems else 200,
        errors=by_field(problems or []), **_way(page),
    )  # fmt: skip


def _way(page: CallPage) -> dict[str, Any]:
    """The way the call took: lines with seconds, and the steps and exits that are lit in the map."""
    entries = page.entries
    began = datetime.fromisoformat(entries[0]["at"]) if entries else None
    timed = []
    for entry in entries:
        at = datetime.fromisoformat(entry["at"])
        timed.append({**entry, "at": (at - began).total_seconds() if began else 0.0})
    rows = outline.outline(page.document)
    taken = way.way_of(page.document, entries)
    caller = page.call.caller if page.call else page.live.context["caller"] if page.live else ""
    return {
        "lines": transcript(page.document, timed, page.names), "way": taken, "drawing": drawing.draw(page.document), "rows": rows,
        "places": {row.step.id: row.number for row in rows if row.step}, "document": page.document,
        "caller": caller_shown(caller, page.client.country), "lit": taken.last,
        "heard": sounding.heard(page), "piece_names": CALLED,
    }  # fmt: skip


@router.post("/clients/{client_id}/calls/{call_id}/call-back")
def call_back(request: Request, posted: Form, client_id: Id, call_id: uuid.UUID) -> Response:
    """The caller was rung back, or was not after all."""
    house = house_of(request)
    if posted.text("do") == "undo":
        calling_back.undone(house, posted.actor, client_id, call_id)
    else:
        problems = calling_back.done(house, posted.actor, client_id, call_id)
        if problems:
            return _one(request, posted.signed, client_id, call_id, problems)
    here = f"/clients/{client_id}/calls"
    if posted.text("from") == "service":
        return go(request, f"{here}?fate=service&period=own&first=2000-01-01&last={house.now().date()}")
    return go(request, f"{here}?waiting=1" if posted.text("from") == "list" else f"{here}/{call_id}")


@router.get("/clients/{client_id}/calls/{call_id}/sound.wav")
def whole(request: Request, signed: Signed, client_id: Id, call_id: uuid.UUID) -> Response:
    """The whole call as its caller heard it."""
    return _sound(sounding.wav(house_of(request), signed.actor, client_id, call_id))


@router.get("/clients/{client_id}/messages/{message_id}.wav")
def message(request: Request, signed: Signed, client_id: Id, message_id: Id) -> Response:
    """The sound of a voice message."""
    return _sound(history.sound_of(house_of(request), signed.actor, client_id, "message", message_id))


@router.get("/clients/{client_id}/talks/{talk_id}.wav")
def talk(request: Request, signed: Signed, client_id: Id, talk_id: Id) -> Response:
    """The sound of a recorded talk."""
    return _sound(history.sound_of(house_of(request), signed.actor, client_id, "talk", talk_id))


def _sound(sound: bytes | None) -> Response:
    if sound is None:
        raise NotFound
    return Response(sound, media_type="audio/wav", headers={"Cache-Control": "private, max-age=3600"})


def _instant(text: str) -> datetime | None:
    moment = asked.moment(text.replace(" ", "+"))
    return moment if moment and moment.tzinfo else None
