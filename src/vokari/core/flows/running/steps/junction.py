"""The Junction: the first branch whose condition is true is taken. One that is not known to be true is not."""

from ...conditions.base import Told
from ...conditions.tests import taken
from ...model.steps import Junction
from ..turn import Turn


def enter(turn: Turn, here: Junction) -> None:
    branch = taken(here, Told(turn.ask, dict(turn.values), turn.spoken_in()))
    turn.go(*((branch.id, branch.to) if branch else ("otherwise", here.otherwise)))
