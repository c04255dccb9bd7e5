"""Processes that a supervisor left behind when it was killed: known by their id and the moment at which they started, so that no
other process is ever taken for one."""

import fcntl
import json
import os
import signal
import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO


@dataclass(frozen=True, slots=True)
class Trace:
    """A process: its id, and when it started, in ticks since this boot of the machine (proc(5), /proc/PID/stat, field 22)."""

    pid: int
    started: int
    boot: str


def trace_of(pid: int) -> Trace | None:
    """The trace of a process that runs now; None for none, and for one that has ended and is not collected yet."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
        boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    except OSError:
        return None
    return None if fields[0] == "Z" else Trace(pid, int(fields[19]), boot)


class Ledger:
    """Who runs on a folder of data, in a file beside it. One supervisor at a time holds its lock; the lock goes with its life."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.file, self.lock_file = folder / "parts.json", folder / "lock"
        self.lock: IO[str] | None = None

    def take(self) -> bool:
        """Whether this process is the only supervisor from now on."""
        held = self.lock_file.open("a+")
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            held.close()
            return False
        self.lock = held
        return True

    def write(self, parts: Mapping[str, int]) -> None:
        """Keeps the processes of the parts, whole or not at all."""
        found = {name: asdict(trace) for name, pid in parts.items() if (trace := trace_of(pid))}
        partial = self.file.with_suffix(".partial")
        partial.write_text(json.dumps(found))
        partial.rename(self.file)

    def orphans(self) -> dict[str, Trace]:
        """The processes of the supervisor before that still run."""
        try:
            raw = json.loads(self.file.read_text())
            known = {str(name): Trace(**one) for name, one in raw.items()}
        except (OSError, ValueError, TypeError, AttributeError):
            return {}
        return {name: trace for name, trace in known.items() if trace_of(trace.pid) == trace}

    def forget(self) -> None:
        """Nothing runs any more."""
        self.file.unlink(missing_ok=True)
        if self.lock is not None:
            self.lock.close()
            self.lock = None


def end(trace: Trace, seconds: float = 5) -> None:
    """Ends a process, in good order where it can; one with the same id that started at another moment is left alone."""
    for sign in (signal.SIGTERM, signal.SIGKILL):
        until = time.monotonic() + seconds
        if trace_of(trace.pid) != trace:
            return
        try:
            os.kill(trace.pid, sign)
            os.kill(trace.pid, signal.SIGCONT)
        except ProcessLookupError:
            return
        while time.monotonic() < until:
            if trace_of(trace.pid) != trace:
                return
            time.sleep(0.05)
