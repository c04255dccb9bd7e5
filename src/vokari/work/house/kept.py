"""What a process keeps made ready between transactions. It holds only what is committed: what a transaction makes of rows
that it may still roll back is its own until then."""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from typing import Any, Generic, TypeVar

from sqlalchemy.orm import Session

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")

_PENDING = "kept"


class Kept(Generic[Key, Value]):
    """At most so many values by key. A key names its content for good, as an id with its revision does."""

    def __init__(self, most: int) -> None:
        self.most = most
        self.known: dict[Key, Value] = {}

    def get(self, session: Session, key: Key, make: Callable[[], Value]) -> Value:
        """The value of a key, made within this transaction where it is not known yet."""
        found = self.known.get(key)
        if found is not None:
            return found
        pending: dict[tuple[int, Any], tuple[Kept[Any, Any], Any]] = session.info.setdefault(_PENDING, {})
        mine = (id(self), key)
        if mine not in pending:
            pending[mine] = (self, make())
        made: Value = pending[mine][1]
        return made

    def keep(self, key: Key, value: Value) -> None:
        """Keeps a value that is committed; when there are too many, all make room."""
        if len(self.known) >= self.most:
            self.known.clear()
        self.known[key] = value


ONCE = "once"


def once(session: Session, key: Hashable, read: Callable[[], Value]) -> Value:
    """What several use cases of one page read: read once for all of them (`House.together`), else each time."""
    known: dict[Hashable, Value] | None = session.info.get(ONCE)
    if known is None:
        return read()
    if key not in known:
        known[key] = read()
    return known[key]


@contextmanager
def read_once(session: Session) -> Iterator[None]:
    """Reads what several use cases need once within a block that changes nothing of it."""
    mine = ONCE not in session.info
    if mine:
        session.info[ONCE] = {}
    try:
        yield
    finally:
        if mine:
            del session.info[ONCE]


def committed(session: Session) -> None:
    """Keeps what a session made, once its transaction is committed."""
    for (_, key), (kept, value) in session.info.pop(_PENDING, {}).items():
        kept.keep(key, value)
