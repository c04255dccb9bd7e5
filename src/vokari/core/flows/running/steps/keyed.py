"""What a Menu and a Keypad entry share: a prompt that a key stops, keys pressed early, the wait for keys, and tries."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

from ...model.steps import KeypadEntry, Menu
from ...model.values import Prompt
from ..commands import Listen

if TYPE_CHECKING:
    from ..engine import Turn

Asks = TypeVar("Asks", Menu, KeypadEntry)
Take = Callable[["Turn", Asks, str], None]
"""What a step of this kind does with one key."""


def begin(turn: Turn, here: Asks, take: Take[Asks], prompt: Prompt | None = None) -> None:
    """Starts a prompt; kept keys act as if pressed when it starts, so it is then not heard."""
    turn.set(pending="")
    if turn.state.kept:
        _take_kept(turn, here, take)
    else:
        turn.say(prompt or here.prompt, cut=True)


def heard(turn: Turn, here: Menu | KeypadEntry) -> None:
    """The prompt is over: the caller has `wait` seconds."""
    turn.set(phase="waiting", awaiting=turn.issue(Listen, here.wait))


def more(turn: Turn, here: Asks, take: Take[Asks]) -> None:
    """Another key is wanted: one that was kept, or one pressed within the inter-digit time."""
    if turn.state.kept:
        _take_kept(turn, here, take)
    else:
        turn.set(phase="waiting", awaiting=turn.issue(Listen, here.inter_digit))


def failed(turn: Turn, here: Asks, take: Take[Asks], *, silent: bool) -> None:
    """A try came to nothing: the retry prompt, or after the last try the exit that says of what kind it was."""
    turn.set(tries=turn.state.tries + 1, pending="")
    if turn.state.tries >= here.tries:
        turn.go(*(("nothing", here.nothing) if silent else ("wrong", here.wrong)))
    else:
        begin(turn, here, take, here.retry_silent if silent else here.retry_wrong)


def _take_kept(turn: Turn, here: Asks, take: Take[Asks]) -> None:
    first, rest = turn.state.kept[0], turn.state.kept[1:]
    turn.set(kept=rest)
    take(turn, here, first)
