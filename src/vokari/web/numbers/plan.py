"""The plan of a client's numbers: narrowed, ordered, exported, and changed many at once."""

from datetime import datetime
from typing import Any, Literal
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.calls.fates import FATE_NAMES, FATES
from ...core.numbers import numbering
from ...formats.tables import to_file
from ...work.agency import clients
from ...work.house.problems import Problem, Refused
from ...work.numbers import bulk, health, orders, plan, resting
from ...work.numbers.plan import Asked, PlanLine
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go
from .plan_rows import rows_of

router = APIRouter()

STATE_NAMES = {
    "in_service": "in service", "resting": "resting", "awaiting_documents": "awaiting documents",
    "porting_in": "porting in", "released": "released",
}  # fmt: skip


SHOWN = 200
"""How many numbers are shown unless all are asked for."""


def read_asked(request: Request) -> tuple[Asked, dict[str, str]]:
    """How the address asks for the plan, and what was typed."""
    typed = {
        name: request.query_params.get(name, "")[:60] for name in ("q", "state", "flow", "lacks", "sort", "way", "all")
    }
    return Asked(
        typed["q"], typed["state"], asked.whole(typed["flow"]), typed["lacks"], typed["sort"], typed["way"] == "down"
    ), typed


@router.get("/clients/{client_id}/numbers")
@at_once
def show(request: Request, signed: Signed, client_id: Id) -> Response:
    """The plan of the client's numbers."""
    return _show(request, signed, client_id)


def _show(request: Request, signed: Signed, client_id: int, status: int = 200, **values: Any) -> Response:
    house, pages = house_of(request), request.app.state.pages
    asked, typed = read_asked(request)
    found = plan.view(house, signed.actor, client_id, asked)
    usual: dict[str, Any] = {"chosen": set(), "wanted": bulk.Wanted(), "undo": request.query_params.get("undo", "")}
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/plan.html", signed, client=found.client, section="numbers", status=status, plan=found, typed=typed,
        rows=rows_of(found, STATE_NAMES, house.now(), most=None if typed["all"] else SHOWN),
        state_names=STATE_NAMES, lack_names=plan.LACKS, grouped=typed["sort"] not in plan.SORTS,
        query=request.url.query, order=orders.latest(house, signed.actor, client_id), **{**usual, **values},
    )  # fmt: skip


HEADER = (
    "Number", "Name", "Lead source", "Medium", "Campaign", "Placement", "Online", "Place", "Kind", "State", "Flow", "Since",
    "Calls in 30 days", *(f"{FATE_NAMES[fate].capitalize()} in 30 days" for fate in FATES), "Days since the last call",
    "Monthly rent, USD", "Fail-safe", "Whisper",
)  # fmt: skip


@router.get("/clients/{client_id}/numbers.{kind}")
def export(request: Request, signed: Signed, client_id: Id, kind: Literal["csv", "xlsx"]) -> Response:
    """The plan as it stands on the page, as CSV or a spreadsheet."""
    asked, _ = read_asked(request)
    found = plan.view(house_of(request), signed.actor, client_id, asked)
    zone = ZoneInfo(found.client.time_zone)
    content, media = to_file(kind, "Numbers", HEADER, (_cells(one, zone) for one in found.numbers))
    headers = {"Content-Disposition": f'attachment; filename="numbers.{kind}"'}
    return Response(content, media_type=media, headers=headers)


def _cells(one: PlanLine, zone: ZoneInfo) -> tuple[object, ...]:
    number, source, flow = one.line.number, one.source, one.line.flow
    return (
        number.e164, number.name, source.name if source else "", source.medium if source else "",
        source.campaign if source else "", source.placement if source else "", "yes" if source and source.online else "no",
        number.place, number.kind.replace("_", "-"), STATE_NAMES.get(number.state, number.state), flow.name if flow else "",
        one.since.astimezone(zone).isoformat(timespec="minutes"), one.calls, *(one.by_fate.get(fate, 0) for fate in FATES),
        "" if one.days_silent is None else one.days_silent, number.rent, one.fail_safe, number.whisper,
    )  # fmt: skip


# many at once


def _wanted(posted: Posted) -> bulk.Wanted:
    """What the form sets: a field counts only when its own box is ticked."""

    def ticked(name: str) -> bool:
        return bool(posted.text(f"set_{name}"))

    return bulk.Wanted(
        source=(posted.whole("source") or 0) if ticked("source") else None,
        flow=(posted.whole("flow") or 0) if ticked("flow") else None,
        placement=posted.text("placement") if ticked("placement") else None,
        whisper=posted.text("whisper") if ticked("whisper") else None,
        fail_safe=posted.text("fail_safe") if ticked("fail_safe") else None,
        name="" if ticked("name") else None,
    )


def _chosen(posted: Posted) -> list[int]:
    return asked.wholes(posted.form.getlist("number"))


@router.post("/clients/{client_id}/numbers/change")
def change(request: Request, posted: Form, client_id: Id) -> Response:
    """Shows what would change, and changes it when that was seen."""
    house, pages = house_of(request), request.app.state.pages
    chosen, wanted = _chosen(posted), _wanted(posted)
    if posted.text("do") == "apply":
        made = bulk.apply(house, posted.actor, client_id, chosen, wanted)
        if not isinstance(made, list):
            return go(request, f"/clients/{client_id}/numbers?undo={made.id}")
        problems: list[Problem] = made
    else:
        changes = bulk.preview(house, posted.actor, client_id, chosen, wanted)
        problems = changes.problems if isinstance(changes, Refused) else []
        if not changes:
            problems = [Problem("", "Nothing would change: the numbers are so already.")]
        if not problems:
            client = clients.get(house, posted.actor, client_id)
            assert isinstance(pages, Pages)
            return pages.show(
                request, "numbers/bulk.html", posted.signed, client=client, section="numbers", changes=changes, chosen=chosen,
                wanted=wanted, field_names=bulk.FIELDS,
            )  # fmt: skip
    return _show(request, posted.signed, client_id, 422, chosen=set(chosen), wanted=wanted, errors=by_field(problems))


@router.post("/clients/{client_id}/numbers/undo")
def undo(request: Request, posted: Form, client_id: Id) -> Response:
    """Takes a change of many numbers back."""
    problems = bulk.undo(house_of(request), posted.actor, client_id, posted.whole("entry") or 0)
    if problems:
        return _show(request, posted.signed, client_id, 422, errors=by_field(problems))
    return go(request, f"/clients/{client_id}/numbers")


# health


@router.get("/clients/{client_id}/numbers/health")
@at_once
def healthy(request: Request, signed: Signed, client_id: Id) -> Response:
    """Numbers that cost more than they bring."""
    return _health(request, signed, client_id)


def _health(request: Request, signed: Signed, client_id: int, status: int = 200, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    found = health.look(house_of(request), signed.actor, client_id)
    return pages.show(
        request,
        "numbers/health.html",
        signed,
        client=found.client,
        section="numbers",
        health=found,
        status=status,
        **values,
    )


@router.post("/clients/{client_id}/numbers/health")
def let_rest(request: Request, posted: Form, client_id: Id) -> Response:
    """Lets the chosen numbers rest, in one step."""
    house, chosen = house_of(request), _chosen(posted)
    clients.get(house, posted.actor, client_id)
    problems = resting.rest(house, posted.actor, client_id, chosen)
    if not chosen:
        problems = [Problem("", "Choose at least one number.")]
    if problems:
        return _health(request, posted.signed, client_id, 422, errors=by_field(problems))
    return go(request, f"/clients/{client_id}/numbers?state=resting")


def shown_in(e164: str, country: str) -> str:
    """A number as the client's country writes it."""
    return numbering.shown(e164, country)


def read_moment(text: str, zone: str) -> datetime | Problem | None:
    """A moment as a form gives it, in the client's time; None for an empty field."""
    if not text.strip():
        return None
    found = asked.moment(text)
    if found is None:
        return Problem("since", "Write the moment as 2026-11-24T14:05, in the years 2000 to 2099.")
    return found.replace(tzinfo=ZoneInfo(zone))
