"""Rows of the sheet moved, doubled, pasted and taken out with all that hangs below them."""

from typing import cast, get_args

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.flows.outlined.blocks import Move
from ...work.flows import blocks, open_drafts
from ...work.flows.drafts import Conflict
from ...work.flows.texts import Text
from ...work.house.problems import Problem
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import by_field, go
from . import sheet

router = APIRouter()


@router.get("/clients/{client_id}/flows/{flow_id}/lines")
def lines(request: Request, signed: Signed, client_id: Id, flow_id: Id) -> Response:
    """The lines of the flow, for what is copied from its rows: each its text, its step, the exit that leads there by its step and id, and
    whether it goes on from the line above."""
    draft = open_drafts.opened(house_of(request), signed.actor, client_id, flow_id)
    found = [[one.text, one.step or "", *one.way, one.goes_on] for one in blocks.written(draft)]
    return JSONResponse({"revision": draft.flow.revision, "lines": found})


@router.post("/clients/{client_id}/flows/{flow_id}/move")
def move(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Moves a row up, down, deeper or less deep, or doubles it."""
    how, row = posted.text("how"), (posted.text("row"), posted.text("exit"))
    if how not in get_args(Move):
        result: blocks.Result = [Problem("", "A row goes up, down, deeper or less deep, or is doubled.")]
    else:
        result = blocks.move(house_of(request), posted.actor, client_id, flow_id, row, cast(Move, how))
    return _answer(request, posted, client_id, flow_id, result)


@router.post("/clients/{client_id}/flows/{flow_id}/drop")
def drop(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Puts a row that was dragged behind another, or below it."""
    row, to = (posted.text("row"), posted.text("exit")), (posted.text("to"), posted.text("to_exit"))
    below = bool(posted.text("below"))
    result = blocks.drop(house_of(request), posted.actor, client_id, flow_id, row, to, below=below)
    return _answer(request, posted, client_id, flow_id, result)


@router.post("/clients/{client_id}/flows/{flow_id}/paste")
def paste(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Puts lines of text behind a row and what hangs below it; at the end without a row."""
    row = (posted.text("row"), posted.text("exit")) if posted.text("row") else None
    result = blocks.paste(house_of(request), posted.actor, client_id, flow_id, row, posted.text("text"))
    return _answer(request, posted, client_id, flow_id, result)


@router.post("/clients/{client_id}/flows/{flow_id}/take-out")
def take_out(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Removes a row that is no step, as a key that leads elsewhere, from the flow."""
    row = (posted.text("row"), posted.text("exit"))
    return _answer(
        request, posted, client_id, flow_id, blocks.take_out(house_of(request), posted.actor, client_id, flow_id, row)
    )


def _answer(request: Request, posted: Posted, client_id: int, flow_id: int, result: blocks.Result) -> Response:
    """The sheet with the row where it stands now, opened if it was; or as it was, with what is in the way."""
    if isinstance(result, tuple):
        draft, row = result
        opened = row if posted.text("open") else ""
        return sheet.show(request, posted.signed, draft, opened, at_row=row)
    if isinstance(result, Text):
        return go(request, f"/clients/{client_id}/flows/{flow_id}/text#strangers")
    draft = open_drafts.opened(house_of(request), posted.actor, client_id, flow_id)
    row = posted.text("row")
    opened = row if posted.text("open") else ""
    if isinstance(result, Conflict):
        said = f"{result.who} changes this flow at this moment: try again."
        return sheet.show(request, posted.signed, draft, opened, status=409, said=said, at_row=row)
    said = next(iter(by_field(result).values()))
    return sheet.show(request, posted.signed, draft, opened, status=422, said=said, at_row=row)
