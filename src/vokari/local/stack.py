"""Everything on one machine: PostgreSQL, the application, its call control, its worker and the carrier stand-in."""

import os
import shutil
import signal
import subprocess
import sys
import time
from dataclasses import dataclass, field, replace
from pathlib import Path

import httpx

from ..demo.people import PASSWORD, USERS
from ..settings import HOST, Settings, from_environment
from ..store.database import migrate
from ..wiring import carrier_environment
from .cluster import Cluster, ClusterError, port_is_free

PARTS = {"carrier": "carrier_port", "control": "control_port", "web": "port"}
PORT_NAMES = {"carrier_port": "VOKARI_CARRIER_PORT", "control_port": "VOKARI_CONTROL_PORT", "port": "VOKARI_PORT"}


class StackError(Exception):
    """The parts cannot be started, with the reason."""


@dataclass
class Stack:
    """The processes, each started in a session of its own so that Ctrl-C reaches only the parent."""

    settings: Settings
    processes: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)

    def environment(self) -> dict[str, str]:
        return {
            **os.environ,
            **carrier_environment(self.settings),
            "VOKARI_PORT": str(self.settings.port),
            "VOKARI_CARRIER_PORT": str(self.settings.carrier_port),
            "VOKARI_CONTROL_PORT": str(self.settings.control_port),
            "VOKARI_DATA": str(self.settings.data),
            "VOKARI_DATABASE_URL": self.settings.database_url,
            "PYTHONTZPATH": "",
        }

    def start(self, name: str) -> None:
        """Starts one part: web, control, carrier or worker."""
        words = ["worker"] if name == "worker" else ["serve", name]
        log = (self.settings.data / "log" / f"{name}.log").open("ab")
        self.processes[name] = subprocess.Popen(
            [sys.executable, "-m", "vokari.cli", *words], env=self.environment(), cwd="/", stdin=subprocess.DEVNULL,
            stdout=log, stderr=log, start_new_session=True,
        )  # fmt: skip

    def wait(self, name: str, seconds: float = 40) -> None:
        """Waits until a part answers. Raises StackError when it ends or takes too long."""
        url = f"http://{HOST}:{getattr(self.settings, PARTS[name])}/healthz"
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if self.processes[name].poll() is not None:
                break
            try:
                if httpx.get(url, timeout=2).status_code == 200:
                    return
            except httpx.HTTPError:
                pass
            time.sleep(0.1)
        log = self.settings.data / "log" / f"{name}.log"
        raise StackError(f"{name} does not answer; its log is {log}")

    def stop(self) -> None:
        for process in self.processes.values():
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
        for process in self.processes.values():
            try:
                process.wait(8)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait(5)


def check_ports(settings: Settings) -> None:
    """Raises StackError that names a port which is taken."""
    for attribute, variable in PORT_NAMES.items():
        port = getattr(settings, attribute)
        if not port_is_free(port):
            raise StackError(f"port {port} is taken: set {variable} to a free one")


def run(*, fresh: bool) -> int:
    """Starts all of it, prints the address, and waits for Ctrl-C."""
    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, _interrupt)
    try:
        settings = from_environment()
        check_ports(settings)
        return _run(settings, fresh=fresh)
    except (ClusterError, StackError, ValueError) as error:
        print(f"vokari: {error}", file=sys.stderr)
        return 1


def _run(settings: Settings, *, fresh: bool) -> int:
    settings.data.mkdir(parents=True, exist_ok=True)
    (settings.data / "log").mkdir(exist_ok=True)
    cluster = Cluster(settings.data / "postgresql", settings.pg_port)
    if fresh:
        cluster.remove()
        for name in ("files", "post", "carrier.sqlite"):
            _forget(settings.data / name)
    cluster.start()
    stack = Stack(settings)
    try:
        cluster.create_database("vokari")
        settings = replace(settings, database_url=cluster.url("vokari"))
        stack.settings = settings
        migrate(settings.database_url)
        stack.start("carrier")
        stack.wait("carrier")
        from ..demo import load

        load.run(settings)
        for name in ("control", "worker", "web"):
            stack.start(name)
        for name in ("control", "web"):
            stack.wait(name)
        _greet(settings)
        return _watch(stack)
    except KeyboardInterrupt:
        print("\nStopping.")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        stack.stop()
        cluster.stop()


def _watch(stack: Stack) -> int:
    while True:
        time.sleep(1)
        for name, process in stack.processes.items():
            if process.poll() is not None:
                log = stack.settings.data / "log" / f"{name}.log"
                raise StackError(f"{name} has ended; its log is {log}")


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
