"""The Menu step: what a key or silence makes of a try."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ...model.steps import Menu
from . import keyed
from .menu_keys import Reading, close_entry, key_table, read_key

if TYPE_CHECKING:
    from ..engine import Turn


def begin(turn: Turn, here: Menu) -> None:
    """Enters the step, or hears it again."""
    keyed.begin(turn, here, key)


def key(turn: Turn, here: Menu, pressed: str) -> None:
    """A key, during the prompt or after it."""
    _read(turn, here, read_key(key_table(here), turn.state.pending, pressed))


def silence(turn: Turn, here: Menu) -> None:
    """The time ran out: digits that are pending are the entry, none are a silent try."""
    if turn.state.pending:
        _read(turn, here, close_entry(key_table(here), turn.state.pending))
    else:
        keyed.failed(turn, here, key, silent=True)


def _read(turn: Turn, here: Menu, reading: Reading) -> None:
    branch = reading.branch
    if reading.kind == "more":
        turn.set(pending=reading.pending)
        keyed.more(turn, here, key)
    elif branch is None:
        keyed.failed(turn, here, key, silent=False)
    else:
        turn.set(pending="", language=branch.language or turn.state.language)
        if branch.source:
            turn.set(source=branch.source)
        if not branch.hear_again:
            turn.go(branch.id, branch.to)
        elif turn.count(here.id, branch.id):
            begin(turn, here)
        else:
            turn.rescue()
