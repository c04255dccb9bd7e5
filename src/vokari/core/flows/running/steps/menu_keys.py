"""How a menu reads keys: complete keys, keys that begin longer ones, # and wrong entries."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from ...model.steps import Branch, Menu

KEYPAD = "123456789*0#"


@dataclass(frozen=True, slots=True)
class KeyTable:
    """A menu's branches by their keys, and every string that begins a longer key."""

    branches: dict[str, Branch]
    beginnings: frozenset[str]


@dataclass(frozen=True, slots=True)
class Reading:
    """What a key means: a branch was taken, more digits are awaited (`pending`), or the entry is wrong."""

    kind: Literal["taken", "more", "wrong"]
    branch: Branch | None = None
    pending: str = ""


WRONG = Reading("wrong")


@lru_cache(maxsize=4096)
def _table(branches: tuple[Branch, ...]) -> KeyTable:
    keys = {branch.keys: branch for branch in branches}
    beginnings = frozenset(key[:length] for key in keys for length in range(1, len(key)))
    return KeyTable(keys, beginnings)


def key_table(menu: Menu) -> KeyTable:
    """The table of a menu."""
    return _table(menu.branches)


def read_key(table: KeyTable, pending: str, key: str) -> Reading:
    """Reads one more key after the digits that are pending."""
    if key == "#" and (pending or "#" not in table.branches):
        return close_entry(table, pending)
    entry = pending + key
    if entry in table.beginnings:
        return Reading("more", pending=entry)
    if entry in table.branches:
        return Reading("taken", table.branches[entry])
    return WRONG


def close_entry(table: KeyTable, pending: str) -> Reading:
    """Reads the pending digits as all there is, after # or the inter-digit time."""
    branch = table.branches.get(pending)
    return Reading("taken", branch) if branch else WRONG
