"""The Keypad entry step: digits of a length, kept under a name."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .commands import Listen
from .steps import KeypadEntry
from .values import Prompt

if TYPE_CHECKING:
    from .engine import Turn


def begin(turn: Turn, here: KeypadEntry, prompt: Prompt | None = None) -> None:
    """Starts a prompt of the entry; kept keys act as if pressed when it starts, so it is then not heard."""
    turn.set(pending="")
    if turn.state.kept:
        _take_kept(turn, here)
    else:
        turn.say(prompt or here.prompt, cut=True)


def heard(turn: Turn, here: KeypadEntry) -> None:
    """The prompt is over: the caller has `wait` seconds."""
    turn.set(phase="waiting", awaiting=turn.issue(Listen, here.wait))


def key(turn: Turn, here: KeypadEntry, pressed: str) -> None:
    """A key: a digit of the entry, # as its end, or * which is wrong."""
    if pressed == "*":
        _failed(turn, here, silent=False)
    elif pressed == "#":
        _close(turn, here)
    else:
        turn.set(pending=turn.state.pending + pressed)
        if len(turn.state.pending) >= here.longest:
            _close(turn, here)
        elif turn.state.kept:
            _take_kept(turn, here)
        else:
            turn.set(phase="waiting", awaiting=turn.issue(Listen, here.inter_digit))


def silence(turn: Turn, here: KeypadEntry) -> None:
    """The time ran out: what was typed so far is the entry."""
    if turn.state.pending:
        _close(turn, here)
    else:
        _failed(turn, here, silent=True)


def _take_kept(turn: Turn, here: KeypadEntry) -> None:
    first, rest = turn.state.kept[0], turn.state.kept[1:]
    turn.set(kept=rest)
    key(turn, here, first)


def _close(turn: Turn, here: KeypadEntry) -> None:
    typed = turn.state.pending
    if len(typed) < here.shortest:
        _failed(turn, here, silent=not typed)
        return
    others = tuple(pair for pair in turn.state.values if pair[0] != here.store_as)
    turn.set(pending="", values=(*others, (here.store_as, typed)))
    turn.go("typed", here.typed)


def _failed(turn: Turn, here: KeypadEntry, *, silent: bool) -> None:
    turn.set(tries=turn.state.tries + 1, pending="")
    if turn.state.tries >= here.tries:
        turn.go(*(("nothing", here.nothing) if silent else ("wrong", here.wrong)))
    else:
        begin(turn, here, here.retry_silent if silent else here.retry_wrong)
