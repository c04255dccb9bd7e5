"""The processes of one machine: the application, its call control, its worker and the carrier stand-in, each supervised.

A part that ends is started again at once, and after a growing pause when it keeps ending; one that gives no sign of life
(sd_notify(3), WATCHDOG=1, as under systemd) is killed and started again. The others never notice.
"""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

import httpx

from ..settings import HOST, Settings
from ..wiring import carrier_environment

PARTS = {"carrier": "carrier_port", "control": "control_port", "web": "port"}
"""The parts that answer at a port, and which one."""
READY_WITHIN, HUNG_AFTER = 60.0, 6.0
"""Seconds within which a part must be ready, and of silence after which it counts as hung."""
PAUSES = (0.0, 0.5, 1.0, 2.0, 4.0, 8.0, 15.0, 30.0)
"""Seconds before a part is started again, by how often it ended soon after its start."""
STEADY_AFTER = 60.0
"""A part that ran so long and then ended is started again at once."""


class StackError(Exception):
    """The parts cannot be started, with the reason."""


@dataclass
class Part:
    """One part: its process, when that started and was heard last (monotonic seconds), why the one before it ended, how many
    ended soon, and when the next is started."""

    name: str
    channel: socket.socket
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    ready: bool = False
    heard: float = 0.0
    why: str = ""
    soon: int = 0
    due: float | None = None


@dataclass
class Stack:
    """The parts, each started in a session of its own so that Ctrl-C reaches only the parent."""

    settings: Settings
    listener: socket.socket | None = None
    """A socket that all parts listen at, each of which is called after what it serves and its number (control.2)."""
    parts: dict[str, Part] = field(default_factory=dict)
    clock: Callable[[], float] = time.monotonic
    """Seconds by which signs of life and pauses are reckoned."""

    @property
    def processes(self) -> dict[str, subprocess.Popen[bytes]]:
        """The processes that were started last, by part."""
        return {name: part.process for name, part in self.parts.items() if part.process is not None}

    def environment(self) -> dict[str, str]:
        """What the parts are started with; several of one part have what theirs was started with."""
        if self.listener:
            return dict(os.environ)
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
        """Starts one part: web, control, carrier or worker, or one of several of them."""
        part = self.parts.get(name) or self.parts.setdefault(name, Part(name, _channel(name)))
        served = name.partition(".")[0]
        words = ["worker"] if name == "worker" else ["serve", served]
        fds = (self.listener.fileno(),) if self.listener else ()
        words += [f"--listening={fd}" for fd in fds] + ([f"--crew={os.getpid()}"] if fds else [])
        told = {"NOTIFY_SOCKET": _address(part.channel), "VOKARI_STARTED_BECAUSE": part.why}
        with (self.settings.data / "log" / f"{served}.log").open("ab") as log:
            part.process = subprocess.Popen(
                [sys.executable, "-m", "vokari.cli", *words], env={**self.environment(), **told}, cwd="/",
                stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True, pass_fds=fds,
            )  # fmt: skip
        part.started = part.heard = self.clock()
        part.ready, part.due = False, None

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

    def look(self) -> list[str]:
        """One look at all parts: starts again what has ended or hangs; gives the parts that were started."""
        started = []
        for part in self.parts.values():
            _listen(part, self.clock())
            if part.due is None:
                why = _ended(part, self.clock())
                if why:
                    self._plan(part, why)
            if part.due is not None and self.clock() >= part.due:
                self.start(part.name)
                started.append(part.name)
        return started

    def _plan(self, part: Part, why: str) -> None:
        assert part.process is not None
        if part.process.poll() is None:
            part.process.kill()
            part.process.wait()
        part.soon = 0 if self.clock() - part.started > STEADY_AFTER else part.soon + 1
        pause = PAUSES[min(max(0, part.soon - 1), len(PAUSES) - 1)]
        part.why, part.due = why, self.clock() + pause
        self.log(part.name, why, pause)

    def log(self, part: str, why: str, pause: float = 0.0) -> None:
        """Writes down what happened, a line of JSON each."""
        line = {"at": datetime.now(UTC).isoformat(timespec="milliseconds"), "part": part, "why": why, "again_in": pause}
        with (self.settings.data / "log" / "supervisor.log").open("a") as log:
            log.write(json.dumps(line) + "\n")

    def stop(self) -> None:
        for process in self.processes.values():
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
                process.send_signal(signal.SIGCONT)
        for process in self.processes.values():
            try:
                process.wait(8)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait(5)
        for part in self.parts.values():
            part.channel.close()
        self.parts.clear()


def _ended(part: Part, now: float) -> str:
    """Why a part must be started again; empty when it need not."""
    assert part.process is not None
    code = part.process.poll()
    if code is not None:
        return f"it was killed by {signal.Signals(-code).name}" if code < 0 else f"it ended with code {code}"
    silent = now - part.heard
    if not part.ready and silent > READY_WITHIN:
        return f"it was not ready within {READY_WITHIN:.0f} s"
    return f"it gave no sign of life for {silent:.0f} s" if part.ready and silent > HUNG_AFTER else ""


def _channel(name: str) -> socket.socket:
    """Where a part's signs of life arrive: a datagram socket in the kernel's own names, which need no file (unix(7))."""
    made = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
    made.bind(f"\0vokari-{os.getpid()}-{name}-{time.monotonic_ns()}")
    made.setblocking(False)
    return made


def _address(channel: socket.socket) -> str:
    name: bytes = channel.getsockname()
    return "@" + name[1:].decode()


def _listen(part: Part, now: float) -> None:
    while True:
        try:
            said = part.channel.recv(4096)
        except (BlockingIOError, OSError):
            return
        part.heard = now
        part.ready = part.ready or b"READY=1" in said


def data_folder(settings: Settings) -> Path:
    """The folder of data with what every start needs in it."""
    (settings.data / "log").mkdir(parents=True, exist_ok=True)
    return settings.data
