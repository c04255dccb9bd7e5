"""The Keypad entry: digits of a length, kept under a name."""

from ...model.steps import KeypadEntry
from ..events import Digit, Event, Finished, Silence
from ..reads import Reads
from ..state import State
from ..turn import Turn
from . import keyed


def enter(turn: Turn, here: KeypadEntry) -> None:
    keyed.begin(turn, here, _key)


def take(turn: Turn, here: KeypadEntry, event: Event) -> None:
    if turn.phase not in keyed.PHASES:
        return
    if isinstance(event, Digit):
        _key(turn, here, event.key)
    elif isinstance(event, Finished) and turn.phase == "saying":
        keyed.heard(turn, here)
    elif isinstance(event, Silence) and turn.phase == "waiting":
        if turn.pending:
            _close(turn, here)
        else:
            keyed.failed(turn, here, _key, silent=True)


def inputs(here: KeypadEntry, state: State, reads: Reads) -> list[Event]:
    """The next digit of each entry that a later condition looks for, one of an entry that none does, # and *."""
    wanted = [one for one in reads.entries(here) if one.startswith(state.pending)]
    telling = {one[len(state.pending)] for one in wanted if len(one) > len(state.pending)}
    other = next((key for key in "1234567890" if key not in telling), None)
    return [*keyed.passing(state), *(Digit(key) for key in (*sorted(telling), *([other] if other else []), "#", "*"))]


def _key(turn: Turn, here: KeypadEntry, pressed: str) -> None:
    """A key: a digit of the entry, # as its end, or * which is wrong."""
    if pressed == "*":
        keyed.failed(turn, here, _key, silent=False)
    elif pressed == "#":
        _close(turn, here)
    else:
        turn.pending += pressed
        if len(turn.pending) >= here.longest:
            _close(turn, here)
        else:
            keyed.more(turn, here, _key)


def _close(turn: Turn, here: KeypadEntry) -> None:
    typed = turn.pending
    if len(typed) < here.shortest:
        keyed.failed(turn, here, _key, silent=not typed)
        return
    turn.pending = ""
    turn.keep(here.store_as, typed)
    turn.go("typed", here.typed)
