"""The Announcement: a prompt is played its times; a key cuts it, unless it is a notice, and is kept for the next step that asks."""

from ...model.steps import Announcement
from ..events import Digit, Event, Finished, Gone
from ..reads import Reads
from ..state import State
from ..turn import Turn

KEPT_KEYS = 20


def enter(turn: Turn, here: Announcement) -> None:
    if here.counts_as == "turned_away":
        turn.said = "turned_away"
    _play(turn, here)


def take(turn: Turn, here: Announcement, event: Event) -> None:
    if turn.phase != "saying":
        return
    if isinstance(event, Finished):
        _heard(turn, here)
    elif isinstance(event, Digit):
        turn.kept = (turn.kept + event.key)[:KEPT_KEYS]
        if not here.notice:
            if here.counts_as == "served" and event.heard_half:
                turn.said = "served"
            turn.go("next", here.next)


def caller_gone(turn: Turn, here: Announcement, event: Gone) -> bool:
    """Half of an answer in itself is an answer."""
    if here.counts_as == "served" and event.heard_half:
        turn.said = "served"
    return False


def inputs(here: Announcement, state: State, reads: Reads) -> list[Event]:
    halves = (False, True) if here.counts_as == "served" else (False,)
    keys = reads.keys_to_keep(here, state.kept)
    if here.notice:
        halves = (False,)
    elif not keys:
        keys = ["1"]
    pressed = [Digit(key, half) for key in keys for half in halves]
    half_heard = [Gone(True)] if here.counts_as == "served" else []
    return [Finished(state.awaiting), *pressed, *half_heard]


def _play(turn: Turn, here: Announcement) -> None:
    turn.say(here.prompt, cut=not here.notice)


def _heard(turn: Turn, here: Announcement) -> None:
    if here.notice:
        turn.noticed = True
    if here.counts_as == "served":
        turn.said = "served"
    turn.played += 1
    if turn.played < here.times:
        _play(turn, here)
    else:
        turn.go("next", here.next)
