"""The Look-up step: a client's own system is asked, and its answer kept under a name.

The asking takes time, so the application does it beside the call and pokes it; when the time is up first, the look-up has
failed. Once the caller has gone the carrier sends no more events and keeps no time: the application's own events go on with
the call.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from ...model.steps import LookUp
from ..commands import Timer
from ..questions import LookedUp, LookedUpAnswer

if TYPE_CHECKING:
    from ..engine import Turn


def begin(turn: Turn, here: LookUp) -> None:
    """Asks, and waits for the answer where it does not come at once."""
    answer = _ask(turn, here)
    if answer[0] == "pending":
        waits_for = turn.next_id() if turn.state.gone else turn.issue(Timer, here.patience)
        turn.set(phase="looking", awaiting=waits_for)
    else:
        _take(turn, here, answer)


def poked(turn: Turn, here: LookUp) -> None:
    """The application may have the answer now."""
    answer = _ask(turn, here)
    if answer[0] != "pending":
        _take(turn, here, answer)


def time_is_up(turn: Turn, here: LookUp) -> None:
    """No answer came in time."""
    _take(turn, here, ("failed", ""))


def _ask(turn: Turn, here: LookUp) -> LookedUpAnswer:
    return cast(LookedUpAnswer, turn.ask(LookedUp(here.id, turn.state.steps)))


def _take(turn: Turn, here: LookUp, answer: LookedUpAnswer) -> None:
    what, value = answer
    if what == "found":
        others = tuple(pair for pair in turn.state.values if pair[0] != here.store_as)
        turn.set(values=(*others, (here.store_as, value)))
        turn.go("found", here.found)
    elif what == "not_found":
        turn.go("not_found", here.not_found)
    else:
        turn.go("failed", here.failed)
