"""Parts that die or hang are started again, alone; what a killed supervisor left behind is known and ended."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from vokari.local import stack as stacks
from vokari.local.orphans import Ledger, Trace, end, trace_of
from vokari.local.stack import Stack
from vokari.settings import Settings

BEATS = (
    "import os, socket, time, sys\n"
    "s = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)\n"
    "to = chr(0) + os.environ['NOTIFY_SOCKET'][1:]\n"
    "s.sendto(b'READY=1', to)\n"
    "while True:\n    s.sendto(b'WATCHDOG=1', to); time.sleep(0.05)\n"
)


@pytest.fixture
def stack(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Stack]:
    """Two parts that do nothing but give signs of life."""
    (tmp_path / "log").mkdir()
    monkeypatch.setattr(stacks, "HUNG_AFTER", 3.0)
    monkeypatch.setattr(stacks, "PAUSES", (0.0, 0.4))
    real = subprocess.Popen

    def plain(words: list[str], **more: object) -> "subprocess.Popen[bytes]":
        return real([sys.executable, "-c", BEATS], **more)  # type: ignore[call-overload, no-any-return]

    monkeypatch.setattr(stacks.subprocess, "Popen", plain)
    made = Stack(Settings(1, 2, 3, 4, tmp_path, ""))
    for name in ("control", "worker"):
        made.start(name)
    until(made, lambda: all(part.ready for part in made.parts.values()))
    yield made
    made.stop()


def until(stack: Stack, holds: object, seconds: float = 20) -> float:
    began = time.monotonic()
    while not holds():  # type: ignore[operator]
        stack.look()
        assert time.monotonic() - began < seconds
        time.sleep(0.02)
    return time.monotonic() - began


def pids(stack: Stack) -> dict[str, int]:
    return {name: process.pid for name, process in stack.processes.items()}


def test_a_part_that_is_killed_is_started_again_at_once_and_the_other_untouched(stack: Stack) -> None:
    before = pids(stack)
    os.kill(before["control"], signal.SIGKILL)
    until(stack, lambda: pids(stack)["control"] != before["control"])
    assert pids(stack)["worker"] == before["worker"]
    assert stack.parts["control"].why == "it was killed by SIGKILL"
    assert '"part": "control"' in (stack.settings.data / "log" / "supervisor.log").read_text()


def test_a_part_that_keeps_dying_is_started_after_a_growing_pause(stack: Stack) -> None:
    for pause in (0.0, 0.4):
        before = pids(stack)["worker"]
        os.kill(before, signal.SIGKILL)
        assert until(stack, lambda before=before: pids(stack)["worker"] != before) >= pause


def test_a_part_that_hangs_is_replaced(stack: Stack) -> None:
    before = pids(stack)
    os.kill(before["worker"], signal.SIGSTOP)
    until(stack, lambda: pids(stack)["worker"] != before["worker"])
    assert trace_of(before["worker"]) is None
    assert stack.parts["worker"].why.startswith("it gave no sign of life for")


def test_orphans_are_known_by_id_and_start_and_nobody_else_is_ended(tmp_path: Path) -> None:
    ours, other = (subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"]) for _ in range(2))
    try:
        ledger = Ledger(tmp_path)
        assert ledger.take()
        assert not Ledger(tmp_path).take(), "one supervisor at a time"
        ledger.write({"control": ours.pid, "web": other.pid})
        trace = trace_of(other.pid)
        assert trace is not None
        assert Ledger(tmp_path).orphans() == {"control": trace_of(ours.pid), "web": trace}
        end(Trace(other.pid, trace.started - 1, trace.boot))
        assert other.poll() is None, "the id was given to another process since"
        end(trace_of(ours.pid) or trace)
        assert ours.wait(5) == -signal.SIGTERM
        assert "control" not in Ledger(tmp_path).orphans()
        ledger.file.write_text("nonsense")
        assert Ledger(tmp_path).orphans() == {}
    finally:
        for process in (ours, other):
            process.kill()
            process.wait()
