"""The live board of hold lines."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.holding import board
from ..doors import Id, Signed, at_once, house_of
from ..pages import Pages, is_partial

router = APIRouter()


@router.get("/clients/{client_id}/lines")
@at_once
def lines(request: Request, signed: Signed, client_id: Id) -> Response:
    """Who waits, how long, and who is free; for htmx the board alone."""
    pages: Pages = request.app.state.pages
    found = board.board(house_of(request), signed.actor, client_id)
    if is_partial(request):
        return pages.part(request, "holding/board_part.html", signed, found.client, found=found)
    return pages.show(request, "holding/board.html", signed, client=found.client, section="calls", found=found)
