"""Several processes of one part, which answer at the same port, each supervised; to whoever supervises them they are one part.

They share one listening socket, so that whoever is free takes the next connection, and none that waits is lost with a process
that ends. TCP_NODELAY (tcp(7)) is set on it and handed on to every connection: an answer is never held back for more to come.
"""

import signal
import socket
import threading
import time
from types import FrameType

from ..pulse import NOTIFY_EVERY, notify
from ..settings import HOST, Settings
from .stack import Stack, data_folder

LOOK_EVERY = 0.2
BACKLOG = 2048


def listening(port: int) -> socket.socket:
    """A socket that listens at a port of this machine."""
    made = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    made.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    made.bind((HOST, port))
    made.listen(BACKLOG)
    return made


def serve(settings: Settings, part: str, port: int, workers: int) -> None:
    """Serves with so many processes until it is ended. Signs of life are sent while every process gives some."""
    over = threading.Event()

    def end(_signal: int, _frame: FrameType | None) -> None:
        over.set()

    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, end)
    with listening(port) as listener:
        data_folder(settings)
        stack = Stack(settings, listener=listener)
        names = [f"{part}.{n + 1}" for n in range(workers)]
        for name in names:
            stack.start(name)
        told, ready = 0.0, False
        try:
            while not over.wait(LOOK_EVERY):
                stack.look()
                if not ready and all(stack.parts[name].ready for name in names):
                    ready = True
                    notify("READY=1")
                if ready and time.monotonic() - told >= NOTIFY_EVERY:
                    told = time.monotonic()
                    notify("WATCHDOG=1")
        finally:
            stack.stop()
