"""What a Menu and a Keypad entry share: a prompt that a key stops, keys pressed early, the wait for keys, and tries."""

from collections.abc import Callable
from typing import TypeVar

from ...model.steps import KeypadEntry, Menu
from ...model.values import Prompt
from ..commands import Listen
from ..events import Event, Finished, Silence
from ..state import State
from ..turn import Turn

PHASES = ("saying", "waiting")

Asks = TypeVar("Asks", Menu, KeypadEntry)
Take = Callable[[Turn, Asks, str], None]
"""What a step of this kind does with one key."""


def begin(turn: Turn, here: Asks, take: Take[Asks], prompt: Prompt | None = None) -> None:
    """Starts a prompt; kept keys act as if pressed when it starts, so it is then not heard."""
    turn.pending = ""
    if turn.kept:
        _take_kept(turn, here, take)
    else:
        turn.say(prompt or here.prompt, cut=True)


def heard(turn: Turn, here: Menu | KeypadEntry) -> None:
    """The prompt is over: the caller has `wait` seconds."""
    turn.phase = "waiting"
    turn.awaiting = turn.issue(Listen, here.waits)


def more(turn: Turn, here: Asks, take: Take[Asks]) -> None:
    """Another key is wanted: one that was kept, or one pressed within the inter-digit time."""
    if turn.kept:
        _take_kept(turn, here, take)
    else:
        turn.phase = "waiting"
        turn.awaiting = turn.issue(Listen, here.inter_digit)


def failed(turn: Turn, here: Asks, take: Take[Asks], *, silent: bool) -> None:
    """A try came to nothing: the retry prompt, or after the last try the exit that says of what kind it was."""
    turn.tries += 1
    turn.pending = ""
    if turn.tries >= here.tries:
        turn.go(*(("nothing", here.nothing) if silent else ("wrong", here.wrong)))
    else:
        begin(turn, here, take, here.retry_silent if silent else here.retry_wrong)


def passing(state: State) -> list[Event]:
    """What happens when no key is pressed: the prompt is heard to its end, or the wait runs out."""
    return [Finished(state.awaiting) if state.phase == "saying" else Silence(state.awaiting)]


def _take_kept(turn: Turn, here: Asks, take: Take[Asks]) -> None:
    first, turn.kept = turn.kept[0], turn.kept[1:]
    take(turn, here, first)
