"""Going through many things one by one: each in a transaction of its own, so that one odd thing stops no other."""

from collections.abc import Callable, Iterable
from typing import TypeVar

import structlog
from sqlalchemy.exc import OperationalError

log = structlog.get_logger()

Thing = TypeVar("Thing")


def each(what: str, things: Iterable[Thing], do: Callable[[Thing], bool]) -> int:
    """Does something for each thing; gives for how many it was done. What fails is logged under `what`, and left for the next
    time. A database that is away is no odd thing: the sweep ends with its error, and begins anew at its next time."""
    done = 0
    for thing in things:
        try:
            done += do(thing)
        except OperationalError:
            raise
        except Exception:
            log.exception(what, thing=str(thing))
    return done
