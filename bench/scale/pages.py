"""Every main page of the largest and of a small client: milliseconds, statements, and kilobytes as made and as sent."""

import statistics
from collections.abc import MutableMapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from sqlalchemy import Connection, event, text
from starlette.testclient import TestClient

from vokari.memory import settle
from vokari.web.app import create

from ..pages import Timed, statements
from ..rounds import Compared, compare
from ..town import Town
from .agency import EMAIL, PASSWORD, LargeAgency

TIMES = 7


@dataclass(frozen=True, slots=True)
class PageCost:
    """A page: the median of its milliseconds, the most statements it took, and its kilobytes as made and as sent."""

    name: str
    milliseconds: float
    statements: int
    kilobytes: float
    sent: float


class Weighed:
    """An ASGI application that notes how many bytes of each answer leave it."""

    def __init__(self, app: Any) -> None:
        self.app = app
        self.bytes = 0

    async def __call__(self, scope: MutableMapping[str, Any], receive: Any, send: Any) -> None:
        self.bytes = 0

        async def counted(message: MutableMapping[str, Any]) -> None:
            self.bytes += len(message.get("body", b""))
            await send(message)

        await self.app(scope, receive, counted)


def measure(town: Town, made: LargeAgency) -> dict[str, list[PageCost]]:
    """Pages of the whole agency, of its largest client, and of a small one."""
    weighed = Weighed(create(town.house, town.settings))
    timed = Timed(weighed)
    browser = _signed_in(timed)

    def cost(name: str, path: str) -> PageCost:
        timed.seconds.clear()
        most = 0
        for _ in range(TIMES):
            with statements(town.house.engine) as sent:
                answer = browser.get(path)
            assert answer.status_code == 200, (path, answer.text[:300])
            most = max(most, len(sent))
        return PageCost(
            name, statistics.median(timed.seconds) * 1000, most, len(answer.content) / 1000, weighed.bytes / 1000
        )

    browser.get("/")
    settle()

    def all_of(pages: dict[str, str]) -> list[PageCost]:
        return [cost(name, path) for name, path in pages.items()]

    return {
        "The whole agency": all_of(
            {"Today": "/", "Find, by a name": "/find?q=harbor", "Find, by digits": "/find?q=0142"}
        ),
        "The largest client": all_of(_of_client(town, made.largest)),
        "A small client": all_of(_of_client(town, made.small)),
    }


def compiled(town: Town, made: LargeAgency) -> Compared:
    """Main pages of the largest client a second, with queries that PostgreSQL compiles (JIT) against queries that it does not."""
    browser = _signed_in(create(town.house, town.settings))
    paths = ["/", *_of_client(town, made.largest).values()]

    def plain() -> int:
        for path in paths:
            assert browser.get(path).status_code == 200, path
        return len(paths)

    def switch(connection: Connection) -> None:
        connection.exec_driver_sql("SET LOCAL jit = on")

    def with_jit() -> int:
        event.listen(town.house.engine, "begin", switch)
        try:
            return plain()
        finally:
            event.remove(town.house.engine, "begin", switch)

    return compare(with_jit, plain)


def _signed_in(app: Any) -> TestClient:
    browser = TestClient(app, follow_redirects=True)
    browser.post("/sign-in", data={"email": EMAIL, "password": PASSWORD})
    return browser


def _of_client(town: Town, client: int) -> dict[str, str]:
    today = town.house.now().date()
    with town.house.engine.connect() as connection:

        def one(query: str) -> Any:
            return connection.scalar(text(query), {"c": client})

        flow = one("SELECT id FROM flows WHERE client_id = :c ORDER BY id LIMIT 1")
        call, caller = one("SELECT id FROM calls WHERE client_id = :c ORDER BY started_at DESC LIMIT 1"), one(
            "SELECT caller FROM calls WHERE client_id = :c ORDER BY started_at DESC LIMIT 1"
        )  # fmt: skip
        number = one("SELECT id FROM tracking_numbers WHERE client_id = :c ORDER BY id LIMIT 1")
    here = f"/clients/{client}"
    long = f"period=own&first={today - timedelta(days=799)}&last={today}"
    three_years = f"period=own&first={today - timedelta(days=1094)}&last={today}"
    return {
        "The route map": here,
        "Numbers": f"{here}/numbers",
        "One number": f"{here}/numbers/{number}",
        "Flows": f"{here}/flows",
        "The sheet": f"{here}/flows/{flow}",
        "Versions": f"{here}/flows/{flow}/versions",
        "Hours": f"{here}/hours",
        "People": f"{here}/people",
        "Calls, 30 days": f"{here}/calls",
        "Calls, 800 days, of a caller": f"{here}/calls?{long}&caller=%2B{caller[1:]}",
        "Calls, 800 days, by digits": f"{here}/calls?{long}&caller={caller[4:10]}",
        "Calls, 800 days, on a number": f"{here}/calls?{long}&number={number}",
        "One call": f"{here}/calls/{call}",
        "Report, 90 days": f"{here}/report?period=90",
        "Report, 800 days": f"{here}/report?{long}",
        "Report, three years": f"{here}/report?{three_years}",
        "Settings": f"{here}/settings",
    }
