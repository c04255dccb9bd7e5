"""Kinds that do not run yet: a call that comes to one goes to its rescue, as from an exit that leads nowhere."""

from ..turn import Turn


def enter(turn: Turn, here: object) -> None:
    turn.go("rescue", None)
