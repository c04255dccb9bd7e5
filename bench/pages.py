"""(c) Server time of the main pages on the demo world, against an authenticated page with one read."""

import statistics
import time
from collections.abc import Iterator, MutableMapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse
from sqlalchemy import event, text
from sqlalchemy.engine import Engine
from starlette.testclient import TestClient

from vokari.demo.people import PASSWORD, USERS
from vokari.memory import settle
from vokari.web.app import create
from vokari.web.doors import Signed, house_of
from vokari.work.agency import clients

from .rounds import ROUNDS
from .town import Town

TIMES = 8
ONE_READ = "An authenticated page with one read"


@dataclass(frozen=True, slots=True)
class PageTime:
    """A page with its median server time in milliseconds, the median of its ratios to the page with one read, and how many
    statements it takes."""

    name: str
    milliseconds: float
    ratio: float
    statements: int


class Timed:
    """An ASGI application that notes how long each request took from its start to the end of the answer."""

    def __init__(self, app: Any) -> None:
        self.app = app
        self.seconds: list[float] = []

    async def __call__(self, scope: MutableMapping[str, Any], receive: Any, send: Any) -> None:
        began = time.perf_counter()
        await self.app(scope, receive, send)
        if scope["type"] == "http":
            self.seconds.append(time.perf_counter() - began)


@contextmanager
def statements(engine: Engine) -> Iterator[list[str]]:
    """The statements that are sent to the database meanwhile."""
    sent: list[str] = []

    def note(_connection: Any, _cursor: Any, statement: str, *_: Any) -> None:
        sent.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    try:
        yield sent
    finally:
        event.remove(engine, "before_cursor_execute", note)


def measure(town: Town) -> list[PageTime]:
    """Every main page of the client with the most calls, by turns with the page with one read."""
    app = create(town.house, town.settings)

    @app.get("/bench/{client_id}")
    def one_read(request: Request, signed: Signed, client_id: int) -> HTMLResponse:
        return HTMLResponse(f"<p>{clients.get(house_of(request), signed.actor, client_id).name}</p>")

    timed = Timed(app)
    browser = TestClient(timed, follow_redirects=True)
    browser.post("/sign-in", data={"email": USERS[1][0], "password": PASSWORD})
    pages = addresses(town)
    plain = f"/bench/{pages['The route map'].split('/')[2]}"
    ratios: dict[str, list[float]] = {name: [] for name in pages}
    times: dict[str, list[float]] = {name: [] for name in pages}
    times[ONE_READ] = []
    counts = {}
    for name, path in {**pages, ONE_READ: plain}.items():
        browser.get(path)
        with statements(town.house.engine) as sent:
            browser.get(path)
        counts[name] = len(sent)
    settle()
    for _ in range(ROUNDS):
        base = _median(browser, timed, plain)
        times[ONE_READ].append(base)
        for name, path in pages.items():
            taken = _median(browser, timed, path)
            times[name].append(taken)
            ratios[name].append(taken / base)
    return [
        PageTime(name, statistics.median(taken) * 1000, statistics.median(ratios.get(name, [1.0])), counts[name])
        for name, taken in times.items()
    ]


def _median(browser: TestClient, timed: Timed, path: str) -> float:
    timed.seconds.clear()
    for _ in range(TIMES):
        answer = browser.get(path)
        assert answer.status_code == 200, (path, answer.text[:200])
    return statistics.median(timed.seconds)


def addresses(town: Town) -> dict[str, str]:
    """The main pages of the demo client with the most calls, by name."""
    with town.house.engine.connect() as connection:
        query = (
            "SELECT client_id FROM call_days WHERE agency_id = (SELECT agency_id FROM users WHERE email = :email)"
            " GROUP BY client_id ORDER BY sum(calls) DESC LIMIT 1"
        )
        client = connection.scalar(text(query), {"email": USERS[1][0]})
        flow = connection.scalar(text("SELECT id FROM flows WHERE client_id = :c ORDER BY id LIMIT 1"), {"c": client})
        last = "SELECT id FROM calls WHERE client_id = :c ORDER BY started_at DESC LIMIT 1"
        call = connection.scalar(text(last), {"c": client})
    here = f"/clients/{client}"
    return {
        "Today": "/",
        "The route map": here,
        "Numbers": f"{here}/numbers",
        "Flows": f"{here}/flows",
        "The sheet": f"{here}/flows/{flow}",
        "Versions": f"{here}/flows/{flow}/versions",
        "Calls, 30 days": f"{here}/calls",
        "One call": f"{here}/calls/{call}",
        "Report, 90 days": f"{here}/report?period=90",
    }
