"""The call-control endpoint: a process of its own, to which carriers post the events of calls."""

import time
from typing import Annotated, Any

import structlog
from fastapi import Depends, FastAPI, Path, Request
from fastapi.exceptions import RequestValidationError
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse, Response
from pydantic import ValidationError
from sqlalchemy import text
from sqlalchemy.exc import DataError, InterfaceError, InternalError, OperationalError, SQLAlchemyError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from ..formats.bodies import Limited
from ..formats.call_control.messages import CommandsMessage, EventMessage
from ..formats.call_control.records import Question, Records, Standings
from ..formats.call_control.signature import CARRIER_HEADER, SIGNATURE_HEADER, carrier_secret, check
from ..formats.problem import MEDIA_TYPE, problem
from ..work.calls import live_calls
from ..work.calls.live_calls import CarrierIdentity, Refusal
from ..work.house.house import House
from ..work.prompts import speech

log = structlog.get_logger()

LARGEST_BODY = 64_000
AWAY = (OperationalError, InterfaceError, InternalError, PoolTimeout)
"""What SQLAlchemy raises when the database is away, starts or stops, takes no changes, or has no connection to spare."""

_VERDICTS = {
    "missing": "the request carries no signature",
    "malformed": "the signature has another form than t=…,v1=…",
    "stale": "the signature is older than 300 seconds",
    "wrong": "the signature does not fit the body",
}


def _json(model: str) -> dict[str, Any]:
    return {"content": {"application/json": {"schema": {"$ref": f"#/components/schemas/{model}"}}}}


ASKED_OF_THE_CARRIER: dict[str, Any] = {
    "calls/known": {
        "post": {
            "summary": "Which of these calls still exist, and how did the others end?",
            "description": "Asked by Vokari of the carrier, at the carrier’s own address.",
            "requestBody": {"required": True, **_json("Question")},
            "responses": {"200": {"description": "How each call stands", **_json("Standings")}},
        }
    },
    "calls": {
        "get": {
            "summary": "Records of calls that are over",
            "description": "Asked by Vokari of the carrier: from a number on, by the calls’ clock, or only those at the fail-safe.",
            "parameters": [
                {"name": name, "in": "query", "required": False, "schema": {"type": kind}}
                for name, kind in (
                    ("after", "integer"),
                    ("fail_safe", "boolean"),
                    ("since", "string"),
                    ("until", "string"),
                )
            ],
            "responses": {"200": {"description": "At most 500 records", **_json("Records")}},
        }
    },
}
"""The requests that go the other way, as OpenAPI 3.1 writes them."""


class ProblemError(Exception):
    """Ends a request with a problem document."""

    def __init__(self, status: int, kind: str, title: str, detail: str = "", **more: Any) -> None:
        super().__init__(title)
        self.status = status
        self.document = problem(status, kind, title, detail, **more)


async def raw_body(request: Request) -> bytes:
    """The body as it came, which is what the signature is made of."""
    return await request.body()


KNOWN_SECONDS = 5.0
"""How long a carrier's secret is held without looking: an old one is good for so long after it was renewed."""


class Carriers:
    """The carriers that may speak here, with their secrets, looked up every few seconds."""

    def __init__(self, house: House) -> None:
        self.house = house
        self.known: dict[str, tuple[float, CarrierIdentity, bytes]] = {}

    def find(self, name: str, *, anew: bool = False) -> tuple[CarrierIdentity, bytes] | None:
        """A carrier and its secret; `anew` looks whether it was renewed a moment ago."""
        held = self.known.get(name)
        if held is None or anew or time.monotonic() - held[0] > KNOWN_SECONDS:
            with self.house.engine.connect() as connection:
                query = text("SELECT id, stand_in, secret_version FROM carriers WHERE name = :name")
                row = connection.execute(query, {"name": name}).first()
            if row is None:
                self.known.pop(name, None)
                return None
            secret = carrier_secret(self.house.secret, name, row.secret_version)
            held = self.known[name] = (time.monotonic(), CarrierIdentity(row.id, row.stand_in), secret)
        return held[1], held[2]


def verified(carriers: Carriers, request: Request, body: bytes) -> CarrierIdentity:
    """The carrier that signed this body; raises a 401 problem for any other."""
    name, signature = request.headers.get(CARRIER_HEADER, "")[:64], request.headers.get(SIGNATURE_HEADER)
    found = carriers.find(name)
    if found is None:
        raise ProblemError(401, "unknown-carrier", "This carrier is not known", f"{CARRIER_HEADER} names no carrier")
    verdict = check(found[1], body, signature, time.time())
    if verdict == "wrong":
        found = carriers.find(name, anew=True) or found
        verdict = check(found[1], body, signature, time.time())
    identity = found[0]
    if verdict != "good":
        raise ProblemError(401, "signature", "The signature is not good", _VERDICTS[verdict])
    return identity


def parsed(ref: str, body: bytes) -> EventMessage:
    """The event that a body holds; raises a 400 or 422 problem that names the field."""
    if b"\\u0000" in body:
        raise ProblemError(422, "malformed-event", "The event cannot be read", "it holds a character 0")
    try:
        message = EventMessage.model_validate_json(body)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        status = 400 if first["type"] == "json_invalid" else 422
        where = ".".join(str(part) for part in first["loc"])
        raise ProblemError(
            status, "malformed-event", "The event cannot be read", f"{where}: {first['msg']}".lstrip(": ")
        ) from error
    if message.call != ref:
        raise ProblemError(
            422, "malformed-event", "The event cannot be read", "call: another call than the address names"
        )
    return message


def document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with what FastAPI does not see: the event’s schema, since its body is read raw for its signature,
    and what the carrier is asked, as webhooks."""
    if app.openapi_schema is None:
        made = get_openapi(title=app.title, version=app.version, routes=app.routes)
        for model in (EventMessage, Question, Standings, Records):
            schema = model.model_json_schema(ref_template="#/components/schemas/{model}")
            parts = schema.pop("$defs", {})
            made["components"]["schemas"] |= parts | {model.__name__: schema}
        made["webhooks"] = ASKED_OF_THE_CARRIER
        app.openapi_schema = made
    return app.openapi_schema


def create(house: House) -> FastAPI:
    """The application."""
    app = FastAPI(title="Vokari call control", version="1", docs_url=None, redoc_url=None)
    app.openapi = lambda: document(app)  # type: ignore[method-assign]
    app.add_middleware(Limited, most=lambda _: LARGEST_BODY)
    carriers = Carriers(house)

    @app.exception_handler(ProblemError)
    async def as_problem(_: Request, error: ProblemError) -> JSONResponse:
        return JSONResponse(error.document, error.status, media_type=MEDIA_TYPE)

    @app.exception_handler(HTTPException)
    async def other(_: Request, error: HTTPException) -> JSONResponse:
        kind = "too-large" if error.status_code == 413 else "http"
        return JSONResponse(
            problem(error.status_code, kind, str(error.detail)), error.status_code, media_type=MEDIA_TYPE
        )

    @app.exception_handler(RequestValidationError)
    async def unreadable(_: Request, error: RequestValidationError) -> JSONResponse:
        document = problem(422, "malformed-event", "The event cannot be read", "the address names no call")
        return JSONResponse(document, 422, media_type=MEDIA_TYPE)

    @app.exception_handler(SQLAlchemyError)
    async def not_kept(request: Request, error: SQLAlchemyError) -> JSONResponse:
        """The database is away or too busy (503), what was sent cannot be stored (422), or we broke (500)."""
        log.warning("an event could not be kept", path=request.url.path, because=str(error).splitlines()[0])
        if isinstance(error, AWAY):
            document = problem(
                503, "unavailable", "The event cannot be kept now", "the database is away: send it again"
            )
        elif isinstance(error, DataError):
            document = problem(422, "malformed-event", "The event cannot be read", "something in it cannot be stored")
        else:
            document = problem(500, "defect", "The event was not kept", "something broke on our side: send it again")
        return JSONResponse(document, int(document["status"]), media_type=MEDIA_TYPE)

    @app.exception_handler(Exception)
    async def defect(request: Request, error: Exception) -> JSONResponse:
        log.error("defect", path=request.url.path, error=repr(error))
        document = problem(500, "defect", "The event was not kept", "something broke on our side: send it again")
        return JSONResponse(document, 500, media_type=MEDIA_TYPE)

    @app.get("/healthz")
    def health() -> dict[str, str]:
        with house.engine.connect() as connection:
            connection.execute(text("SELECT 1"))
        return {"status": "ok"}

    @app.post(
        "/calls/{ref}/events",
        response_model=CommandsMessage,
        summary="One event of a call",
        openapi_extra={
            "requestBody": {
                "required": True,
                "content": {"application/json": {"schema": {"$ref": "#/components/schemas/EventMessage"}}},
            }
        },
        responses={
            status: {"description": "A problem document (RFC 9457)"} for status in (400, 401, 404, 409, 413, 422)
        },
    )
    def receive(
        request: Request,
        ref: Annotated[str, Path(pattern=r"^[A-Za-z0-9_-]{1,64}$")],
        body: Annotated[bytes, Depends(raw_body)],
    ) -> Response:
        identity = verified(carriers, request, body)
        message = parsed(ref, body)
        result = live_calls.receive(house, identity, message, body)
        if isinstance(result, Refusal):
            more = {} if result.expected_seq is None else {"expected_seq": result.expected_seq}
            raise ProblemError(result.status, result.kind, result.title, result.detail, **more)
        return JSONResponse({"call": ref, "seq": message.seq, "commands": result.commands, "ended": result.ended})

    @app.get("/speech/{name}.wav")
    def sound(name: Annotated[str, Path(pattern=r"^[0-9a-f]{1,64}$")]) -> Response:
        wav = speech.wav(house, name)
        if wav is None:
            raise ProblemError(404, "no-sound", "No prompt has this sound")
        return Response(wav, media_type="audio/wav", headers={"Cache-Control": "public, max-age=31536000, immutable"})

    return app
