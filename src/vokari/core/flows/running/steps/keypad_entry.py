"""The Keypad entry step: digits of a length, kept under a name."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ...model.steps import KeypadEntry
from . import keyed

if TYPE_CHECKING:
    from ..engine import Turn


def begin(turn: Turn, here: KeypadEntry) -> None:
    """Enters the step."""
    keyed.begin(turn, here, key)


def key(turn: Turn, here: KeypadEntry, pressed: str) -> None:
    """A key: a digit of the entry, # as its end, or * which is wrong."""
    if pressed == "*":
        keyed.failed(turn, here, key, silent=False)
    elif pressed == "#":
        _close(turn, here)
    else:
        turn.set(pending=turn.state.pending + pressed)
        if len(turn.state.pending) >= here.longest:
            _close(turn, here)
        else:
            keyed.more(turn, here, key)


def silence(turn: Turn, here: KeypadEntry) -> None:
    """The time ran out: what was typed so far is the entry."""
    if turn.state.pending:
        _close(turn, here)
    else:
        keyed.failed(turn, here, key, silent=True)


def _close(turn: Turn, here: KeypadEntry) -> None:
    typed = turn.state.pending
    if len(typed) < here.shortest:
        keyed.failed(turn, here, key, silent=not typed)
        return
    others = tuple(pair for pair in turn.state.values if pair[0] != here.store_as)
    turn.set(pending="", values=(*others, (here.store_as, typed)))
    turn.go("typed", here.typed)
