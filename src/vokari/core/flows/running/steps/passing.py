"""The kinds that a call only passes: Label, Notify, Back to, Continue in and Come back."""

from ...model.steps import BackTo, ComeBack, ContinueIn, Label, Notify
from ..turn import Turn


def label(turn: Turn, here: Label) -> None:
    """Puts its words on the call, each once, and the lead status in the place of an earlier one."""
    turn.labels += tuple(one for one in here.labels if one not in turn.labels)
    turn.lead_status = here.lead_status or turn.lead_status
    turn.go("next", here.next)


def notify(turn: Turn, here: Notify) -> None:
    """Whoever keeps the log tells people once it stands there."""
    turn.go("next", here.next)


def back_to(turn: Turn, here: BackTo) -> None:
    """Goes back; that the step is entered again counts against its limit."""
    turn.go("to", here.to)


def continue_in(turn: Turn, here: ContinueIn) -> None:
    """Begins the inner flow, and notes where it comes back to. One that is not there is an exit that leads nowhere."""
    begins = turn.flow.start(here.flow)
    if begins is not None:
        turn.stack += (here.id,)
    turn.go("within", begins)


def come_back(turn: Turn, here: ComeBack) -> None:
    """Takes the exit of its name outside. One that nobody names there, or with nothing around the flow, leads nowhere."""
    if not turn.stack:
        turn.go("back", None)
        return
    turn.at, turn.stack = turn.stack[-1], turn.stack[:-1]
    outside = turn.flow.steps.get(turn.at)
    back = outside.back(here.named) if isinstance(outside, ContinueIn) else None
    turn.go(*((back.id, back.to) if back else ("back", None)))
