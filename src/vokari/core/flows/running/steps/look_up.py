"""The Look-up: a client's own system is asked, and its answer kept under a name.

The asking takes time, so the application does it beside the call and pokes it; when the time is up first, the look-up has
failed. Once the caller has gone the carrier sends no more events and keeps no time: the application's own events go on with
the call.
"""

from typing import cast

from ...model.steps import LookUp
from ...questions.kinds import LookedUp, LookedUpAnswer
from ..commands import Timer
from ..events import Event, Gone, Poked, TimerFired
from ..reads import Reads
from ..state import State
from ..turn import Turn


def enter(turn: Turn, here: LookUp) -> None:
    """Asks, and waits for the answer where it does not come at once."""
    answer = _ask(turn, here)
    if answer[0] == "pending":
        turn.phase = "looking"
        turn.awaiting = turn.next_id() if turn.gone else turn.issue(Timer, here.patience)
    else:
        _answered(turn, here, answer)


def take(turn: Turn, here: LookUp, event: Event) -> None:
    if turn.phase != "looking":
        return
    if isinstance(event, Poked):
        answer = _ask(turn, here)
        if answer[0] != "pending":
            _answered(turn, here, answer)
    elif isinstance(event, TimerFired) and event.command == turn.awaiting:
        _answered(turn, here, ("failed", ""))


def caller_gone(turn: Turn, here: LookUp, event: Gone) -> bool:
    """After an answered call or a message the answer is waited for."""
    return turn.phase == "looking" and (turn.answered or turn.message)


def inputs(here: LookUp, state: State, reads: Reads) -> list[Event]:
    return [Poked(), TimerFired(state.awaiting)]


def _ask(turn: Turn, here: LookUp) -> LookedUpAnswer:
    return cast(LookedUpAnswer, turn.ask(LookedUp(here.id, turn.steps)))


def _answered(turn: Turn, here: LookUp, answer: LookedUpAnswer) -> None:
    what, value = answer
    if what == "found":
        turn.keep(here.store_as, value)
        turn.go("found", here.found)
    elif what == "not_found":
        turn.go("not_found", here.not_found)
    else:
        turn.go("failed", here.failed)
