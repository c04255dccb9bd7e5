"""One number: its time line, who has it and will have it, its flow, name, whisper, fail-safe, and its rest."""

from dataclasses import asdict
from datetime import UTC
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.numbers import timeline
from ...work.flows import client_flows
from ...work.house.problems import Problem, Problems
from ...work.numbers import assignments, fail_safes, number_form, number_page, resting
from ...work.numbers.number_form import NumberForm
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go
from .plan import STATE_NAMES, read_moment

router = APIRouter()
DRAWN_WIDTH = 1000.0


@router.get("/clients/{client_id}/numbers/{number_id}")
@at_once
def show(request: Request, signed: Signed, client_id: Id, number_id: Id) -> Response:
    """One number."""
    return _show(request, signed, client_id, number_id)


def _show(
    request: Request, signed: Signed, client_id: int, number_id: int, problems: Problems | None = None, **values: Any
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    page = number_page.opened(house, signed.actor, client_id, number_id)
    flows = [flow for flow, _, _ in client_flows.listed(house, signed.actor, client_id)]
    zone = ZoneInfo(page.client.time_zone)
    drawn = timeline.draw(page.spans, page.number.taken_at, house.now(), zone, DRAWN_WIDTH)
    usual = {"typed": {}, "sure": ""}
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/number.html", signed, client=page.client, section="numbers", page=page, flows=flows, drawn=drawn,
        state_names=STATE_NAMES, status=422 if problems else 200, errors=by_field(problems or []),
        was=asdict(number_form.form_of(page.number)), **{**usual, **values},
    )  # fmt: skip


def refused(request: Request, posted: Posted, client_id: int, number_id: int, problems: Problems) -> Response:
    """The page again, with what is wrong and what was typed."""
    typed = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    return _show(request, posted.signed, client_id, number_id, problems, typed=typed)


def _answer(request: Request, posted: Posted, client_id: int, number_id: int, problems: Problems) -> Response:
    if problems:
        return refused(request, posted, client_id, number_id, problems)
    return go(request, f"/clients/{client_id}/numbers/{number_id}")


def _moments(request: Request, posted: Posted, client_id: int, number_id: int) -> tuple[Any, Any, Problems]:
    """The two moments of a form in the client's time, and what is wrong with them."""
    page = number_page.opened(house_of(request), posted.actor, client_id, number_id)
    found: list[Any] = []
    problems: Problems = []
    for name in ("since", "until"):
        read = read_moment(posted.text(name), page.client.time_zone)
        if isinstance(read, Problem):
            problems.append(Problem(name, read.sentence))
        found.append(read.astimezone(UTC) if read and not isinstance(read, Problem) else None)
    return found[0], found[1], problems


@router.post("/clients/{client_id}/numbers/{number_id}/give")
def give(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Gives the number to a lead source, now or from a moment on."""
    since, until, problems = _moments(request, posted, client_id, number_id)
    source = posted.whole("source")
    problems = problems or assignments.give(house_of(request), posted.actor, client_id, number_id, source, since, until)
    return _answer(request, posted, client_id, number_id, problems)


@router.post("/clients/{client_id}/numbers/{number_id}/swap")
def swap(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Swaps the sources of two numbers."""
    since, _, problems = _moments(request, posted, client_id, number_id)
    other = posted.text("other")[:120]
    problems = problems or assignments.swap(house_of(request), posted.actor, client_id, number_id, other, since)
    return _answer(request, posted, client_id, number_id, problems)


@router.get("/clients/{client_id}/numbers/{number_id}/others")
def others(request: Request, signed: Signed, client_id: Id, number_id: Id, other: str = "") -> Response:
    """What the field of the number to swap with proposes."""
    found = assignments.others(house_of(request), signed.actor, client_id, number_id, other[:120])
    response: Response = request.app.state.pages.part(request, "numbers/others.html", signed, found=found)
    return response


@router.post("/clients/{client_id}/numbers/{number_id}/cancel")
def cancel(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Takes a planned change back; its moment comes from the page, in UTC."""
    read = read_moment(posted.text("moment"), "UTC")
    number_page.opened(house_of(request), posted.actor, client_id, number_id)
    if read is None or isinstance(read, Problem):
        return _answer(request, posted, client_id, number_id, [Problem("", "No change is planned for this moment.")])
    problems = assignments.cancel(house_of(request), posted.actor, client_id, number_id, read)
    return _answer(request, posted, client_id, number_id, [Problem("", one.sentence) for one in problems])


@router.post("/clients/{client_id}/numbers/{number_id}")
def change(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Names a number, points it at a flow, and sets its whisper and its fail-safe."""
    typed = NumberForm(posted.text("name"), posted.text("whisper"), posted.text("fail_safe"), posted.whole("flow") or 0)
    problems = number_form.keep(house_of(request), posted.actor, client_id, number_id, typed, posted.was())
    return _answer(request, posted, client_id, number_id, problems)


@router.post("/clients/{client_id}/numbers/{number_id}/fail-safe")
def tell_again(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Tells the carrier once more which fail-safe the number has."""
    fail_safes.again(house_of(request), posted.actor, client_id, number_id)
    return _answer(request, posted, client_id, number_id, [])


@router.post("/clients/{client_id}/numbers/{number_id}/rest")
def rest(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Lets a number rest, puts it back in service, or releases it."""
    house, actor = house_of(request), posted.actor
    match posted.text("do"):
        case "wake":
            problems = resting.wake(house, actor, client_id, number_id)
        case "release":
            problems = resting.release(house, actor, client_id, number_id, sure=bool(posted.text("sure")))
            if not problems:
                return go(request, f"/clients/{client_id}/numbers")
            if problems[0].field == "sure":
                return _show(request, posted.signed, client_id, number_id, problems, sure=problems[0].sentence)
        case _:
            problems = resting.rest(house, actor, client_id, [number_id])
    return _answer(request, posted, client_id, number_id, problems)
