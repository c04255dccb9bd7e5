"""Signing in and out."""

from typing import Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import FormData

from ..work import accounts
from ..work.house import Problem
from .doors import COOKIE, BadForm, Form, house_of, read_form
from .pages import Pages

router = APIRouter()


@router.get("/sign-in")
def form(request: Request, to: str = "/") -> Response:
    pages: Pages = request.app.state.pages
    return pages.plain("signin.html", to=_inside(to), email="", error="")


@router.post("/sign-in")
def sign_in(request: Request, form: Annotated[FormData, Depends(read_form)]) -> Response:
    origin = request.headers.get("origin")
    if origin and urlsplit(origin).netloc != request.headers.get("host"):
        raise BadForm("The form came from another site.")
    email, password = str(form.get("email", "")), str(form.get("password", ""))
    to = _inside(str(form.get("to", "/")))
    result = accounts.sign_in(house_of(request), email, password)
    pages: Pages = request.app.state.pages
    if isinstance(result, Problem):
        return pages.plain("signin.html", 422, to=to, email=email, error=result.sentence)
    response = RedirectResponse(to, 303)
    response.set_cookie(
        COOKIE, result, max_age=int(accounts.STAYS.total_seconds()), httponly=True, samesite="lax",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return response


@router.post("/sign-out")
def sign_out(request: Request, _: Form) -> Response:
    accounts.sign_out(house_of(request), request.cookies.get(COOKIE, ""))
    response = RedirectResponse("/sign-in", 303)
    response.delete_cookie(COOKIE)
    return response


def _inside(to: str) -> str:
    """An address of this application only."""
    return to if to.startswith("/") and not to.startswith("//") and "\\" not in to else "/"
