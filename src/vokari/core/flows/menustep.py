"""The Menu step: its prompt, the keys pressed early, and what a key or silence makes of a try."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .commands import Listen
from .menukeys import Reading, close_entry, key_table, read_key
from .steps import Menu
from .values import Prompt

if TYPE_CHECKING:
    from .engine import Turn


def begin(turn: Turn, here: Menu, prompt: Prompt | None = None) -> None:
    """Starts a prompt of the menu; kept keys act as if pressed when it starts, so it is then not heard."""
    turn.set(pending="")
    if turn.state.kept:
        _take_kept(turn, here)
    else:
        turn.say(prompt or here.prompt, cut=True)


def heard(turn: Turn, here: Menu) -> None:
    """The prompt is over: the caller has `wait` seconds."""
    turn.set(phase="waiting", awaiting=turn.issue(Listen, here.wait))


def key(turn: Turn, here: Menu, pressed: str) -> None:
    """A key, during the prompt or after it."""
    _read(turn, here, read_key(key_table(here), turn.state.pending, pressed))


def silence(turn: Turn, here: Menu) -> None:
    """The time ran out: digits that are pending are the entry, none are a silent try."""
    if turn.state.pending:
        _read(turn, here, close_entry(key_table(here), turn.state.pending))
    else:
        _failed(turn, here, silent=True)


def _take_kept(turn: Turn, here: Menu) -> None:
    first, rest = turn.state.kept[0], turn.state.kept[1:]
    turn.set(kept=rest)
    key(turn, here, first)


def _read(turn: Turn, here: Menu, reading: Reading) -> None:
    branch = reading.branch
    if reading.kind == "more":
        turn.set(pending=reading.pending)
        if turn.state.kept:
            _take_kept(turn, here)
        else:
            turn.set(phase="waiting", awaiting=turn.issue(Listen, here.inter_digit))
    elif branch is None:
        _failed(turn, here, silent=False)
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


def _failed(turn: Turn, here: Menu, *, silent: bool) -> None:
    turn.set(tries=turn.state.tries + 1, pending="")
    if turn.state.tries >= here.tries:
        turn.go(*(("nothing", here.nothing) if silent else ("wrong", here.wrong)))
    else:
        begin(turn, here, here.retry_silent if silent else here.retry_wrong)
