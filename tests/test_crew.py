"""Several processes of one part at one port: any of them answers, one that dies is replaced, none is left behind."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest

from vokari.local.cluster import free_port
from vokari.local.crew import listening
from vokari.settings import Settings


def until(holds: Callable[[], object], seconds: float = 60) -> None:
    """Waits until something holds. The time it may take is only there to end a test that hangs."""
    ends = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < ends
        time.sleep(0.05)


def test_an_answer_is_never_held_back() -> None:
    with listening(free_port()) as listener, socket.create_connection(listener.getsockname()):
        connection, _ = listener.accept()
        with connection:
            assert connection.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)


@pytest.fixture
def crew(settings: Settings, tmp_path: Path) -> Iterator[tuple[subprocess.Popen[bytes], str]]:
    """Call control with two workers, and its address."""
    port = free_port()
    told = {
        "VOKARI_DATABASE_URL": settings.database_url, "VOKARI_CONTROL_PORT": str(port), "VOKARI_DATA": str(tmp_path),
    }  # fmt: skip
    words = [sys.executable, "-m", "vokari.cli", "serve", "control", "--workers", "2"]
    with subprocess.Popen(words, env={**os.environ, **told}) as process:
        yield process, f"http://127.0.0.1:{port}/healthz"
        process.terminate()
        process.wait(30)


def workers(process: "subprocess.Popen[bytes]") -> list[int]:
    return [int(one) for one in Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()]


def answers(url: str) -> bool:
    try:
        return httpx.get(url, timeout=5).status_code == 200
    except httpx.HTTPError:
        return False


def alone(pid: int) -> bool:
    """Whether a process is no more."""
    return not Path(f"/proc/{pid}").exists() or " Z " in Path(f"/proc/{pid}/stat").read_text()


def test_one_that_dies_is_replaced_and_none_is_left_behind(crew: tuple["subprocess.Popen[bytes]", str]) -> None:
    process, url = crew
    until(lambda: answers(url))
    first = workers(process)
    assert len(first) == 2
    os.kill(first[0], signal.SIGKILL)
    until(lambda: len(workers(process)) == 2 and first[0] not in workers(process))
    assert first[1] in workers(process)
    until(lambda: answers(url))
    left = workers(process)
    os.kill(process.pid, signal.SIGKILL)
    until(lambda: all(alone(pid) for pid in left))
    assert not answers(url)


def test_more_workers_than_can_be_are_refused() -> None:
    said = subprocess.run(
        [sys.executable, "-m", "vokari.cli", "serve", "web", "--workers", "0"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert (said.returncode, "workers" in said.stderr) == (2, True)
