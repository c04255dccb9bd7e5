"""The demo world in a PostgreSQL of its own, with the carrier stand-in running, for as long as the measures last."""

import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from vokari.demo import load
from vokari.local.cluster import Cluster, free_port
from vokari.local.stack import Stack
from vokari.settings import Settings
from vokari.store.database import migrate
from vokari.wiring import build
from vokari.work.house.house import House


@dataclass(frozen=True, slots=True)
class Town:
    """The running world: `loaded` is how many calls were loaded, in how many seconds."""

    settings: Settings
    house: House
    stack: Stack
    loaded: tuple[int, float]


@contextmanager
def town() -> Iterator[Town]:
    """Starts it, loads it and takes all of it away at the end."""
    folder = Path(tempfile.mkdtemp(prefix="vokari-bench-", dir="/var/tmp"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "pg", free_port())
    cluster.start()
    (folder / "log").mkdir()
    stack = Stack(Settings(free_port(), free_port(), free_port(), cluster.port, folder, ""))
    try:
        cluster.create_database("vokari")
        settings = replace(stack.settings, database_url=cluster.url("vokari"))
        stack.settings = settings
        migrate(settings.database_url)
        stack.start("carrier")
        stack.wait("carrier")
        house = build(settings)
        began = time.perf_counter()
        calls = load.load(house, settings, load.bar)
        yield Town(settings, house, stack, (calls, time.perf_counter() - began))
        house.engine.dispose()
    finally:
        stack.stop()
        cluster.remove()
        shutil.rmtree(folder, ignore_errors=True)
