"""The Junction: the first branch whose condition is true is taken. One that is not known to be true is not."""

from ...conditions.base import Told
from ...conditions.tests import holds
from ...model.steps import Junction
from ..turn import Turn


def enter(turn: Turn, here: Junction) -> None:
    told = Told(turn.ask, dict(turn.values))
    for branch in here.branches:
        if holds(branch.when, told) is True:
            turn.go(branch.id, branch.to)
            return
    turn.go("otherwise", here.otherwise)
