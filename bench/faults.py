"""Rushes of calls at real speed while something goes wrong: does every call have its record in the end, once, and is nobody
busy by a ghost? Prints a table; `--keep` writes it into docs/measures.md; names of rows choose some of them."""

import asyncio
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import structlog
from sqlalchemy import text

from vokari.core.flows.model.document import FlowDocument
from vokari.formats.flow_file import FlowFile, MailboxMaterial, Materials, write
from vokari.local.cluster import Cluster, ClusterError, free_port
from vokari.local.stack import Stack
from vokari.settings import Settings
from vokari.store.agency import Agency, User
from vokari.store.database import migrate
from vokari.store.numbers import Carrier
from vokari.wiring import build
from vokari.work.agency import clients
from vokari.work.agency.access import Actor
from vokari.work.agency.accounts import hash_password
from vokari.work.agency.clients import ClientForm
from vokari.work.flows import bringing, versions
from vokari.work.house import maintenance
from vokari.work.house.house import House
from vokari.work.numbers import free, sources
from vokari.work.numbers.numbers import CARRIER
from vokari.work.numbers.sources import SourceForm
from vokari.work.people.ringers import CONFIRMED_WITHIN

from .kept import keep

CALLS, SECONDS = 400, 60.0
"""Calls of a rush, and over how many seconds they come."""
TIMES = 5
AFTER = 60.0
"""Seconds after the last call's end at which everything must be in order."""
NUMBERS = ("+14105550142", "+14105550143", "+14105550144")
PHONES = ("+14105550160", "+14105550161", "+14105550162", "+14105550163")


@dataclass(frozen=True, slots=True)
class Town:
    """A small agency on parts that are supervised."""

    settings: Settings
    house: House
    stack: Stack
    cluster: Cluster
    folder: Path


@dataclass(frozen=True, slots=True)
class Row:
    """What a rush came to: calls at the carrier, records here, calls without one, with two, in progress or busy though they
    are over, and taken to the fail-safe."""

    name: str
    calls: int
    records: int
    without: int
    doubled: int
    in_progress: int
    ghosts: int
    fail_safe: int


@contextmanager
def town(folder: Path) -> Iterator[Town]:
    """The parts on a PostgreSQL of their own, supervised, and all of it taken away at the end."""
    cluster = Cluster(folder / "pg", free_port())
    cluster.start()
    (folder / "data" / "log").mkdir(parents=True, exist_ok=True)
    stack = Stack(Settings(free_port(), free_port(), free_port(), cluster.port, folder / "data", ""))
    done = threading.Event()
    keeper = threading.Thread(target=_keep, args=(stack, cluster, done), daemon=True)
    try:
        cluster.create_database("vokari")
        stack.settings = settings = replace(stack.settings, database_url=cluster.url("vokari"))
        migrate(settings.database_url)
        stack.start("carrier")
        stack.wait("carrier")
        house = build(settings, outlives=True)
        _world(house)
        for name in ("control", "worker", "web"):
            stack.start(name)
        for name in ("control", "web"):
            stack.wait(name)
        keeper.start()
        yield Town(settings, house, stack, cluster, folder)
        house.engine.dispose()
    finally:
        done.set()
        if keeper.is_alive():
            keeper.join()
        stack.stop()
        cluster.remove()


def _keep(stack: Stack, cluster: Cluster, done: threading.Event) -> None:
    """What the supervisor of `script/demo` does, until it is over."""
    looked = 0.0
    while not done.wait(0.25):
        stack.look()
        if time.monotonic() - looked > 1 and not cluster.running():
            looked = time.monotonic()
            try:
                cluster.start()
            except ClusterError as error:
                print(f"  postgresql: {str(error).splitlines()[0][:100]}", file=sys.stderr)


def _world(house: House) -> None:
    """One client with three numbers, and a flow that rings two phones and then takes a message."""
    maintenance.make_months(house)
    with house.begin() as session:
        agency = Agency(name="Lantern Row Marketing")
        session.add_all([agency, Carrier(name=CARRIER, stand_in=True, secret_version=1)])
        session.flush()
        user = User(agency_id=agency.id, email="owner@example.com", name="Owner", role="owner")
        user.password_hash = hash_password("four-quiet-herons")
        session.add(user)
        session.flush()
        actor = Actor(user.id, agency.id, "owner", None, "Owner")
    client = clients.take_on(
        house, actor, ClientForm("Brightwater Boatyard", "US", "America/New_York", "Annapolis", PHONES[3])
    )
    source = sources.keep_source(house, actor, _id(client), None, SourceForm("Bus panel"))
    rings = [{"kind": "number", "id": f"d{n}", "number": PHONES[n], "seconds": 6} for n in range(2)]
    document = FlowDocument.model_validate({
        "name": "Yard", "mark": "YD", "start": "a", "rescue": "vm", "steps": [
            {"kind": "announcement", "id": "a", "prompt": {"say": "Brightwater"}, "next": "r"},
            {"kind": "ring", "id": "r", "to": rings, "machine_detection": True, "no_answer": "vm", "after": "end"},
            {"kind": "voicemail", "id": "vm", "mailbox": "mb", "greeting": {"say": "Leave word"}, "message_left": "end",
             "no_message": "end"},
        ],
    })  # fmt: skip
    boxes = {"mb": MailboxMaterial(name="Yard", tell=("yard@example.com",))}
    file = write(FlowFile(flow=document, materials=Materials(mailboxes=boxes)))
    flow = bringing.bring_in(house, actor, _id(client), file, rest=bringing.NEW)
    versions.put_live(house, actor, _id(client), _id(flow))
    for number in NUMBERS:
        free.take(house, actor, _id(client), number, _id(source), _id(flow))


def _id(made: Any) -> int:
    assert not isinstance(made, list), made
    return int(made.id)


# the rush


def rush(town: Town, fault: Callable[[Town], None], calls: int) -> None:
    """Places the calls at their moments, with the fault beside them, and waits until the carrier has none that goes on."""
    beside = threading.Thread(target=fault, args=(town,))
    beside.start()
    asyncio.run(_place(town, calls))
    beside.join()
    until = time.monotonic() + 240
    while time.monotonic() < until and _at_carrier(town, "SELECT count(*) FROM calls WHERE state <> 'over'")[0][0]:
        time.sleep(1)


async def _place(town: Town, calls: int) -> None:
    chance = random.Random(11)
    async with httpx.AsyncClient(base_url=town.settings.carrier_url, timeout=5) as http:

        async def one(at: float, script: dict[str, Any]) -> None:
            await asyncio.sleep(at)
            while True:
                try:
                    (await http.post("/calls", json=script)).raise_for_status()
                    return
                except httpx.HTTPError:
                    await asyncio.sleep(0.5)

        await asyncio.gather(*(one(SECONDS * n / calls, _script(chance)) for n in range(calls)))


def _script(chance: random.Random) -> dict[str, Any]:
    answers = {"behavior": "answers", "after": round(chance.uniform(1, 4), 1), "talk": round(chance.uniform(3, 9), 1)}
    phones = {number: answers if chance.random() < 0.7 else {"behavior": "rings_out"} for number in PHONES}
    leaves = round(chance.uniform(4, 12), 1) if chance.random() < 0.3 else None
    return {
        "from": f"+1410555{chance.randrange(180, 200):04d}", "to": chance.choice(NUMBERS), "phones": phones, "hangs_up": leaves,
        "message": {"voice": 3, "then": chance.choice(["hang_up", "silence"])},
    }  # fmt: skip


def _at_carrier(town: Town, query: str) -> list[Any]:
    with sqlite3.connect(f"file:{town.settings.data / 'carrier.sqlite'}?mode=ro", uri=True, timeout=10) as connection:
        return connection.execute(query).fetchall()


# the faults


def _kill(*names: str, sign: signal.Signals = signal.SIGKILL, times: int = TIMES) -> Callable[[Town], None]:
    def fault(town: Town) -> None:
        for _ in range(times):
            time.sleep(SECONDS / (times + 1))
            for name in names:
                process = town.stack.processes.get(name)
                if process is not None and process.poll() is None:
                    process.send_signal(sign)

    return fault


def _restart_database(town: Town) -> None:
    for _ in range(TIMES):
        time.sleep(SECONDS / (TIMES + 1))
        town.cluster.kill()


def _kill_all(town: Town) -> None:
    time.sleep(SECONDS / 2)
    for process in town.stack.processes.values():
        process.kill()
    town.cluster.kill()


def _fill_disk(town: Town) -> None:
    """Takes all space where the database lies, for twenty seconds."""
    time.sleep(SECONDS / 3)
    filler = town.folder / "pg" / "filler"
    with filler.open("wb", buffering=0) as file:
        try:
            while True:
                file.write(b"\0" * 1_000_000)
        except OSError:
            pass
    time.sleep(20)
    filler.unlink()


FAULTS: dict[str, tuple[str, Callable[[Town], None]]] = {
    "none": ("nothing goes wrong", lambda _: None),
    "control": (f"control killed {TIMES} times", _kill("control")),
    "worker": (f"worker killed {TIMES} times", _kill("worker")),
    "web": (f"web killed {TIMES} times", _kill("web")),
    "database": (f"PostgreSQL killed {TIMES} times", _restart_database),
    "carrier": ("the carrier killed once", _kill("carrier", times=1)),
    "all": ("everything killed at once", _kill_all),
    "hung": ("control hung once", _kill("control", sign=signal.SIGSTOP, times=1)),
    "disk": ("the database’s disk full for 20 s", _fill_disk),
}


def measure(key: str, calls: int) -> Row:
    """One rush with one fault, on parts and data of its own."""
    name, fault = FAULTS[key]
    with _folder(limited=key == "disk") as folder, town(folder) as made:
        rush(made, fault, calls)
        time.sleep(AFTER)
        return _counted(made, name)


@contextmanager
def _folder(*, limited: bool) -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(prefix="vokari-faults-", dir="/var/tmp"))
    folder.chmod(0o755)
    (folder / "pg").mkdir()
    if limited:
        subprocess.run(["mount", "-t", "tmpfs", "-o", "size=400m,mode=755", "tmpfs", str(folder / "pg")], check=True)
    try:
        yield folder
    finally:
        if limited:
            subprocess.run(["umount", str(folder / "pg")], check=False)
        shutil.rmtree(folder, ignore_errors=True)


def _counted(town: Town, name: str) -> Row:
    there = {row[0] for row in _at_carrier(town, "SELECT ref FROM calls")}
    fail_safe = _at_carrier(town, "SELECT count(*) FROM calls WHERE fail_safe IS NOT NULL")[0][0]
    with town.house.begin() as session:
        here = Counter(session.scalars(text("SELECT ref FROM call_logs")))
        live = session.scalar(text("SELECT count(*) FROM live_calls")) or 0
        ghosts = session.scalar(
            text("SELECT count(*) FROM live_calls WHERE talking_to IS NOT NULL AND alive_at > :since"),
            {"since": datetime.now(UTC) - CONFIRMED_WITHIN},
        )
    doubled = sum(count - 1 for count in here.values())
    return Row(name, len(there), sum(here.values()), len(there - set(here)), doubled, live, ghosts or 0, fail_safe)


def main() -> None:
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))
    wanted = [one for one in sys.argv[1:] if one in FAULTS] or list(FAULTS)
    if os.geteuid() != 0 and "disk" in wanted:
        wanted.remove("disk")
    lines = [
        "## Faults",
        f"Printed by `script/faults` on {datetime.now(UTC):%Y-%m-%d}, on {os.cpu_count()} cores: {CALLS} calls at real speed over"
        f" {SECONDS:.0f} s each; looked at {AFTER:.0f} s after the last call was over. Goal: no call without a record, none doubled, none in"
        " progress, nobody busy by a ghost.",
        "",
        "| what goes wrong | calls | records | without | doubled | in progress | ghosts | at the fail-safe |",
        "| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |",
    ]
    for key in wanted:
        row = measure(key, CALLS)
        lines.append(
            f"| {row.name} | {row.calls} | {row.records} | {row.without} | {row.doubled} | {row.in_progress} | {row.ghosts} |"
            f" {row.fail_safe} |"
        )
        print(lines[-1], flush=True)
    if "--keep" in sys.argv:
        keep(lines[0], lines)


if __name__ == "__main__":
    main()
