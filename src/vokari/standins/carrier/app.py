"""The carrier's HTTP interface: numbers to search and take, calls to place, and a page for a person to do the same."""

import asyncio
import os
import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any

import httpx
from fastapi import Depends, FastAPI, Header, HTTPException, Response
from fastapi.responses import HTMLResponse, JSONResponse
from pydantic import BaseModel, Field

from ...formats.bodies import Limited
from ...formats.call_control.messages import E164
from ...formats.call_control.records import MOST_ASKED, CallRecord, Question, Records, Standings
from .. import clientsystem
from . import sounding
from .inventory import Inventory, Unavailable
from .line import Line
from .porting import PortDesk, Stages
from .register import CallRegister
from .ringing import RingingDesk
from .script import CallScript, MessageScript, Vokari
from .verifying import VerifyingDesk

KEPT_CALLS = 5000
LARGEST_BODY = 5_000_000
MOST_TAKEN = 500


class Take(BaseModel):
    """Who takes a number: a key that makes a second try the same as the first, and the fail-safe destination."""

    key: str
    fail_safe: str = ""


class TakeMany(BaseModel):
    """Who takes several numbers at once: the key of each, and the fail-safe destination of all."""

    numbers: dict[str, str] = Field(max_length=MOST_TAKEN)
    fail_safe: str = ""


class FailSafe(BaseModel):
    """The destination that is used when Vokari does not answer."""

    fail_safe: str


class WantedPort(BaseModel):
    """A number to bring across: the account at the losing carrier, a key that makes a second try the same, fail-safe."""

    e164: E164
    account: str
    key: str
    fail_safe: str = ""


class Document(BaseModel):
    """A document that was asked for: its kind, in the words it was asked for with."""

    kind: str


class LoadedCall(BaseModel):
    """A call that is over, whether it was answered, and whether by a phone's own mailbox."""

    record: CallRecord
    answered: bool
    mailbox: bool


class Loaded(BaseModel):
    """Calls for loading a whole world."""

    calls: list[LoadedCall]


class WantedVerification(BaseModel):
    """A phone to ring, what to say to whoever picks up, and the key that they are asked for."""

    ref: str
    to: str
    words: str
    key: str


class WantedRinging(BaseModel):
    """A phone to ring, and the reference under which its call arrives."""

    ref: str = Field(pattern=r"^[A-Za-z0-9_-]{1,64}$")
    to: E164


class WhatIsSaid(BaseModel):
    """What is said at a phone once it is picked up, and the keys pressed each time somebody waits for one."""

    says: MessageScript = MessageScript()
    keys: list[str] = []


class Carrier:
    """The numbers, the ports, the calls in progress and those of late."""

    def __init__(self, inventory: Inventory, vokari: Vokari, token: str, stages: Stages | None = None) -> None:
        self.inventory, self.vokari, self.token = inventory, vokari, token
        self.ports = PortDesk(inventory, stages)
        self.verifying = VerifyingDesk(inventory)
        self.ringing = RingingDesk(inventory)
        self.register = CallRegister(inventory)
        self.calls: dict[str, Line] = {}
        self.tasks: set[asyncio.Task[None]] = set()
        self.http: httpx.AsyncClient | None = None

    def place(self, script: CallScript) -> Line:
        if self.http is None:
            raise HTTPException(503, "The carrier is not ready.")
        fail_safe = "" if script.rung else self.inventory.fail_safe(script.called)
        line = Line(script.rung or secrets.token_hex(8), script, self.vokari, fail_safe, self.http, self.register)
        self.calls[line.ref] = line
        while len(self.calls) > KEPT_CALLS:
            self.calls.pop(next(iter(self.calls)))
        task = asyncio.create_task(line.run())
        self.tasks.add(task)
        task.add_done_callback(self.tasks.discard)
        return line

    def ring(self, ref: str, to: str) -> None:
        """Rings a phone; its call arrives once it is picked up."""
        if not self.ringing.ring(ref, to) or self.ringing.becomes(to) != "answered":
            return
        task = asyncio.create_task(self._picked_up(ref, to))
        self.tasks.add(task)
        task.add_done_callback(self.tasks.discard)

    async def _picked_up(self, ref: str, to: str) -> None:
        await asyncio.sleep(self.ringing.seconds)
        self.place(self.ringing.script(ref, to))

    def line(self, ref: str) -> Line:
        line = self.calls.get(ref)
        if line is None:
            raise HTTPException(404, "There is no such call.")
        return line


def create(carrier: Carrier) -> FastAPI:
    """The application around a carrier."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        async with httpx.AsyncClient(timeout=10, limits=httpx.Limits(max_connections=50)) as http:
            carrier.http = http
            yield

    app = FastAPI(title="Carrier stand-in", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.add_middleware(Limited, most=lambda _: LARGEST_BODY)

    def customer(authorization: str = Header(default="")) -> None:
        if not secrets.compare_digest(authorization.encode(), f"Bearer {carrier.token}".encode()):
            raise HTTPException(401, "The carrier does not know you.")

    ours = [Depends(customer)]

    @app.exception_handler(Unavailable)
    async def unavailable(_: Any, error: Unavailable) -> JSONResponse:
        return JSONResponse({"detail": error.sentence}, error.status)

    @app.get("/healthz")
    def health() -> dict[str, str]:
        return {"status": "ok"}

    @app.get("/numbers", dependencies=ours)
    def search(
        country: str = "", area_code: str = "", place: str = "", kind: str = "", contains: str = "", limit: int = 24
    ) -> dict[str, list[dict[str, Any]]]:
        found = carrier.inventory.search(
            country=country, area_code=area_code, place=place, kind=kind, contains=contains, limit=limit
        )
        return {"numbers": [asdict(offer) for offer in found]}

    @app.post("/numbers/take", dependencies=ours)
    def take_many(wanted: TakeMany) -> dict[str, dict[str, Any]]:
        taken, refused = {}, {}
        for e164, key in wanted.numbers.items():
            try:
                taken[e164] = asdict(carrier.inventory.take(e164, key, wanted.fail_safe))
            except Unavailable as reason:
                refused[e164] = reason.sentence
        return {"taken": taken, "refused": refused}

    @app.post("/numbers/{e164}/take", dependencies=ours)
    def take(e164: str, wanted: Take) -> dict[str, Any]:
        return asdict(carrier.inventory.take(e164, wanted.key, wanted.fail_safe))

    @app.put("/numbers/{e164}", dependencies=ours)
    def set_fail_safe(e164: str, wanted: FailSafe) -> dict[str, str]:
        carrier.inventory.set_fail_safe(e164, wanted.fail_safe)
        return {"fail_safe": wanted.fail_safe}

    @app.delete("/numbers/{e164}", dependencies=ours)
    def give_back(e164: str, leaves: bool = False) -> Response:
        carrier.inventory.give_back(e164, leaves=leaves)
        return Response(status_code=204)

    @app.post("/numbers/{e164}/documents", dependencies=ours)
    def give_document(e164: str, document: Document) -> dict[str, list[str]]:
        return {"asked_for": carrier.inventory.give_document(e164, document.kind)}

    @app.post("/ports", dependencies=ours)
    def request_port(wanted: WantedPort) -> dict[str, Any]:
        return asdict(carrier.ports.request(wanted.e164, wanted.account, wanted.key, wanted.fail_safe))

    @app.get("/ports/{ref}", dependencies=ours)
    def port(ref: str) -> dict[str, Any]:
        return asdict(carrier.ports.state(ref))

    @app.post("/ports/{ref}/documents", dependencies=ours)
    def give_letter(ref: str, document: Document) -> dict[str, Any]:
        return asdict(carrier.ports.give_letter(ref))

    @app.delete("/ports/{ref}", dependencies=ours)
    def withdraw_port(ref: str) -> dict[str, Any]:
        return asdict(carrier.ports.withdraw(ref))

    @app.post("/verifications", dependencies=ours)
    def verify(wanted: WantedVerification) -> dict[str, Any]:
        return asdict(carrier.verifying.place(wanted.ref, wanted.to, wanted.words, wanted.key))

    @app.get("/verifications/{ref}", dependencies=ours)
    def verification(ref: str) -> dict[str, Any]:
        return asdict(carrier.verifying.state(ref))

    @app.post("/ringings", dependencies=ours, status_code=202)
    async def ring(wanted: WantedRinging) -> dict[str, Any]:
        carrier.ring(wanted.ref, wanted.to)
        return asdict(carrier.ringing.state(wanted.ref))

    @app.get("/ringings/{ref}", dependencies=ours)
    async def rung(ref: str) -> dict[str, Any]:
        line = carrier.calls.get(ref)
        return asdict(carrier.ringing.state(ref)) | ({"state": "over"} if line is not None and line.over else {})

    @app.put("/phones/{e164}")
    async def at_phone(e164: str, what: WhatIsSaid) -> dict[str, str]:
        carrier.ringing.said[e164] = (what.says, what.keys)
        return {"phone": e164}

    app.include_router(clientsystem.router)

    @app.post("/calls", status_code=201)
    async def place(script: CallScript) -> dict[str, str]:
        return {"ref": carrier.place(script).ref}

    @app.post("/calls/known", dependencies=ours)
    def known(question: Question) -> Standings:
        return Standings(calls=tuple(carrier.register.standing(ref) for ref in question.calls))

    @app.get("/calls", dependencies=ours)
    def records(after: int = 0, since: str = "", until: str = "", fail_safe: bool = False) -> Records:
        return carrier.register.records(after, since, until, MOST_ASKED, fail_safe=fail_safe)

    @app.post("/calls/load", dependencies=ours, status_code=204)
    def load(loaded: Loaded) -> Response:
        carrier.register.load((one.record, one.answered, one.mailbox) for one in loaded.calls)
        return Response(status_code=204)

    @app.get("/calls/tally")
    def tally() -> dict[str, int]:
        return carrier.register.tally()

    @app.get("/calls/{ref}")
    async def call(ref: str) -> dict[str, Any]:
        line = carrier.line(ref)
        return {"ref": ref, "over": line.over, "used_fail_safe": line.used_fail_safe, "trace": line.trace}

    @app.post("/calls/{ref}/poke", dependencies=ours, status_code=202)
    async def poke(ref: str) -> dict[str, str]:
        line = carrier.line(ref)
        if line.over or line.used_fail_safe:
            raise HTTPException(409, "This call is over.")
        line.poke()
        return {"ref": ref}

    @app.post("/calls/{ref}/press", status_code=202)
    async def press(ref: str, key: str) -> dict[str, str]:
        if len(key) != 1 or key not in "0123456789*#":
            raise HTTPException(422, "A key is 0 to 9, * or #.")
        carrier.line(ref).press(key)
        return {"ref": ref}

    @app.post("/calls/{ref}/hang-up", status_code=202)
    async def hang_up(ref: str) -> dict[str, str]:
        carrier.line(ref).hang_up()
        return {"ref": ref}

    @app.get("/recordings/{name}", dependencies=ours)
    def recording(name: str) -> Response:
        ref, _, which = name.rpartition("-")
        line = carrier.line(ref)
        recorded = line.sounds.recorded.get(int(which)) if which.isdigit() else None
        content = sounding.wav(sounding.said(line.script.message) if recorded is None else recorded)
        return Response(content, media_type="audio/wav")

    @app.get("/calls/{ref}/sound.wav")
    def heard(ref: str) -> Response:
        return Response(sounding.wav(carrier.line(ref).sounds.whole()), media_type="audio/wav")

    @app.get("/calls/{ref}/sounds/{number}.wav")
    def piece(ref: str, number: int) -> Response:
        pieces = carrier.line(ref).sounds.pieces
        if not 0 <= number < len(pieces):
            raise HTTPException(404, "Nothing was heard there.")
        return Response(sounding.wav(pieces[number][1]), media_type="audio/wav")

    page = (Path(__file__).parent / "page.html").read_text()
    script = (Path(__file__).parent / "page.js").read_text()

    @app.get("/", response_class=HTMLResponse)
    def booth() -> HTMLResponse:
        options = "".join(f'<option value="{e164}">{e164}</option>' for e164 in carrier.inventory.taken())
        return HTMLResponse(page.replace("<!--numbers-->", options))

    @app.get("/page.js")
    def page_script() -> Response:
        return Response(script, media_type="text/javascript")

    return app


def from_environment() -> FastAPI:
    """The application as VOKARI_CARRIER_* describe it: where its data lies, where Vokari is, and the shared secrets."""
    vokari = Vokari(
        url=os.environ["VOKARI_CARRIER_CONTROL_URL"],
        carrier=os.environ.get("VOKARI_CARRIER_NAME", "stand-in"),
        secret=os.environ["VOKARI_CARRIER_SECRET"].encode(),
    )
    inventory = Inventory(Path(os.environ["VOKARI_CARRIER_DATA"]) / "carrier.sqlite")
    return create(Carrier(inventory, vokari, os.environ["VOKARI_CARRIER_TOKEN"]))
