"""The application for people: its routes, headers and error pages."""

from pathlib import Path

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from sqlalchemy import text
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from ..formats.bodies import Limited
from ..settings import Settings
from ..work.agency.access import NotAllowed, NotFound
from ..work.house.house import House
from ..work.prompts import bulk
from . import live
from .agency import clients, search, stack, today, tokens, users
from .agency import sign_in as signin
from .around import Around
from .calls import calls
from .doors import LARGEST_FORM, LARGEST_SIGN_IN, LARGEST_SOUND, BadForm, MustSignIn, current
from .flows import blocks, changes, cover, flows, kept, proof, rehearsals, rows, texts, versions
from .holding import board
from .hours import calendars, days, sets, shared_days, switches
from .numbers import extensions, free, number, orders, plan, porting, sources
from .pages import Pages, is_partial
from .people import forms, on_duty, people, phones
from .places import places
from .prompts import asking, library, prompt, sounds
from .reports import reports, spending

UNKNOWN = ("/sign-in", "/duty/")
"""Where forms come from people who are not signed in."""
SOUNDS = ("/takes",)
"""Where recordings are brought."""

log = structlog.get_logger()


def most_of(path: str) -> int:
    """How many bytes of a request are read, by its path."""
    if path.startswith(UNKNOWN):
        return LARGEST_SIGN_IN
    if path.endswith("/prompts/zip"):
        return bulk.LARGEST
    return LARGEST_SOUND if path.endswith(SOUNDS) else LARGEST_FORM


def create(house: House, settings: Settings) -> FastAPI:
    """The application over a house."""
    app = FastAPI(title="Vokari", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.house = house
    app.state.settings = settings
    app.state.pages = Pages(house)
    app.state.listener = live.Listener(settings.database_url)
    app.mount("/static", StaticFiles(directory=Path(__file__).parent / "static"))
    for part in (
        signin, today, search, clients, free, orders, plan, number, porting, extensions, sources, flows, versions,
        switches, days, calendars, sets, shared_days, people, phones, forms, on_duty, places, board, rows, blocks,
        rehearsals, kept, changes, proof, cover, texts, calls, reports, spending, library, asking, prompt, sounds, tokens, users, live, stack,
    ):  # fmt: skip
        app.include_router(part.router)
    _errors(app)

    @app.get("/healthz")
    def health() -> dict[str, str]:
        with house.engine.connect() as connection:
            connection.execute(text("SELECT 1"))
        return {"status": "ok"}

    app.add_middleware(Limited, most=most_of)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=3)
    app.add_middleware(Around)
    return app


def page(request: Request, status: int, title: str, sentence: str) -> Response:
    """A page that says what is wrong, within the frame for whoever is signed in."""
    pages: Pages = request.app.state.pages
    if is_partial(request):
        return pages.plain("error_part.html", status, title=title, sentence=sentence)
    try:
        signed = current(request)
    except MustSignIn:
        return pages.plain("error_plain.html", status, title=title, sentence=sentence)
    return pages.show(request, "error.html", signed, status=status, title=title, sentence=sentence)


def _errors(app: FastAPI) -> None:
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

    @app.exception_handler(ValidationError)
    def unfit(request: Request, error: ValidationError) -> Response:
        """A form brought something that none of our checks foresaw, so that no field can be named."""
        if request.method == "GET":
            raise error
        log.warning("a form was not checked", path=request.url.path, because=str(error)[:500])
        return page(
            request, 422, "This cannot be read", "Something in the form is not as it can be. Nothing was saved."
        )

    @app.exception_handler(OperationalError)
    def away(request: Request, error: OperationalError) -> Response:
        """The database is away, starts or stops. Who is signed in cannot be asked then either."""
        log.warning("the database is away", path=request.url.path, because=str(error).splitlines()[0])
        pages: Pages = request.app.state.pages
        template = "error_part.html" if is_partial(request) else "error_plain.html"
        sentence = "Vokari cannot reach its database. Nothing was saved: try again in a moment."
        return pages.plain(template, 503, title="Away for a moment", sentence=sentence)

    @app.exception_handler(IntegrityError)
    def taken(request: Request, _: IntegrityError) -> Response:
        """Two people at once made what there can be only one of."""
        sentence = "Somebody else changed the same meanwhile. Nothing was saved: load the page again, then repeat it."
        return page(request, 409, "Changed meanwhile", sentence)
