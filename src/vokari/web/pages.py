"""Rendering: templates, what every page carries, and how times, numbers and lengths are written."""

import time
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import unquote
from zoneinfo import ZoneInfo

import jinja2
from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from ..core.agency.zones import zone_of
from ..core.calls.fates import FAIL_SAFE, FATE_NAMES, FATES, REASONS
from ..core.checks.finding import alike
from ..core.checks.mends import mend_words
from ..core.flows.shown import words
from ..core.numbers.numbering import caller_in_words, caller_shown, shown
from ..core.numbers.ringing import usual_seconds
from ..work.agency import column, today
from ..work.agency.access import Actor
from ..work.agency.accounts import SignedIn
from ..work.agency.clients import ClientName
from ..work.hours import switches
from ..work.house.house import House
from ..work.house.problems import Problem
from ..work.house.views import ClientView
from .doors import masked

ZONE_COOKIE = "vokari_zone"
HERE = Path(__file__).parent
MARKS_KEPT = 5.0
"""Seconds for which the marks of the column are kept."""


def clock(moment: datetime, zone: str) -> str:
    """A moment as "Tue 14:05"."""
    return moment.astimezone(ZoneInfo(zone)).strftime("%a %H:%M")


def moment(value: datetime | str, zone: str) -> str:
    """A moment as "Nov 24, 14:05"."""
    at = datetime.fromisoformat(value) if isinstance(value, str) else value
    local = at.astimezone(ZoneInfo(zone))
    return f"{local:%b} {local.day}, {local:%H:%M}"


def day_words(value: datetime, zone: str, now: datetime) -> str:
    """A day as "Nov 24" in the present year, "Nov 24, 2025" in another."""
    local = value.astimezone(ZoneInfo(zone))
    year = "" if local.year == now.astimezone(ZoneInfo(zone)).year else f", {local.year}"
    return f"{local:%b} {local.day}{year}"


@jinja2.pass_context
def day(context: jinja2.runtime.Context, value: datetime, zone: str) -> str:
    """As `day_words`, for the moment of the page."""
    return day_words(value, zone, context["now"])


def utc(value: datetime) -> str:
    """A moment in UTC as a form sends it back, to the microsecond."""
    return value.astimezone(UTC).replace(tzinfo=None).isoformat()


def duration(seconds: float) -> str:
    """Seconds as "1:05"."""
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"


def calls(count: int) -> str:
    """So many calls, in words."""
    return "1 call" if count == 1 else f"{count} calls"


WEIGHTS = {"stops": "Blocks", "asks": "Asks", "advises": "Advice"}
"""What findings do to Put live, by their weight."""


def templates() -> jinja2.Environment:
    """The environment of all templates; everything is escaped."""
    environment = jinja2.Environment(
        loader=jinja2.FileSystemLoader(HERE / "templates"), autoescape=True, undefined=jinja2.StrictUndefined,
        trim_blocks=True, lstrip_blocks=True, auto_reload=False,
    )  # fmt: skip
    environment.filters.update(clock=clock, moment=moment, day=day, utc=utc, duration=duration, number=shown,
        caller=caller_shown, caller_in_words=caller_in_words, calls=calls, ring_seconds=usual_seconds,
    )  # fmt: skip
    environment.globals.update(
        WEIGHTS=WEIGHTS, alike=alike, FATES=FATES, FATE_NAMES=FATE_NAMES, REASONS=REASONS, FAIL_SAFE=FAIL_SAFE, mend_words=mend_words, summary=words.summary,
        target_words=words.target_words, exit_name=words.exit_name, room=490,
    )  # fmt: skip
    return environment


class Pages:
    """Renders pages for one house."""

    def __init__(self, house: House) -> None:
        self.house = house
        self.environment = templates()
        self.marks: dict[int, tuple[float, list[ClientName]]] = {}

    def show(
        self, request: Request, template: str, signed: SignedIn, *, client: ClientView | None = None, section: str = "",
        status: int = 200, **values: Any,
    ) -> HTMLResponse:  # fmt: skip
        """A whole page in the frame; a request for a part of the page gets the template’s own part only."""
        context = {
            **self.around(request, signed, client),
            "section": section,
            **values,
            "errors": Sentences(values.get("errors") or {}),
        }
        return self._html(template, context, status)

    def around(self, request: Request, signed: SignedIn, client: ClientView | None) -> dict[str, Any]:
        """What the frame shows: the clients, with a mark where something needs a person, the client's hours, and the time. What
        only a whole page shows is looked up when the frame is drawn."""
        now, reader, client_id = self.house.now(), zone_here(request), client.id if client else None
        here = reader.key if client and reader and differs(now, reader, ZoneInfo(client.time_zone)) else ""
        return {
            "request": request, "signed": signed, "form_token": masked(signed.form_token), "actor": signed.actor, "client": client,
            "column_of": partial(column.view, self.house, signed.actor, client_id),
            "in_need_of": partial(self.needing, signed.actor), "shown_in_need": column.SHOWN,
            "top_of": partial(switches.top_line, self.house, signed.actor),
            "now": now, "partial": is_partial(request), "said": "", "your_zone": here,
            "beside": request.headers.get("sec-fetch-dest") == "iframe",
        }  # fmt: skip

    def needing(self, actor: Actor) -> list[ClientName]:
        """The clients that need a person, worst first. Every page shows them, so they may be a few seconds old."""
        if not actor.works:
            return []
        known = self.marks.get(actor.agency_id)
        if known is None or time.monotonic() - known[0] > MARKS_KEPT:
            known = (time.monotonic(), today.clients_in_need(self.house, actor))
            self.marks[actor.agency_id] = known
        return known[1]

    def part(
        self, request: Request, template: str, signed: SignedIn, client: ClientView | None = None, **values: Any
    ) -> HTMLResponse:
        """A part of a page, without the frame."""
        context = {**self.around(request, signed, client), "partial": True, "errors": Sentences(), **values}
        return self._html(template, context)

    def plain(self, template: str, status: int = 200, **values: Any) -> HTMLResponse:
        """A page for somebody who is not signed in."""
        return self._html(template, values, status)

    def _html(self, template: str, context: dict[str, Any], status: int = 200) -> HTMLResponse:
        """A template with the signs (the macros of `signs.html`), which pages and parts alike may use."""
        signs = self.environment.get_template("signs.html").make_module(context)
        return HTMLResponse(self.environment.get_template(template).render({**context, "signs": signs}), status)


def zone_here(request: Request) -> ZoneInfo | None:
    """The time zone of the reader's browser, which a script of ours keeps in a cookie; None while it is not known."""
    return zone_of(unquote(request.cookies.get(ZONE_COOKIE, "")[:60]) or "-")


def differs(now: datetime, reader: ZoneInfo | None, zone: ZoneInfo) -> bool:
    """Whether the reader's clock shows another time than one of this zone."""
    return reader is not None and now.astimezone(reader).utcoffset() != now.astimezone(zone).utcoffset()


def is_partial(request: Request) -> bool:
    """Whether htmx asks for a part of a page rather than the whole; a restored history entry needs the whole."""
    headers = request.headers
    return headers.get("HX-Request") == "true" and headers.get("HX-History-Restore-Request") != "true"


def go(request: Request, url: str) -> Response:
    """Sends the browser on after a form, whether htmx or the browser itself posted it."""
    if is_partial(request):
        return Response(status_code=204, headers={"HX-Redirect": url})
    return RedirectResponse(url, 303)


class Sentences(dict[str, str]):
    """What is wrong, by field; a field with nothing wrong has an empty sentence."""

    def __missing__(self, field: str) -> str:
        return ""


def by_field(problems: list[Problem]) -> Sentences:
    """Problems by field, the first of each."""
    found = Sentences()
    for problem in problems:
        found.setdefault(problem.field, problem.sentence)
    return found
