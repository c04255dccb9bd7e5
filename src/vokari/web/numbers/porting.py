"""Numbers that come across from other carriers, documents for carriers, and numbers that leave."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from ...work.agency import clients
from ...work.flows import client_flows
from ...work.house.problems import Problems
from ...work.numbers import porting, sources
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import Pages, by_field, go
from .number import refused

router = APIRouter()


@router.get("/clients/{client_id}/ports")
@at_once
def listed(request: Request, signed: Signed, client_id: Id) -> Response:
    """Numbers that come across, documents that are asked for, and numbers that leave."""
    return _list(request, signed, client_id)


def _list(
    request: Request, signed: Signed, client_id: int, problems: Problems | None = None, **values: Any
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    ports = porting.listed(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/porting.html", signed, client=clients.get(house, signed.actor, client_id), section="numbers", ports=ports,
        flows=[flow for flow, _, _ in client_flows.listed(house, signed.actor, client_id)], stage_names=porting.STAGE_NAMES,
        open_stages=porting.OPEN_STAGES, sources=sources.lead_sources(house, signed.actor, client_id),
        status=422 if problems else 200, errors=by_field(problems or []), **{"typed": {}, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/ports")
def ask(request: Request, posted: Form, client_id: Id) -> Response:
    """Asks for a number, or how the open ports stand."""
    house, actor = house_of(request), posted.actor
    if posted.text("do") == "follow":
        problems = porting.ask_now(house, actor, client_id)
        if problems:
            return _list(request, posted.signed, client_id, problems)
        return go(request, f"/clients/{client_id}/ports")
    result = porting.request(
        house, actor, client_id, posted.text("number"), posted.text("losing_carrier"), posted.text("account"),
        posted.whole("source"), posted.whole("flow"),
    )  # fmt: skip
    if isinstance(result, list):
        typed = {name: posted.text(name) for name in ("number", "losing_carrier", "account")}
        return _list(request, posted.signed, client_id, result, typed=typed)
    return go(request, f"/clients/{client_id}/ports")


@router.post("/clients/{client_id}/ports/{port_id}/withdraw")
def withdraw(request: Request, posted: Form, client_id: Id, port_id: Id) -> Response:
    """Takes a request for a port back."""
    problems = porting.withdraw(house_of(request), posted.actor, client_id, port_id)
    if problems:
        return _list(request, posted.signed, client_id, problems)
    return go(request, f"/clients/{client_id}/ports")


@router.post("/clients/{client_id}/numbers/{number_id}/documents")
async def give_document(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Gives a document that the carrier asks for."""
    upload = posted.upload("file")
    content = await upload.read() if upload and upload.filename else b""
    name = (upload.filename or "") if upload else ""
    problems = await run_in_threadpool(
        porting.give_document, house_of(request), posted.actor, client_id, number_id, posted.text("kind"), name, content
    )
    if problems:
        return await run_in_threadpool(refused, request, posted, client_id, number_id, problems)
    return go(request, f"/clients/{client_id}/numbers/{number_id}")


@router.post("/clients/{client_id}/numbers/{number_id}/leave")
def leave(request: Request, posted: Form, client_id: Id, number_id: Id) -> Response:
    """Lets a number go to another carrier."""
    problems = porting.leave(house_of(request), posted.actor, client_id, number_id, sure=bool(posted.text("sure")))
    if problems:
        return refused(request, posted, client_id, number_id, problems)
    return go(request, f"/clients/{client_id}/numbers?state=released")
