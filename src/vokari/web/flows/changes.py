"""What changes for callers, as a part of other pages; and for a saved change of hours, people or teams, across the flows it touches."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.flows.shown import outline
from ...work.agency import clients
from ...work.flows import open_drafts
from ...work.proof import changing
from ..doors import Id, Signed, at_once, house_of

router = APIRouter()


@router.get("/clients/{client_id}/flows/{flow_id}/changes")
@at_once
def show(
    request: Request, signed: Signed, client_id: Id, flow_id: Id, older: Id = 0, newer: Id = 0, edit: str = ""
) -> Response:
    """What changes from one version to another (0: the draft), or by an entry of a log (of:row:number)."""
    house = house_of(request)
    what = edit[:60] if edit else changing.of_versions(older, newer)
    told = changing.told(house, signed.actor, client_id, flow_id, what)
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    response: Response = request.app.state.pages.show(
        request, "flows/changes.html", signed, client=draft.client, flow=draft.flow, told=told, places=outline.numbers(draft.shown),
        here=f"/clients/{client_id}/flows/{flow_id}/changes?{request.url.query}",
    )  # fmt: skip
    return response


@router.get("/clients/{client_id}/changes/{of}/{row_id}")
@at_once
def of_edit(request: Request, signed: Signed, client_id: Id, of: str, row_id: Id) -> Response:
    """What the latest saved change of hours, a person or a team changes for the callers of every live flow."""
    house = house_of(request)
    touched = changing.touched(house, signed.actor, client_id, of, row_id)
    response: Response = request.app.state.pages.show(
        request, "flows/changed.html", signed, client=clients.get(house, signed.actor, client_id), section="hours" if of == "hours" else "people",
        touched=touched,
    )  # fmt: skip
    return response
