"""Which events make a difference in a state: what the proof walks and what the rehearsal offers."""

from .events import Arrived, Event, Finished, Gone
from .flow import Flow
from .kinds import running_of
from .state import State


def inputs(flow: Flow, state: State) -> list[Event]:
    """Every event that makes a difference here, one of each class; the caller's hanging up comes last."""
    if state.ended:
        return []
    if state.phase == "new":
        return [Arrived()]
    here = flow.steps.get(state.at)
    found: list[Event] = []
    if state.phase == "parting":
        found.append(Finished(state.awaiting))
    elif here is not None:
        found += running_of(here).inputs(here, state, flow.reads)
    return found if state.gone else [*found, Gone()]
