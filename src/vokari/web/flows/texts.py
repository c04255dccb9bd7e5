"""A flow as indented text: written out, typed, pasted."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.flows.shown import drawing, outline
from ...work.flows import texts
from ...work.flows.drafts import Conflict
from ...work.flows.texts import Text
from ..doors import Form, Id, Signed, house_of
from ..pages import Pages, by_field

router = APIRouter()


@router.get("/clients/{client_id}/flows/{flow_id}/text")
def show(request: Request, signed: Signed, client_id: Id, flow_id: Id) -> Response:
    """The draft as text."""
    return _show(request, signed, texts.opened(house_of(request), signed.actor, client_id, flow_id))


def _show(request: Request, signed: Any, found: Text, status: int = 200, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    document = found.draft.shown
    rows = outline.outline(document)
    usual: dict[str, Any] = {"typed": found.text, "errors": {}, "conflict": None, "saved": False}
    return pages.show(
        request, "flows/text.html", signed, client=found.draft.client, section="flows", status=status, found=found,
        draft=found.draft, document=document, rows=rows, drawing=drawing.draw(document),
        places={one.step.id: one.number for one in rows if one.step}, **{**usual, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/flows/{flow_id}/text")
def keep(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Makes the draft say what was typed; lines that are not understood stay, each with what is missing."""
    house, text = house_of(request), posted.text("text")
    kept = texts.type_in(house, posted.actor, client_id, flow_id, text, posted.whole("base"))
    if isinstance(kept, Text):
        return _show(request, posted.signed, kept, saved=True)
    found = texts.opened(house, posted.actor, client_id, flow_id)
    if isinstance(kept, Conflict):
        return _show(request, posted.signed, found, 409, typed=text, conflict=kept)
    return _show(request, posted.signed, found, 422, typed=text, errors=by_field(kept))
