"""Call control without an engine: the same application, pool, library, body model and signature check, with as many
reads and writes and one commit, as the header of the request says. What ours is measured against."""

from typing import Annotated

from fastapi import Depends, FastAPI, Path, Request
from fastapi.responses import JSONResponse, Response
from sqlalchemy import text
from sqlalchemy.orm import Session

from vokari.api.control import Carriers, parsed, raw_body, verified
from vokari.settings import from_environment
from vokari.wiring import build

STATEMENTS = "X-Statements"
"""The header with the reads and writes that ours does for this event, as in 3,2."""

TABLES = (
    "CREATE TABLE bare_calls (ref text PRIMARY KEY, seq int NOT NULL, body jsonb NOT NULL)",
    "CREATE TABLE bare_events (id bigserial PRIMARY KEY, ref text NOT NULL, seq int NOT NULL, body jsonb NOT NULL)",
)
READ = "SELECT * FROM bare_calls WHERE ref = :ref"
FIRST = (
    "INSERT INTO bare_calls (ref, seq, body) VALUES (:ref, :seq, CAST(:body AS jsonb))"
    " ON CONFLICT (ref) DO UPDATE SET seq = EXCLUDED.seq, body = EXCLUDED.body"
)
WRITE = "INSERT INTO bare_events (ref, seq, body) VALUES (:ref, :seq, CAST(:body AS jsonb))"


def create() -> FastAPI:
    """The application."""
    app = FastAPI(docs_url=None, redoc_url=None)
    house = build(from_environment(), pool=20)
    carriers = Carriers(house)
    read, first, write = text(READ), text(FIRST), text(WRITE)

    @app.get("/healthz")
    def health() -> dict[str, str]:
        return {"status": "ok"}

    @app.post("/calls/{ref}/events")
    def receive(
        request: Request,
        ref: Annotated[str, Path(pattern=r"^[A-Za-z0-9_-]{1,64}$")],
        body: Annotated[bytes, Depends(raw_body)],
    ) -> Response:
        verified(carriers, request, body)
        message = parsed(ref, body)
        reads, writes = (int(part) for part in request.headers[STATEMENTS].split(","))
        values = {"ref": ref, "seq": message.seq, "body": body.decode()}
        with Session(house.engine) as session, session.begin():
            for _ in range(reads):
                session.execute(read, values).mappings().first()
            for number in range(writes):
                session.execute(write if number else first, values)
        return JSONResponse({"call": ref, "seq": message.seq, "commands": [], "ended": False})

    return app
