"""The page on which people switch themselves on and off, for a phone in the hand; the address is the secret."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import FormData

from ...work.agency.access import NotFound
from ...work.people import on_duty
from ..doors import house_of, read_form
from ..pages import Pages

router = APIRouter()


@router.get("/duty/{token}")
def show(request: Request, token: str) -> Response:
    """The page on which somebody switches themselves on or off."""
    found = on_duty.page(house_of(request), token)
    if found is None:
        raise NotFound
    pages: Pages = request.app.state.pages
    return pages.plain("people/on_duty.html", own=found, token=token)


@router.post("/duty/{token}")
def switch(request: Request, token: str, form: Annotated[FormData, Depends(read_form)]) -> Response:
    """No form token: whoever knows the address may switch, and nobody else can make a browser post to it."""
    off = form.get("do") == "off"
    if on_duty.switch(house_of(request), token, off=off) is None:
        raise NotFound
    return RedirectResponse(f"/duty/{token}", 303)
