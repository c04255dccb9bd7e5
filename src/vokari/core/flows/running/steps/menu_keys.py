"""How a menu reads keys: complete keys, keys that begin longer ones, # and wrong entries."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from ...model.steps import Branch, Menu

KEYPAD = "123456789*0#"


@dataclass(frozen=True, slots=True)
class KeyTable:
    """A menu's branches by their keys, extensions that can be dialed there, and every string that begins a longer one of both."""

    branches: dict[str, Branch]
    beginnings: frozenset[str]
    extensions: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Reading:
    """What a key means: a branch was taken, or an extension (`extension`, with no branch), more digits are awaited (`pending`), or the
    entry is wrong."""

    kind: Literal["taken", "more", "wrong"]
    branch: Branch | None = None
    pending: str = ""
    extension: str = ""


WRONG = Reading("wrong")


@lru_cache(maxsize=4096)
def _table(branches: tuple[Branch, ...], extensions: tuple[str, ...]) -> KeyTable:
    keys = {branch.keys: branch for branch in branches}
    beginnings = frozenset(key[:length] for key in (*keys, *extensions) for length in range(1, len(key)))
    return KeyTable(keys, beginnings, frozenset(extensions))


def key_table(menu: Menu, extensions: tuple[str, ...] = ()) -> KeyTable:
    """The table of a menu, with the extensions that can be dialed there; a branch comes before an extension of its digits."""
    return _table(menu.branches, extensions if menu.dial_extensions else ())


def read_key(table: KeyTable, pending: str, key: str) -> Reading:
    """Reads one more key after the digits that are pending."""
    if key == "#" and (pending or "#" not in table.branches):
        return close_entry(table, pending)
    entry = pending + key
    if entry in table.beginnings:
        return Reading("more", pending=entry)
    return close_entry(table, entry)


def close_entry(table: KeyTable, pending: str) -> Reading:
    """Reads the pending digits as all there is, after # or the inter-digit time."""
    branch = table.branches.get(pending)
    if branch is None and pending in table.extensions:
        return Reading("taken", extension=pending)
    return Reading("taken", branch) if branch else WRONG
