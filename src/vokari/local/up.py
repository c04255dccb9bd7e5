"""Everything on one machine with the demo world: PostgreSQL and the parts, supervised until Ctrl-C."""

import contextlib
import shutil
import signal
import socket
import sys
import threading
import time
from collections import deque
from dataclasses import replace
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from ..demo.people import PASSWORD, USERS
from ..settings import Settings, from_environment
from ..store.database import migrate
from ..wiring import build
from ..work.agency import stack as parts
from ..work.house.house import House
from . import ports
from .cluster import Cluster, ClusterError
from .orphans import Ledger, end
from .stack import PAUSES, Stack, StackError, data_folder

PORT_NAMES = {"carrier_port": "VOKARI_CARRIER_PORT", "control_port": "VOKARI_CONTROL_PORT", "port": "VOKARI_PORT"}
LOOK_EVERY = 0.25
DATABASE_EVERY, ASKED_EVERY = 1.0, 5.0
"""Seconds between two looks whether PostgreSQL runs, and between two questions whether it accepts anybody."""
DATABASE_HUNG_AFTER = 20.0
"""Seconds for which a PostgreSQL that runs may accept no connection at all, before it is started anew."""


class Told:
    """Writes down for the page of the stack when the parts were started that cannot tell of themselves."""

    def __init__(self, house: House, data: Path) -> None:
        self.house, self.data = house, data
        self.waiting: deque[tuple[str, int, str]] = deque()

    def carrier(self, stack: Stack) -> None:
        self.waiting.append(("carrier", stack.processes["carrier"].pid, stack.parts["carrier"].why))

    def database(self, cluster: Cluster, why: str) -> None:
        self.waiting.append(("postgresql", cluster.pid() or 0, why))

    def run(self, over: threading.Event) -> None:
        """Writes down what waits, in its order, in a thread of its own: a database that hangs delays no supervision. What cannot
        be written now waits on."""
        while not over.wait(DATABASE_EVERY):
            with contextlib.suppress(SQLAlchemyError):
                while self.waiting:
                    part, pid, why = self.waiting[0]
                    free = shutil.disk_usage(self.data).free
                    parts.begin(self.house, part, socket.gethostname(), pid, why, free)
                    self.waiting.popleft()


def check_ports(settings: Settings) -> None:
    """Raises StackError that names a port which is taken."""
    for attribute, variable in PORT_NAMES.items():
        port = getattr(settings, attribute)
        if not ports.is_free(port):
            raise StackError(ports.taken(port, variable))


def run(*, fresh: bool) -> int:
    """Starts all of it, prints the address, and waits for Ctrl-C."""
    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, _interrupt)
    try:
        settings = from_environment()
        data_folder(settings)
        ledger = Ledger(settings.data / "run")
        if not ledger.take():
            raise StackError(f"Vokari runs already on {settings.data}: stop it there first")
        for name, orphan in ledger.orphans().items():
            print(f"Ending {name}, process {orphan.pid}, which a killed start left behind.", flush=True)
            end(orphan)
        check_ports(settings)
        try:
            return _run(settings, ledger, fresh=fresh)
        finally:
            ledger.forget()
    except (ClusterError, StackError, ValueError) as error:
        print(f"vokari: {error}", file=sys.stderr)
        return 1


def _run(settings: Settings, ledger: Ledger, *, fresh: bool) -> int:
    cluster = Cluster(settings.data / "postgresql", settings.pg_port)
    if fresh:
        cluster.remove()
        for name in ("files", "post", "carrier.sqlite", "carrier.sqlite-wal", "carrier.sqlite-shm"):
            _forget(settings.data / name)
    cluster.start()
    stack, over = Stack(settings), threading.Event()
    keeper: threading.Thread | None = None
    try:
        cluster.create_database("vokari")
        settings = replace(settings, database_url=cluster.url("vokari"))
        stack.settings = settings
        migrate(settings.database_url)
        _start(stack, ledger, "carrier")
        stack.wait("carrier")
        from ..demo import load

        load.run(settings)
        _start(stack, ledger, "control", "worker", "web")
        for name in ("control", "web"):
            stack.wait(name)
        _greet(settings)
        told = Told(build(settings, pool=1, outlives=True), settings.data)
        told.carrier(stack)
        told.database(cluster, "")
        threading.Thread(target=told.run, args=(over,), daemon=True, name="told").start()
        keeper = threading.Thread(
            target=_keep_database, args=(stack, cluster, over, told), daemon=True, name="database"
        )
        keeper.start()
        supervise(stack, ledger, told)
    except KeyboardInterrupt:
        print("\nStopping.")
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        over.set()
        stack.stop()
        if keeper is not None:
            keeper.join()
        cluster.stop()
    return 0


def _start(stack: Stack, ledger: Ledger, *names: str) -> None:
    for name in names:
        stack.start(name)
    ledger.write({name: process.pid for name, process in stack.processes.items()})


def supervise(stack: Stack, ledger: Ledger, told: Told) -> None:
    """Keeps all parts going, for ever."""
    while True:
        started = stack.look()
        if started:
            ledger.write({name: process.pid for name, process in stack.processes.items()})
        if "carrier" in started:
            told.carrier(stack)
        time.sleep(LOOK_EVERY)


def _keep_database(stack: Stack, cluster: Cluster, over: threading.Event, told: Told) -> None:
    """Starts PostgreSQL again when it has ended, or accepts nobody for long, with growing pauses when that fails; until all is
    over."""
    failed, asked, answered = 0, time.monotonic(), time.monotonic()
    while not over.wait(DATABASE_EVERY):
        why = "it had ended"
        if cluster.running():
            failed = 0
            if time.monotonic() - asked < ASKED_EVERY:
                continue
            asked = time.monotonic()
            if cluster.accepts():
                answered = asked
            if asked - answered < DATABASE_HUNG_AFTER:
                continue
            why = f"it accepted no connection for {DATABASE_HUNG_AFTER:.0f} s"
            cluster.kill()
        pause = PAUSES[min(failed, len(PAUSES) - 1)]
        stack.log("postgresql", why, pause)
        if over.wait(pause):
            return
        try:
            cluster.start()
            told.database(cluster, why)
        except ClusterError as error:
            stack.log("postgresql", f"it could not be started: {error}")
            failed += 1
        answered = time.monotonic()


def _greet(settings: Settings) -> None:
    email, name, *_ = USERS[1]
    print(f"\nVokari is at {settings.web_url}")
    print(f"  sign in as {email} ({name}, specialist) with the password {PASSWORD}")
    print(f"  the carrier stand-in, to place calls, is at {settings.carrier_url}")
    print("Ctrl-C stops all of it; the data is kept.", flush=True)


def _forget(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt
