"""From a clone to a running demo, as somebody else, with nothing of ours there before: what a newcomer does first."""

import os
import pwd
import shutil
import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from vokari.demo.people import PASSWORD, USERS
from vokari.local.cluster import free_ports

pytestmark = [
    pytest.mark.install,
    pytest.mark.skipif(os.geteuid() != 0 or not shutil.which("useradd"), reason="only root can make another user"),
]

TOP = Path(__file__).parents[1]
KEPT = ("PIP_", "SSL_", "REQUESTS_", "http_proxy", "https_proxy", "HTTP_PROXY", "HTTPS_PROXY", "no_proxy", "NO_PROXY")


@pytest.fixture
def newcomer() -> Iterator[pwd.struct_passwd]:
    """A user of this machine whose home nobody else may enter."""
    name = f"vokari-new-{os.getpid()}"
    subprocess.run(["useradd", "--create-home", "--shell", "/bin/bash", name], check=True)
    user = pwd.getpwnam(name)
    os.chmod(user.pw_dir, 0o700)
    yield user
    subprocess.run(["userdel", "--remove", name], check=False, capture_output=True)


def test_a_clone_becomes_a_running_demo_twice_in_a_row(newcomer: pwd.struct_passwd, tmp_path: Path) -> None:
    checkout = Path(newcomer.pw_dir) / "some folder" / "vokari"
    checkout.parent.mkdir()
    subprocess.run(["git", "clone", "--quiet", f"file://{TOP}", str(checkout)], check=True)
    subprocess.run(["chown", "-R", f"{newcomer.pw_uid}:{newcomer.pw_gid}", newcomer.pw_dir], check=True)
    names = ("", "CARRIER_", "CONTROL_", "PG_")
    ports = {f"VOKARI_{name}PORT": str(port) for name, port in zip(names, free_ports(len(names)), strict=True)}
    kept = {name: value for name, value in os.environ.items() if name.startswith(KEPT)}
    words = ["runuser", "-u", newcomer.pw_name, "--", "env", "-i", "PATH=/usr/bin:/bin", f"HOME={newcomer.pw_dir}"]
    words += [f"{name}={value}" for name, value in {**kept, **ports}.items()]
    address = f"http://127.0.0.1:{ports['VOKARI_PORT']}"
    for seconds in (400, 60):
        with (tmp_path / "demo.log").open("w+") as log:
            demo = subprocess.Popen(
                [*words, str(checkout / "script" / "demo")], stdout=log, stderr=log, start_new_session=True, cwd="/"
            )
            try:
                assert answers(address, demo, seconds), (tmp_path / "demo.log").read_text()
                assert "calls so far" in today(address) or "No calls yet" in today(address)
            finally:
                os.killpg(demo.pid, signal.SIGINT)
                left = demo.wait(30)
        assert left == 0, (tmp_path / "demo.log").read_text()
        with pytest.raises(httpx.HTTPError):
            httpx.get(f"{address}/healthz", timeout=2)


def answers(address: str, demo: subprocess.Popen[bytes], seconds: float) -> bool:
    """Whether everything is up before the time is over or the demo ends."""
    end = time.monotonic() + seconds
    while time.monotonic() < end and demo.poll() is None:
        try:
            if httpx.get(f"{address}/healthz", timeout=2).json() == {"status": "ok"}:
                return True
        except httpx.HTTPError:
            time.sleep(0.5)
    return False


def today(address: str) -> str:
    with httpx.Client(base_url=address, follow_redirects=True, timeout=20) as browser:
        return browser.post("/sign-in", data={"email": USERS[1][0], "password": PASSWORD}).text
