"""Temporary switches: started on the page of hours, ended on the client's top line."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...work.hours import switches
from ..doors import Form, Id, house_of
from ..pages import go
from . import sets

router = APIRouter()


@router.post("/clients/{client_id}/hours/switch")
def start(request: Request, posted: Form, client_id: Id) -> Response:
    """Starts a temporary switch."""
    typed = {name: posted.text(name) for name in ("until", "hours", "period", "phone")}
    kind = posted.text("kind")
    set_id, period = posted.whole("hours"), ""
    if kind == "open":
        of, _, period = typed["period"].partition(":")
        set_id = asked.whole(of)
    made = switches.start(
        house_of(request), posted.actor, client_id, kind, typed["until"], set_id, period, typed["phone"]
    )
    if isinstance(made, list):
        return sets.listed_again(request, posted.signed, client_id, made, typed=typed, switched=kind)
    return go(request, f"/clients/{client_id}/hours")


@router.post("/clients/{client_id}/hours/switch/end")
def end(request: Request, posted: Form, client_id: Id) -> Response:
    """Ends a switch."""
    switches.end(house_of(request), posted.actor, client_id, posted.whole("switch") or 0)
    return go(request, f"/clients/{client_id}/hours")
