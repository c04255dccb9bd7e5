"""Signing in and out."""

import asyncio
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Depends, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import FormData

from ...work.agency import accounts
from ...work.agency.guesses import HeldUp
from ...work.house.problems import Problem
from ..doors import COOKIE, BadForm, Form, house_of, read_form
from ..pages import Pages

router = APIRouter()
BROWSER = "vokari_browser"
"""The cookie by which a browser is known in which somebody signed in before."""


@router.get("/sign-in")
def form(request: Request, to: str = "/") -> Response:
    """The form for signing in."""
    pages: Pages = request.app.state.pages
    return pages.plain("agency/sign_in.html", to=_inside(to), email="", error="")


@router.post("/sign-in")
async def sign_in(request: Request, form: Annotated[FormData, Depends(read_form)]) -> Response:
    """Signs in and goes on to where somebody wanted to go; a wrong password gives 422 with words."""
    origin = request.headers.get("origin")
    if origin and urlsplit(origin).netloc != request.headers.get("host"):
        raise BadForm("The form came from another site.")
    email, password = str(form.get("email", "")), str(form.get("password", ""))
    to = _inside(str(form.get("to", "/")))
    house, browser = house_of(request), request.cookies.get(BROWSER, "")[:200]
    source = request.client.host if request.client else ""
    pages: Pages = request.app.state.pages
    attempt = await run_in_threadpool(accounts.count_attempt, house, email, source, browser)
    if isinstance(attempt, HeldUp):
        return pages.plain("agency/sign_in.html", 429, to=to, email=email, error=attempt.sentence)
    if attempt.wait:
        await asyncio.sleep(attempt.wait)
    result = await run_in_threadpool(accounts.look, house, attempt, email, password, browser)
    if isinstance(result, Problem):
        return pages.plain("agency/sign_in.html", 422, to=to, email=email, error=result.sentence)
    response = RedirectResponse(to, 303)
    for name, value, stays in ((COOKIE, result.token, accounts.STAYS), (BROWSER, result.browser, accounts.REMEMBERED)):
        response.set_cookie(
            name, value, max_age=int(stays.total_seconds()), httponly=True, samesite="lax",
            secure=request.url.scheme == "https",
        )  # fmt: skip
    return response


@router.post("/sign-out")
def sign_out(request: Request, _: Form) -> Response:
    """Ends the sign-in."""
    accounts.sign_out(house_of(request), request.cookies.get(COOKIE, ""))
    response = RedirectResponse("/sign-in", 303)
    response.delete_cookie(COOKIE)
    return response


def _inside(to: str) -> str:
    """An address of this application only."""
    return to if to.startswith("/") and not to.startswith("//") and "\\" not in to else "/"
