"""What strangers send is worked out apart: in a process of its own, with limits of time and memory, so that nothing in a file can
stop or swell the process that serves everybody else.

Each task gets a process, forked from a small one that has the readers of our formats ready (multiprocessing's fork server).
"""

import contextlib
import multiprocessing
import resource
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any, Literal, ParamSpec, TypeVar

import structlog

from .outside import not_inside
from .problems import Problem

log = structlog.get_logger()


@dataclass(frozen=True, slots=True)
class Limits:
    """Seconds on the clock and of work, and bytes of address space."""

    seconds: float
    cpu_seconds: int
    memory: int


FILES = Limits(seconds=12.0, cpu_seconds=8, memory=1_500_000_000)
LOOKS_EVERY = 0.3
"""Seconds after which it is looked whether a task is still wanted."""
AT_ONCE, LONGEST_WAIT = 2, 30.0
"""How many tasks are worked on at once, and for how many seconds one waits for its turn."""

Taken = ParamSpec("Taken")
Made = TypeVar("Made")
How = Literal["made", "memory", "depth", "broken"]

_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(["vokari.work.house.readers"])
_turns = threading.BoundedSemaphore(AT_ONCE)

TOO_LONG = "This file takes too long to work out: is something in it repeated without an end?"
TOO_LARGE = "This file becomes too large when it is worked out."
TOO_DEEP = "This file is nested too deeply."
UNREADABLE = "This file cannot be read."
BUSY = "Other files are being read at the moment. Try again in a minute."


def worked_out(task: Callable[Taken, Made], *args: Taken.args, **more: Taken.kwargs) -> Made | Problem:
    """What a function of a module makes of its arguments, or why it could not be worked out within the limits. Arguments and
    result are such as can be pickled. Raises InsideTransaction when this thread has a transaction open."""
    not_inside("a file was worked out")
    if not _turns.acquire(timeout=LONGEST_WAIT):
        return Problem("file", BUSY)
    try:
        return _worked_out(task, args, more, FILES, lambda: False) or Problem("file", TOO_LONG)
    finally:
        _turns.release()


def followed(
    task: Callable[..., Made], *args: Any, limits: Limits, stops: Callable[[], bool]
) -> Made | Problem | None:  # fmt: skip
    """The same of a task that is no longer wanted once `stops` says so: None then."""
    not_inside("a task was worked out")
    return _worked_out(task, args, {}, limits, stops)


def _worked_out(
    task: Callable[..., Made], args: tuple[Any, ...], more: dict[str, Any], limits: Limits, stops: Callable[[], bool]
) -> Made | Problem | None:
    receiving, sending = _processes.Pipe(duplex=False)
    process = _processes.Process(target=_work, args=(sending, task, args, more, limits), daemon=True)
    how: str
    made: Any
    with contextlib.closing(receiving):
        process.start()
        sending.close()
        try:
            end = time.monotonic() + limits.seconds
            while (
                not (ready := receiving.poll(min(LOOKS_EVERY, max(0.0, end - time.monotonic()))))
                and time.monotonic() < end
            ):
                if stops():
                    return None
            how, made = receiving.recv() if ready else ("late", None)
        except (EOFError, OSError):
            # It ended without a word: it had used up its time, or the machine ended it for its memory.
            how, made = "late", None
        finally:
            process.kill()
            process.join()
    if how == "made":
        result: Made = made
        return result
    log.warning("a file could not be worked out", task=task.__qualname__, how=how, because=made)
    return Problem("file", {"late": TOO_LONG, "memory": TOO_LARGE, "depth": TOO_DEEP}.get(how, UNREADABLE))


def _work(
    sending: Connection, task: Callable[..., Any], args: tuple[Any, ...], more: dict[str, Any], limits: Limits
) -> None:
    """In the process of its own."""
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory, limits.memory))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.cpu_seconds, limits.cpu_seconds + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    how: How = "made"
    made: Any = None
    try:
        made = task(*args, **more)
    except MemoryError:
        how = "memory"
    except RecursionError:
        how = "depth"
    except Exception as error:
        how, made = "broken", repr(error)[:500]
    try:
        sending.send((how, made))
    except MemoryError:
        sending.send(("memory", None))
