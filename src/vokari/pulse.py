"""Signs of life of a part: to whoever supervises it, as systemd's notification protocol (sd_notify(3)) says, and to the database,
for the page of the stack's state.

The supervisor of `local` and systemd hear the same: READY=1 once the part works, WATCHDOG=1 from then on. They are sent from the
part's event loop, so that a part that hangs falls silent.
"""

import asyncio
import contextlib
import os
import shutil
import socket
from pathlib import Path

import structlog
from sqlalchemy.exc import SQLAlchemyError

from .work.agency import stack
from .work.house.house import House

log = structlog.get_logger()

NOTIFY_EVERY, BEAT_EVERY = 1.0, 10.0
"""Seconds between two notifications, and between two beats in the database."""


class Pulse:
    """The signs of life of one process of a part; `data` is the folder whose free space is told."""

    def __init__(self, part: str, data: Path) -> None:
        self.part, self.data = part, data
        self.run_id: int | None = None

    async def run(self, house: House | None) -> None:
        """Sends signs of life until it is cancelled. A database that is away, or slow, delays none of them."""
        notify("READY=1")
        beat: asyncio.Task[None] | None = None
        since = 0.0
        while True:
            notify("WATCHDOG=1")
            since -= NOTIFY_EVERY
            if house is not None and since <= 0 and (beat is None or beat.done()):
                since = BEAT_EVERY
                beat = asyncio.create_task(asyncio.to_thread(self._beat, house))
            await asyncio.sleep(NOTIFY_EVERY)

    def _beat(self, house: House) -> None:
        try:
            free = shutil.disk_usage(self.data).free
            if self.run_id is None:
                self.run_id = stack.begin(house, self.part, socket.gethostname(), os.getpid(), _why(), free)
            else:
                stack.beat(house, self.run_id, free)
        except (SQLAlchemyError, OSError) as error:
            log.warning("no sign of life could be written", part=self.part, because=str(error).splitlines()[0])


def _why() -> str:
    """Why this process was started, as its supervisor says."""
    return os.environ.get("VOKARI_STARTED_BECAUSE", "")[:200]


def notify(state: str) -> None:
    """Tells the supervisor; nobody, where NOTIFY_SOCKET names none."""
    address = os.environ.get("NOTIFY_SOCKET", "")
    if not address:
        return
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as sender:
        sender.setblocking(False)
        sender.sendto(state.encode(), "\0" + address[1:] if address.startswith("@") else address)
