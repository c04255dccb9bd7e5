"""Parts that die or hang are started again, alone; what a killed supervisor left behind is known and ended."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest

from vokari.local import ports
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


@dataclass
class Standing:
    """A clock that moves as the test says, so that nothing depends on how fast the machine is."""

    at: float = 1000.0

    def __call__(self) -> float:
        return self.at


@pytest.fixture
def stack(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Stack]:
    """Two parts that do nothing but give signs of life."""
    (tmp_path / "log").mkdir()
    real = subprocess.Popen

    def plain(words: list[str], **more: object) -> "subprocess.Popen[bytes]":
        return real([sys.executable, "-c", BEATS], **more)  # type: ignore[call-overload, no-any-return]

    monkeypatch.setattr(stacks.subprocess, "Popen", plain)
    made = Stack(Settings(1, 2, 3, 4, tmp_path, ""), clock=Standing())
    for name in ("control", "worker"):
        made.start(name)
    until(made, lambda: all(part.ready for part in made.parts.values()))
    yield made
    made.stop()


def until(stack: Stack, holds: Callable[[], bool]) -> None:
    """Looks until something holds. The time it may take is only there to end a test that hangs."""
    ends = time.monotonic() + 120
    while not holds():
        stack.look()
        assert time.monotonic() < ends
        time.sleep(0.01)


def pass_time(stack: Stack, seconds: float, *alive: str) -> None:
    """Lets time pass, second by second, in each of which the parts that are alive are heard."""
    assert isinstance(stack.clock, Standing)
    for _ in range(round(seconds)):
        stack.clock.at += 1
        now = stack.clock.at
        until(stack, lambda now=now: all(stack.parts[name].heard >= now for name in alive))


def pids(stack: Stack) -> dict[str, int]:
    return {name: process.pid for name, process in stack.processes.items()}


def kill(stack: Stack, name: str) -> int:
    process = stack.processes[name]
    process.kill()
    process.wait()
    return process.pid


def test_a_part_that_is_killed_is_started_again_at_once_and_the_other_untouched(stack: Stack) -> None:
    before = pids(stack)
    kill(stack, "control")
    assert stack.look() == ["control"]
    assert pids(stack)["control"] != before["control"]
    assert pids(stack)["worker"] == before["worker"]
    assert stack.parts["control"].why == "it was killed by SIGKILL"
    assert '"part": "control"' in (stack.settings.data / "log" / "supervisor.log").read_text()


def test_a_part_that_keeps_dying_is_started_after_a_growing_pause(stack: Stack) -> None:
    assert isinstance(stack.clock, Standing)
    for pause in stacks.PAUSES[:5]:
        kill(stack, "worker")
        assert ("worker" in stack.look()) == (not pause)
        if pause:
            stack.clock.at += pause - 0.01
            assert "worker" not in stack.look()
            stack.clock.at += 0.01
            assert "worker" in stack.look()
    until(stack, lambda: stack.parts["worker"].ready)
    pass_time(stack, stacks.STEADY_AFTER + 1, "worker", "control")
    kill(stack, "worker")
    assert stack.look() == ["worker"], "one that ran long is started at once"


def test_a_part_that_hangs_is_replaced(stack: Stack) -> None:
    before = pids(stack)
    os.kill(before["worker"], signal.SIGSTOP)
    pass_time(stack, stacks.HUNG_AFTER - 1, "control")
    assert pids(stack) == before
    pass_time(stack, 3, "control")
    assert pids(stack)["control"] == before["control"]
    assert pids(stack)["worker"] != before["worker"]
    assert trace_of(before["worker"]) is None
    assert stack.parts["worker"].why.startswith("it gave no sign of life for")


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (
            ["-m", "vokari.cli", "serve", "web"],
            "an earlier start of Vokari on /srv/vokari (web, process {pid}): stop it there",
        ),
        (["-m", "another"], "python"),
    ],
)
def test_a_taken_port_names_who_has_it(tmp_path: Path, words: list[str], said: str) -> None:
    listens = "import socket, time; s = socket.socket(); s.bind(('127.0.0.1', 0)); s.listen(); print(s.getsockname()[1], flush=True); time.sleep(120)"
    environment = {**os.environ, "VOKARI_DATA": "/srv/vokari"}
    with subprocess.Popen([sys.executable, "-c", listens, *words], env=environment, stdout=subprocess.PIPE) as process:
        try:
            assert process.stdout is not None
            port = int(process.stdout.readline())
            assert not ports.is_free(port)
            sentence = ports.taken(port, "VOKARI_PORT")
        finally:
            process.kill()
    assert said.format(pid=process.pid) in sentence
    assert sentence.endswith("set VOKARI_PORT to a free one")
    assert ("earlier start" in sentence) == ("vokari.cli" in words)


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
        assert ours.wait(60) == -signal.SIGTERM
        assert "control" not in Ledger(tmp_path).orphans()
        ledger.file.write_text("nonsense")
        assert Ledger(tmp_path).orphans() == {}
    finally:
        for process in (ours, other):
            process.kill()
            process.wait()
