"""The Hang up: its words, then the call is over."""

from ...model.steps import HangUp
from ...model.values import END
from ..turn import Turn


def enter(turn: Turn, here: HangUp) -> None:
    if here.refusal:
        turn.said = "turned_away"
    if here.prompt.is_empty():
        turn.go("end", END)
    else:
        turn.say(here.prompt, cut=False, phase="parting")
