"""The JSON API for programs, read with a bearer token: a client's hours and what they answer."""

from datetime import datetime, timedelta
from typing import Annotated, Any

from fastapi import Depends, FastAPI, Query, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer
from pydantic import BaseModel, StringConstraints
from sqlalchemy.exc import DataError
from starlette.exceptions import HTTPException

from ..core import asked
from ..core.asked import Id
from ..core.hours.timetable import Timetable
from ..formats.bodies import Limited
from ..formats.problem import MEDIA_TYPE, problem
from ..work.agency import tokens
from ..work.agency.access import Actor, NotAllowed, NotFound
from ..work.hours import for_programs
from ..work.house.house import House

MOST_CHANGES = 5000
LARGEST_BODY = 20_000
NEXT_DAYS = 366

Key = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
"""The key of a set of hours."""


class SetOut(BaseModel):
    """A set of hours: the key that flows name it by, what it is for, and what holds now."""

    key: str
    name: str
    purpose: str
    main: bool
    time_zone: str
    sentence: str


class Holds(BaseModel):
    """What holds at a moment: a period's id or `closed`; because of the week, or of an exception; until when (null: for
    the next year), and what holds then."""

    at: datetime
    open: bool
    period: str
    period_name: str
    because: str
    because_name: str
    until: datetime | None
    then: str | None
    then_name: str | None
    sentence: str
    time_zone: str


class Change(BaseModel):
    """From a moment on something else holds."""

    at: datetime
    open: bool
    period: str
    period_name: str
    because: str
    because_name: str


class Changes(BaseModel):
    """The next changes, and the open minutes of the usual week."""

    changes: list[Change]
    open_minutes_a_week: dict[str, Any]
    time_zone: str


class CoverOut(BaseModel):
    """How own times cover open times, in minutes, with the gaps."""

    open_minutes: int
    covered_minutes: int
    gaps: list[dict[str, datetime]]


_bearer = HTTPBearer(auto_error=False, description="An API token with the scope hours:read")


def create(house: House) -> FastAPI:
    """The API over a house, to be mounted under a path of its own."""
    app = FastAPI(title="Vokari API", version="1", docs_url=None, redoc_url=None)
    app.state.house = house
    app.add_middleware(Limited, most=lambda _: LARGEST_BODY)

    def reader(token: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)]) -> Actor:
        actor = tokens.actor_of(house, token.credentials, "hours:read") if token else None
        if actor is None:
            raise HTTPException(401, "Send an API token with the scope hours:read as a bearer token.")
        return actor

    Reader = Annotated[Actor, Depends(reader)]
    problems: dict[int | str, dict[str, Any]] = {
        status: {"description": "A problem document (RFC 9457)"} for status in (401, 403, 404, 422)
    }

    @app.get("/clients/{client_id}/hours", responses=problems)
    def hours(actor: Reader, client_id: Id) -> list[SetOut]:
        """A client's sets of hours."""
        now = house.now()
        return [
            SetOut(
                key=one.key, name=one.table.hours.name, purpose=one.purpose, main=one.is_main,
                time_zone=one.table.zone.key, sentence=for_programs.said_at(one.table, now)["sentence"],
            )
            for one in for_programs.sets(house, actor, client_id)
        ]  # fmt: skip

    @app.get("/clients/{client_id}/hours/{key}/at", responses=problems)
    def at(actor: Reader, client_id: Id, key: Key, at: datetime | None = None) -> Holds:
        """What holds at a moment (now, where none is given), and why. A time without an offset is the set's own."""
        table = for_programs.one(house, actor, client_id, key)
        return Holds(**for_programs.said_at(table, _moment(at, table, house.now())))

    @app.get("/clients/{client_id}/hours/{key}/next", responses=problems)
    def following(
        actor: Reader, client_id: Id, key: Key, at: datetime | None = None,
        days: Annotated[int, Query(ge=1, le=NEXT_DAYS)] = 14, most: Annotated[int, Query(ge=1, le=MOST_CHANGES)] = 100,
    ) -> Changes:  # fmt: skip
        """The changes after a moment, and the open time of the usual week."""
        table = for_programs.one(house, actor, client_id, key)
        since = _moment(at, table, house.now())
        found = for_programs.said_changes(table, since, since + timedelta(days=days), most)
        return Changes(
            changes=[Change(**one) for one in found],
            open_minutes_a_week=for_programs.said_open(table),
            time_zone=table.zone.key,
        )

    @app.get("/clients/{client_id}/hours/{key}/cover", responses=problems)
    def cover(
        actor: Reader, client_id: Id, key: Key, own: Annotated[list[Key], Query(min_length=1, max_length=50)],
        at: datetime | None = None, days: Annotated[int, Query(ge=1, le=NEXT_DAYS)] = 14,
    ) -> CoverOut:  # fmt: skip
        """How the own times of people (sets by key) cover the open times of a set, with the gaps."""
        table = for_programs.one(house, actor, client_id, key)
        since = _moment(at, table, house.now())
        found = for_programs.covered(house, actor, client_id, key, own, since, since + timedelta(days=days))
        return CoverOut(**for_programs.said_cover(table, found))

    _errors(app)
    return app


def _moment(at: datetime | None, table: Timetable, now: datetime) -> datetime:
    """The moment asked for; raises a 422 for one too far off to mean anything."""
    moment = now if at is None else at if at.tzinfo else at.replace(tzinfo=table.zone)
    if not asked.within(moment):
        raise HTTPException(422, "at: choose a moment in the years 2000 to 2099.")
    return moment


def _errors(app: FastAPI) -> None:
    def answer(status: int, kind: str, title: str, detail: str = "") -> Response:
        headers = {"WWW-Authenticate": "Bearer"} if status == 401 else {}
        return JSONResponse(problem(status, kind, title, detail), status, media_type=MEDIA_TYPE, headers=headers)

    @app.exception_handler(NotFound)
    async def not_found(_: Request, error: NotFound) -> Response:
        return answer(404, "not-found", "There is nothing at this address, or it is not yours to see")

    @app.exception_handler(NotAllowed)
    async def not_allowed(_: Request, error: NotAllowed) -> Response:
        return answer(403, "not-allowed", "The token’s user may not do this")

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"][1:])
        return answer(422, "malformed", "The request cannot be read", f"{where}: {first['msg']}")

    @app.exception_handler(DataError)
    async def unstorable(_: Request, error: DataError) -> Response:
        return answer(422, "malformed", "The request cannot be read", "something in it is no value of the database")

    @app.exception_handler(HTTPException)
    async def other(_: Request, error: HTTPException) -> Response:
        kinds = {401: "no-token", 404: "not-found", 422: "malformed"}
        return answer(error.status_code, kinds.get(error.status_code, "http"), str(error.detail))
