"""The application for people: its routes, headers and error pages."""

import time
import uuid
from collections.abc import Awaitable, Callable
from pathlib import Path

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from sqlalchemy import text
from sqlalchemy.exc import DataError, IntegrityError
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from ..settings import Settings
from ..work.access import NotAllowed, NotFound
from ..work.house import House
from . import (
    calendars,
    calls,
    clients,
    exceptions,
    extensions,
    finding,
    flows,
    holdlines,
    hours,
    live,
    many,
    number,
    numbers,
    onduty,
    people,
    ports,
    rehearsals,
    reports,
    rows,
    search,
    shared,
    signin,
    sounds,
    sources,
    stack,
    switches,
    today,
    tokens,
)
from .doors import BadForm, MustSignIn, current
from .pages import Pages, is_partial

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; media-src 'self';"
    " connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"
)

log = structlog.get_logger()


def create(house: House, settings: Settings) -> FastAPI:
    """The application over a house."""
    app = FastAPI(title="Vokari", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.house = house
    app.state.settings = settings
    app.state.pages = Pages(house)
    app.state.listener = live.Listener(settings.database_url)
    app.mount("/static", StaticFiles(directory=Path(__file__).parent / "static"))
    for part in (
        signin, today, search, clients, finding, many, numbers, number, ports, extensions, sources, flows,
        switches, exceptions, calendars, hours, shared, people, onduty, holdlines, rows, rehearsals, calls, reports, sounds, tokens, live, stack,
    ):  # fmt: skip
        app.include_router(part.router)
    _errors(app)

    @app.get("/healthz")
    def health() -> dict[str, str]:
        with house.engine.connect() as connection:
            connection.execute(text("SELECT 1"))
        return {"status": "ok"}

    @app.middleware("http")
    async def around(request: Request, call: Callable[[Request], Awaitable[Response]]) -> Response:
        """Headers that keep the page to itself, an id for each request, and a line in the log."""
        began = time.perf_counter()
        request_id = uuid.uuid4().hex[:12]
        response = await call(request)
        response.headers.update(
            {
                "Content-Security-Policy": POLICY,
                "X-Content-Type-Options": "nosniff",
                "Referrer-Policy": "same-origin",
                "X-Request-Id": request_id,
            }
        )
        if not request.url.path.startswith("/static"):
            response.headers.setdefault("Cache-Control", "no-store")
            milliseconds = round((time.perf_counter() - began) * 1000, 1)
            log.info(
                "request",
                id=request_id,
                method=request.method,
                path=request.url.path,
                status=response.status_code,
                ms=milliseconds,
            )
        return response

    return app


def _errors(app: FastAPI) -> None:
    def page(request: Request, status: int, title: str, sentence: str) -> Response:
        pages: Pages = request.app.state.pages
        if is_partial(request):
            return pages.plain("error_part.html", status, title=title, sentence=sentence)
        try:
            signed = current(request)
        except MustSignIn:
            return pages.plain("error_plain.html", status, title=title, sentence=sentence)
        return pages.show(request, "error.html", signed, status=status, title=title, sentence=sentence)

    @app.exception_handler(MustSignIn)
    def sign_in(request: Request, error: MustSignIn) -> Response:
        if is_partial(request):
            return Response(status_code=401, headers={"HX-Redirect": "/sign-in"})
        return RedirectResponse(error.to, 303)

    @app.exception_handler(NotFound)
    def not_found(request: Request, _: NotFound) -> Response:
        return page(request, 404, "Not here", "There is nothing at this address, or it is not yours to see.")

    @app.exception_handler(NotAllowed)
    def not_allowed(request: Request, _: NotAllowed) -> Response:
        return page(request, 403, "Not allowed", "Your role does not include this. Ask an owner of the agency.")

    @app.exception_handler(BadForm)
    def bad_form(request: Request, error: BadForm) -> Response:
        return page(request, 400, "The form was not taken", error.sentence)

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, _: RequestValidationError) -> Response:
        return page(request, 404, "Not here", "This address cannot be read.")

    @app.exception_handler(HTTPException)
    def other(request: Request, error: HTTPException) -> Response:
        if error.status_code == 404:
            return page(request, 404, "Not here", "There is nothing at this address.")
        return page(request, error.status_code, "This did not work", str(error.detail))

    @app.exception_handler(DataError)
    def unstorable(request: Request, _: DataError) -> Response:
        """What passed every check and is still none of the database's values: a character 0, a number out of reach."""
        return page(request, 400, "This cannot be kept", "Something in it is no text or number that can be stored.")

    @app.exception_handler(IntegrityError)
    def taken(request: Request, _: IntegrityError) -> Response:
        """Two people at once made what there can be only one of."""
        sentence = "Somebody else changed the same meanwhile. Nothing was saved: load the page again, then repeat it."
        return page(request, 409, "Changed meanwhile", sentence)

    @app.exception_handler(Exception)
    def defect(request: Request, error: Exception) -> Response:
        log.error("defect", path=request.url.path, error=repr(error))
        return JSONResponse({"detail": "Something broke on our side; nothing was saved."}, 500)
