"""The proof below the sheet: what it found of the draft, how calls can end, and each of those calls at the telephone."""

from datetime import datetime

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.flows.shown import outline
from ...work.flows import open_drafts
from ...work.proof import examples, proving
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import go

router = APIRouter()


@router.get("/clients/{client_id}/flows/{flow_id}/proof")
@at_once
def show(request: Request, signed: Signed, client_id: Id, flow_id: Id, beside: str = "") -> Response:
    """The part of the page that shows the proof, beside the rows or the text; a draft that is not proven is being proven from now on, one without
    steps has nothing to show."""
    house, pages = house_of(request), request.app.state.pages
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    if not draft.document.steps:
        return Response(status_code=200, media_type="text/html")
    shown = proving.shown(house, signed.actor, client_id, flow_id)
    rows = outline.outline(draft.shown)
    places = {one.step.id: one.number for one in rows if one.step}
    names = {one.step.id: one.step.name for one in rows if one.step}
    until = datetime.fromisoformat(shown.document["until"]) if shown.document and "until" in shown.document else None
    response: Response = pages.show(
        request,
        "flows/proof.html",
        signed,
        client=draft.client,
        draft=draft,
        shown=shown,
        places=places,
        names=names,
        until=until,
        beside=beside,
    )
    return response


@router.post("/clients/{client_id}/flows/{flow_id}/proof/{end}")
def play(request: Request, posted: Form, client_id: Id, flow_id: Id, end: Id) -> Response:
    """Opens the telephone on the example call of one way of ending, by its place in the proof."""
    rehearsal = examples.play(house_of(request), posted.actor, client_id, flow_id, end)
    return go(request, f"/clients/{client_id}/rehearsals/{rehearsal.id}")


@router.post("/clients/{client_id}/flows/{flow_id}/found/{finding_id}")
def play_live(request: Request, posted: Form, client_id: Id, flow_id: Id, finding_id: Id) -> Response:
    """Opens the telephone on the example call of a finding of what is live."""
    rehearsal = examples.play_live(house_of(request), posted.actor, client_id, flow_id, finding_id)
    return go(request, f"/clients/{client_id}/rehearsals/{rehearsal.id}")
