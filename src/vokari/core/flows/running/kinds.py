"""How each kind of step runs: one module a kind, all of them in one table."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from ..model import steps as model
from ..model.steps import AnyStep
from .events import Event, Gone
from .reads import Reads
from .state import Phase, State
from .steps import (
    announcement,
    hang_up,
    hold_line,
    junction,
    keypad_entry,
    look_up,
    menu,
    passing,
    ring,
    voicemail,
)
from .turn import Turn


def _hangs_up(turn: Turn, here: Any, event: Gone) -> bool:
    return False


def _in_an_announcement(here: Any, phase: Phase) -> str:
    return "announcement"


def _none(here: Any, state: State, reads: Reads) -> list[Event]:
    return []


def _ignored(turn: Turn, here: Any, event: Event) -> None:
    return None


@dataclass(frozen=True, slots=True)
class Running:
    """A kind of step as it runs. `enter` begins it; `take` folds an event into it, and changes nothing for one that does not
    belong to the phase; `inputs` gives the events that make a difference in it, by class; `caller_gone` says whether the call
    goes on without the caller; `left_in` names, for the reason of a lost call, where somebody was who hung up; `asks` whether it may
    ask a question."""

    enter: Callable[[Turn, Any], None]
    take: Callable[[Turn, Any, Event], None] = _ignored
    inputs: Callable[[Any, State, Reads], list[Event]] = _none
    caller_gone: Callable[[Turn, Any, Gone], bool] = _hangs_up
    left_in: Callable[[Any, Phase], str] = _in_an_announcement
    asks: bool = False


_KINDS: Mapping[type[AnyStep], Running] = {
    model.Announcement: Running(
        announcement.enter, announcement.take, announcement.inputs, announcement.caller_gone
    ),
    model.Menu: Running(menu.enter, menu.take, menu.inputs, left_in=menu.left_in),
    model.KeypadEntry: Running(keypad_entry.enter, keypad_entry.take, keypad_entry.inputs, left_in=menu.left_in),
    model.LookUp: Running(look_up.enter, look_up.take, look_up.inputs, look_up.caller_gone, asks=True),
    model.Junction: Running(junction.enter, asks=True),
    model.Ring: Running(ring.enter, ring.take, ring.inputs, ring.caller_gone, ring.left_in, asks=True),
    model.HoldLine: Running(
        hold_line.enter, hold_line.take, hold_line.inputs, hold_line.caller_gone, hold_line.left_in, asks=True
    ),
    model.Voicemail: Running(voicemail.enter, voicemail.take, voicemail.inputs, left_in=voicemail.left_in),
    model.Label: Running(passing.label),
    model.Notify: Running(passing.notify),
    model.BackTo: Running(passing.back_to),
    model.HangUp: Running(hang_up.enter),
    model.ContinueIn: Running(passing.continue_in),
    model.ComeBack: Running(passing.come_back),
}  # fmt: skip


def running_of(step: AnyStep) -> Running:
    """How a step runs."""
    return _KINDS[type(step)]
