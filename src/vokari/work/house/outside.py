"""Nothing outside is asked inside a transaction: a slow system would hold the locks of other people's calls.

Every port of the house stands behind this guard, in production too; asking one while the thread has a transaction open is a
defect, and told as one at once rather than by callers who wait. The clock is no port of this kind: reading it takes no time.
"""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any, TypeVar, cast

Port = TypeVar("Port")

_open = threading.local()


class InsideTransaction(RuntimeError):
    """A port was asked while this thread had a transaction open."""


@contextmanager
def transaction() -> Iterator[None]:
    """Marks this thread as having a transaction open."""
    _open.count = getattr(_open, "count", 0) + 1
    try:
        yield
    finally:
        _open.count -= 1


def not_inside(what: str) -> None:
    """Raises InsideTransaction when this thread has a transaction open; `what` is what must not happen then."""
    if getattr(_open, "count", 0):
        raise InsideTransaction(f"{what} inside a transaction")


def guarded(port: Port) -> Port:
    """The port, which raises InsideTransaction when it is asked inside a transaction of its thread."""
    return port if isinstance(port, _Guarded) else cast(Port, _Guarded(port))


class _Guarded:
    def __init__(self, port: Any) -> None:
        self._port = port

    def __getattr__(self, name: str) -> Any:
        found = getattr(self._port, name)
        return _checked(found, f"{type(self._port).__name__}.{name}") if callable(found) else found


def _checked(ask: Callable[..., Any], name: str) -> Callable[..., Any]:
    @wraps(ask)
    def asked(*args: Any, **more: Any) -> Any:
        not_inside(f"{name} was asked")
        return ask(*args, **more)

    return asked
