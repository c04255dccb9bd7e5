"""(k) Several processes of one part: two workers against one, and all of it on two cores against all of it on one."""

import http.client
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from http import HTTPStatus
from pathlib import Path
from urllib.parse import urlencode

from vokari.demo.people import PASSWORD, USERS
from vokari.formats.call_control.signature import carrier_secret
from vokari.local.cluster import free_port
from vokari.settings import HOST
from vokari.work.numbers.numbers import CARRIER

from .pages import addresses
from .replay import known_calls, postings
from .rounds import Compared, compare, side_by_side
from .town import Town

LINES, CALLS, PAGES = 8, 20, 4
PORTS = {"control": "VOKARI_CONTROL_PORT", "web": "VOKARI_PORT"}


@dataclass(frozen=True, slots=True)
class Scaled:
    """Answers a second of a part. `workers`: of two workers against one, on all cores; `cores`: of two workers on two cores
    against one worker on one, each time with the database and whoever asks on the same cores; None on a single core."""

    part: str
    workers: Compared
    cores: Compared | None


@dataclass(frozen=True, slots=True)
class _Asked:
    method: str
    path: str
    body: bytes
    headers: dict[str, str]


def measure(town: Town) -> list[Scaled]:
    """Call control under whole calls, and the application under its main pages, eight asking at once."""
    known = known_calls(town.house, LINES, CALLS)
    secret = carrier_secret(town.settings.secret(), CARRIER)
    paths = list(addresses(town).values()) * PAGES

    def calls(port: int) -> int:
        lines = [postings(some, secret) for some in known]
        return _drive(
            port,
            [[_Asked("POST", f"/calls/{one.call}/events", one.body, one.headers) for one in line] for line in lines],
        )

    def pages(port: int) -> int:
        cookie = {"Cookie": _sign_in(port)}
        return _drive(port, [[_Asked("GET", path, b"", cookie) for path in paths]] * LINES)

    return [_scaled(town, "Call control", "control", calls), _scaled(town, "The main pages", "web", pages)]


def _scaled(town: Town, name: str, part: str, drive: Callable[[int], int]) -> Scaled:
    with _serving(town, part, 1) as one, _serving(town, part, 2) as two:
        for port in (one, two):
            drive(port)
        workers = compare(partial(drive, two), partial(drive, one))
        cores = None
        if (os.cpu_count() or 1) > 1:
            cores = compare(lambda: _on(town, {0, 1}, partial(drive, two)), lambda: _on(town, {0}, partial(drive, one)))
    return Scaled(name, workers, cores)


@contextmanager
def _serving(town: Town, part: str, workers: int) -> Iterator[int]:
    """The port at which a part answers with so many workers."""
    port = free_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "vokari.cli", "serve", part, "--workers", str(workers)],
        env={**town.stack.environment(), PORTS[part]: str(port)},
        stdout=subprocess.DEVNULL,
    )
    try:
        while process.poll() is None and not _answers(port):
            time.sleep(0.1)
        yield port
    finally:
        process.terminate()
        process.wait()


def _answers(port: int) -> bool:
    connection = http.client.HTTPConnection(HOST, port, timeout=2)
    try:
        connection.request("GET", "/healthz")
        return connection.getresponse().status == HTTPStatus.OK
    except OSError:
        return False
    finally:
        connection.close()


def _sign_in(port: int) -> str:
    """The cookie of somebody who signed in."""
    connection = http.client.HTTPConnection(HOST, port, timeout=30)
    form = urlencode({"email": USERS[1][0], "password": PASSWORD})
    connection.request("POST", "/sign-in", form, {"Content-Type": "application/x-www-form-urlencoded"})
    cookie = connection.getresponse().headers["Set-Cookie"].partition(";")[0]
    connection.close()
    return str(cookie)


def _drive(port: int, lines: list[list[_Asked]]) -> int:
    """Asks every line's questions in order, the lines side by side; any refusal ends the measure."""
    failures: list[str] = []

    def run(line: list[_Asked]) -> None:
        connection = http.client.HTTPConnection(HOST, port, timeout=60)
        for one in line:
            connection.request(one.method, one.path, one.body, one.headers)
            answer = connection.getresponse()
            content = answer.read()
            if answer.status != HTTPStatus.OK:
                failures.append(f"{one.path}: {answer.status} {content[:200]!r}")
                break
        connection.close()

    side_by_side(run, [(line,) for line in lines])
    if failures:
        raise RuntimeError(failures[0])
    return sum(len(line) for line in lines)


def _on(town: Town, cores: set[int], drive: Callable[[], int]) -> int:
    """Does something while all processes of the measure and of its database may use these cores only."""
    _pin(town, cores)
    try:
        return drive()
    finally:
        _pin(town, set(range(os.cpu_count() or 1)))


def _pin(town: Town, cores: set[int]) -> None:
    postmaster = int((town.settings.data / "pg" / "data" / "postmaster.pid").read_text().split()[0])
    parents = {}
    for file in Path("/proc").glob("[0-9]*/stat"):
        try:
            parents[int(file.parent.name)] = int(file.read_text().rpartition(")")[2].split()[1])
        except OSError:
            continue
    ours = {os.getpid(), postmaster}
    while more := {pid for pid, parent in parents.items() if parent in ours} - ours:
        ours |= more
    for pid in ours:
        for task in Path(f"/proc/{pid}/task").glob("*"):
            try:
                os.sched_setaffinity(int(task.name), cores)
            except ProcessLookupError:
                continue
