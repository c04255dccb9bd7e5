"""API tokens of the agency."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.agency import tokens
from ...work.house.problems import Problems
from ..doors import Form, Signed, house_of
from ..pages import Pages, by_field, go

router = APIRouter()


@router.get("/tokens")
def listed(request: Request, signed: Signed) -> Response:
    """The agency's API tokens."""
    return _listed(request, signed)


def _listed(request: Request, signed: Any, problems: Problems | None = None, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    return pages.show(
        request, "agency/tokens.html", signed, section="tokens", status=422 if problems else 200, scopes=tokens.SCOPES,
        tokens=tokens.listed(house_of(request), signed.actor), errors=by_field(problems or []),
        **{"secret": "", "name": "", **values},
    )  # fmt: skip


@router.post("/tokens")
def change(request: Request, posted: Form) -> Response:
    """Makes a token, shown this once, or ends one."""
    house = house_of(request)
    if posted.whole("end"):
        tokens.end(house, posted.actor, posted.whole("end") or 0)
        return go(request, "/tokens")
    made = tokens.make(house, posted.actor, posted.text("name"), [str(one) for one in posted.form.getlist("scopes")])
    if isinstance(made, list):
        return _listed(request, posted.signed, made, name=posted.text("name"))
    return _listed(request, posted.signed, secret=made[1])
