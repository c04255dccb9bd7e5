"""What was spent on campaigns: typed, or brought in as a list that is looked at first."""

from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from ...core import asked
from ...core.reports import money
from ...formats import lists, spend_lists
from ...formats.lists import Table
from ...formats.spend_lists import COLUMN_NAMES
from ...work.house import apart
from ...work.house.problems import Problem, Problems
from ...work.reports import spending
from ...work.reports.spending import Spent
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()


@router.get("/clients/{client_id}/spend")
@at_once
def show(request: Request, signed: Signed, client_id: Id) -> Response:
    """The spend of the latest months, and where more is typed."""
    return _show(request, signed, client_id)


def _show(
    request: Request, signed: Any, client_id: int, problems: Problems | None = None, *, status: int = 200, **values: Any
) -> Response:
    pages: Pages = request.app.state.pages
    found = spending.view(house_of(request), signed.actor, client_id)
    usual: dict[str, Any] = {"typed": {}, "text": "", "table": None, "lines": [], "mapping": (), "there": set()}
    return pages.show(
        request, "reports/spend.html", signed, client=found.client, section="report", found=found, columns=COLUMN_NAMES,
        money=lambda amount: money.shown(amount, found.currency), errors=by_field(problems or []), status=422 if problems else status,
        **{**usual, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/spend")
def type_in(request: Request, posted: Form, client_id: Id) -> Response:
    """Keeps what was typed, or takes the latest entry back."""
    house, actor = house_of(request), posted.actor
    if posted.text("do") == "undo":
        problems = spending.undo(house, actor, client_id, posted.whole("entry") or 0)
        return (
            _show(request, posted.signed, client_id, problems)
            if problems
            else go(request, f"/clients/{client_id}/spend")
        )
    typed = {name: posted.text(name) for name in ("campaign", "first", "last", "amount", "each")}
    first, last = asked.day(typed["first"]), asked.day(typed["last"])
    problems = [Problem("last", "Give the day, as in 2026-11-24.")] if typed["last"].strip() and last is None else []
    kept = problems or spending.type_in(
        house, actor, client_id, typed["campaign"], first, last, typed["amount"], each=typed["each"] == "day"
    )
    if isinstance(kept, list):
        return _show(request, posted.signed, client_id, kept, typed=typed)
    return go(request, f"/clients/{client_id}/spend")


@router.post("/clients/{client_id}/spend/list")
async def bring(request: Request, posted: Form, client_id: Id) -> Response:
    """Shows what a list says, then keeps it."""
    upload = posted.upload("file")
    content = await upload.read(lists.MOST_BYTES + 1) if upload and upload.filename else b""
    return await run_in_threadpool(_bring, request, posted, client_id, content)


def _bring(request: Request, posted: Posted, client_id: int, content: bytes) -> Response:
    house, actor = house_of(request), posted.actor
    found = spending.view(house, actor, client_id)
    text = lists.decode(content) if content else posted.text("text")
    read = "This file is no text: save the list as CSV." if text is None else apart.worked_out(spend_lists.read, text)
    read = read.sentence if isinstance(read, Problem) else read
    if isinstance(read, str):
        return _show(request, posted.signed, client_id, [Problem("text", read)], text=text or "")
    mapping = _mapping(posted, read)
    missing = [name for name in COLUMN_NAMES if name not in mapping]
    today = house.now().astimezone(ZoneInfo(found.client.time_zone)).date()
    lines = spend_lists.lines(read, mapping, found.campaigns, found.client.country, today)
    good = [Spent(one.campaign, one.day, one.amount) for one in lines if not one.problem and one.day]
    there = spending.known(house, actor, client_id, good)
    values: dict[str, Any] = {"text": text, "table": read, "lines": lines, "mapping": mapping, "there": there}
    if missing:
        wrong = [Problem("mapping", f"Choose which column holds the {' and the '.join(missing)}.")]
        return _show(request, posted.signed, client_id, wrong, **values)
    if posted.text("do") != "keep":
        return _show(request, posted.signed, client_id, **values)
    if posted.text("again") != "replace":
        good = [one for one in good if (one.campaign.lower(), one.day) not in there]
    kept = spending.keep(house, actor, client_id, good)
    if isinstance(kept, list):
        return _show(request, posted.signed, client_id, [Problem("text", one.sentence) for one in kept], **values)
    return go(request, f"/clients/{client_id}/spend")


def _mapping(posted: Posted, table: Table) -> tuple[str, ...]:
    """What each column is: as the form says, else as guessed; what two columns claim belongs to the first."""
    if posted.form.get("column-0") is None:
        return spend_lists.guess(table)
    chosen = [posted.text(f"column-{index}") for index in range(table.width)]
    return tuple(one if one in COLUMN_NAMES and chosen.index(one) == n else "" for n, one in enumerate(chosen))
