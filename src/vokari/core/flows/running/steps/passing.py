"""The kinds that a call only passes: Label, Notify, and Back to."""

from ...model.steps import BackTo, Label, Notify
from ..turn import Turn


def label(turn: Turn, here: Label) -> None:
    """Puts its words on the call, each once."""
    turn.labels += tuple(one for one in here.labels if one not in turn.labels)
    turn.go("next", here.next)


def notify(turn: Turn, here: Notify) -> None:
    """Whoever keeps the log tells people once it stands there."""
    turn.go("next", here.next)


def back_to(turn: Turn, here: BackTo) -> None:
    """Goes back; that the step is entered again counts against its limit."""
    turn.go("to", here.to)
