"""Files of hours: taken over with a preview, given out, and the private address for calendar programs."""

import hashlib
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from ...core.hours.painting import of_period
from ...core.hours.typed import write_week
from ...formats.calendar_read import LARGEST
from ...work.agency.access import NotFound
from ...work.hours import calendars, days, sets
from ...work.house.problems import Problem, Problems
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import go
from .sets import show

router = APIRouter()

MEDIA = {"ics": "text/calendar; charset=utf-8", "json": "application/json"}


@router.get("/clients/{client_id}/hours/{hours_id}/calendar")
def files(request: Request, signed: Signed, client_id: Id, hours_id: Id) -> Response:
    """Files of a set of hours: taken over, given out, and the address for calendar programs."""
    return _files(request, signed, client_id, hours_id)


def _files(
    request: Request, signed: Any, client_id: int, hours_id: int, problems: Problems | None = None, **values: Any
) -> Response:
    house = house_of(request)
    one = sets.opened(house, signed.actor, client_id, hours_id)
    address = str(request.base_url).rstrip("/") + calendars.feed_path(house, one.set)
    return show(
        request, signed, one, "calendar", problems, feed=address, modes=calendars.MODES,
        **{"preview": None, "text": "", **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/hours/{hours_id}/calendar")
async def take(request: Request, posted: Form, client_id: Id, hours_id: Id) -> Response:
    """Shows what a file would make of the set, takes it over, or renews the private address."""
    upload = posted.upload("file")
    content = await upload.read(LARGEST + 1) if upload and upload.filename else b""
    return await run_in_threadpool(_take, request, posted, client_id, hours_id, content)


def _take(request: Request, posted: Posted, client_id: int, hours_id: int, content: bytes) -> Response:
    house, actor = house_of(request), posted.actor
    back = f"/clients/{client_id}/hours/{hours_id}"
    data = content or posted.text("text").encode()
    if posted.text("do") == "renew":
        calendars.renew_feed(house, actor, client_id, hours_id)
        return go(request, f"{back}/calendar")
    if posted.text("do") == "apply":
        problems = calendars.apply(house, actor, client_id, hours_id, data, posted.text("mode"))
        return _files(request, posted.signed, client_id, hours_id, problems) if problems else go(request, back)
    one = sets.opened(house, actor, client_id, hours_id)
    if not data.strip():
        return _files(
            request, posted.signed, client_id, hours_id, [Problem("file", "Choose a file, or paste its text.")]
        )
    read = calendars.preview(house, actor, client_id, hours_id, data)
    text = data.decode("utf-8", "replace")
    if isinstance(read, list):
        return _files(request, posted.signed, client_id, hours_id, read, text="" if content else text)
    today = house.now().astimezone(one.table.zone).date()
    lines = {
        mode: [(days.when_words(entry, today), entry.name, days.says(entry, read.hours)) for entry in found]
        for mode, found in (("replace", read.hours.exceptions), ("closures", read.closures))
    }
    weeks = [
        (period.name, write_week(of_period(read.hours.week, period.id)) or "never") for period in read.hours.periods
    ]
    return _files(
        request, posted.signed, client_id, hours_id, text=text, preview=read, lines=lines, weeks=weeks,
        now_weeks=[(p.name, write_week(of_period(one.hours.week, p.id)) or "never") for p in one.hours.periods],
    )  # fmt: skip


@router.get("/clients/{client_id}/hours/{hours_id}/file.{form}")
def file(request: Request, signed: Signed, client_id: Id, hours_id: Id, form: str) -> Response:
    """The set as a calendar or an hours file."""
    if form not in MEDIA:
        raise NotFound
    name, content = calendars.export(house_of(request), signed.actor, client_id, hours_id, form)
    return Response(content, media_type=MEDIA[form], headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/calendars/{token}.ics")
def feed(request: Request, token: str) -> Response:
    """Read by calendar programs, which do not sign in: the address is the secret."""
    content = calendars.feed(house_of(request), token)
    if content is None:
        raise NotFound
    tag = f'"{hashlib.sha256(content).hexdigest()[:24]}"'
    headers = {"ETag": tag, "Cache-Control": "private, max-age=900"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
    return Response(content, media_type=MEDIA["ics"], headers=headers)
