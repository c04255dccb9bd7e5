"""(a) Call-control decisions a second over the event mix of whole calls, against the same server without an engine."""

import http.client
import re
import subprocess
import sys
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import psycopg
from sqlalchemy import event, text

from vokari.formats.call_control.messages import EventMessage
from vokari.formats.call_control.signature import carrier_secret
from vokari.local.cluster import free_port
from vokari.settings import HOST
from vokari.work.calls import live_calls
from vokari.work.calls.folding import Answered
from vokari.work.calls.live_calls import CarrierIdentity
from vokari.work.house import open_pages
from vokari.work.numbers.numbers import CARRIER

from . import bare
from .replay import KnownCall, Posting, known_calls, postings
from .rounds import Compared, compare, rate, side_by_side
from .town import Town

_WRITES = re.compile(r"\b(?:INSERT INTO|UPDATE \w+ SET|DELETE FROM)\b")
LINES = 8
CALLS = 40


@dataclass(frozen=True, slots=True)
class Measured:
    """Decisions a second of ours, of the bare server and of raw psycopg, and what they were measured over."""

    http: Compared
    raw: float
    calls: int
    events: int


def measure(town: Town) -> Measured:
    """Eight lines at once, each playing whole calls one after the other."""
    known = known_calls(town.house, LINES, CALLS)
    secret = carrier_secret(town.settings.secret(), CARRIER)
    with town.house.engine.begin() as connection:
        for table in bare.TABLES:
            connection.execute(text(table))
    counts = [_statements(town, calls, secret) for calls in known]
    town.stack.start("control")
    town.stack.wait("control")
    other = _bare_server(town)

    def ours() -> int:
        return _drive(town.settings.control_port, [postings(calls, secret) for calls in known], counts)

    def without() -> int:
        return _drive(other.port, [postings(calls, secret) for calls in known], counts)

    try:
        found = compare(ours, without)
        raw = rate(lambda: _raw(town, [postings(calls, secret) for calls in known], counts))
    finally:
        other.process.terminate()
        other.process.wait()
    events = sum(len(call.events) for calls in known for call in calls)
    return Measured(found, raw, LINES * CALLS, events)


@dataclass(frozen=True, slots=True)
class _Server:
    port: int
    process: subprocess.Popen[bytes]


def _bare_server(town: Town) -> _Server:
    port = free_port()
    words = [
        "uvicorn",
        "bench.bare:create",
        "--factory",
        "--port",
        str(port),
        "--log-level",
        "warning",
        "--no-access-log",
    ]
    process = subprocess.Popen([sys.executable, "-m", *words], env=town.stack.environment())
    town.stack.processes["bare"] = process
    while process.poll() is None:
        try:
            connection = http.client.HTTPConnection(HOST, port, timeout=2)
            connection.request("GET", "/healthz")
            if connection.getresponse().status == 200:
                break
        except OSError:
            continue
    return _Server(port, process)


def _statements(town: Town, calls: Sequence[KnownCall], secret: bytes) -> list[tuple[int, int]]:
    """The reads and writes that ours does for each event, counted while it does them once; several of them may be one
    statement of ours."""
    seen: Counter[str] = Counter()

    def before(_connection: Any, _cursor: Any, statement: str, *_: Any) -> None:
        seen["reads"] += statement.startswith("SELECT") or open_pages.NOTIFY[:17] in statement
        seen["writes"] += len(_WRITES.findall(statement))

    with town.house.engine.connect() as connection:
        carrier = connection.scalar(text("SELECT id FROM carriers WHERE name = :name"), {"name": CARRIER})
    identity = CarrierIdentity(int(carrier or 0), True)
    found = []
    event.listen(town.house.engine, "before_cursor_execute", before)
    for posting in postings(calls, secret):
        seen.clear()
        answer = live_calls.receive(town.house, identity, EventMessage.model_validate_json(posting.body), posting.body)
        assert isinstance(answer, Answered), answer
        found.append((seen["reads"], seen["writes"]))
    event.remove(town.house.engine, "before_cursor_execute", before)
    return found


def _drive(port: int, lines: list[list[Posting]], counts: list[list[tuple[int, int]]]) -> int:
    """Posts every line's events in order, the lines side by side; any refusal ends the measure."""
    failures: list[str] = []

    def run(line: list[Posting], count: list[tuple[int, int]]) -> None:
        connection = http.client.HTTPConnection(HOST, port, timeout=30)
        for one, (reads, writes) in zip(line, count, strict=True):
            headers = {**one.headers, bare.STATEMENTS: f"{reads},{writes}"}
            connection.request("POST", f"/calls/{one.call}/events", one.body, headers)
            answer = connection.getresponse()
            content = answer.read()
            if answer.status != 200:
                failures.append(content.decode())
                break
        connection.close()

    side_by_side(run, zip(lines, counts, strict=True))
    if failures:
        raise RuntimeError(failures[0])
    return sum(len(line) for line in lines)


def _raw(town: Town, lines: list[list[Posting]], counts: list[list[tuple[int, int]]]) -> int:
    """The same reads, writes and commits by psycopg alone, with no HTTP, no models and no library between."""
    url = replace(town.settings).database_url.replace("+psycopg", "")

    def plain(statement: str) -> str:
        for name in ("ref", "seq", "body"):
            statement = statement.replace(f":{name}", f"%({name})s")
        return statement

    read, first, write = plain(bare.READ), plain(bare.FIRST), plain(bare.WRITE)

    def run(line: list[Posting], count: list[tuple[int, int]]) -> None:
        with psycopg.connect(url) as connection:
            for one, (reads, writes) in zip(line, count, strict=True):
                values = {"ref": one.call, "seq": one.seq, "body": one.body.decode()}
                for _ in range(reads):
                    connection.execute(read, values).fetchone()
                for number in range(writes):
                    connection.execute(write if number else first, values)
                connection.commit()

    side_by_side(run, zip(lines, counts, strict=True))
    return sum(len(line) for line in lines)
