"""The pace of the lines that a carrier stand-in plays, as the simulator keeps it."""

from ...core.traffic.pacing import Behavior, cut_short, dialing, outcomes, recorded

__all__ = ["Behavior", "cut_short", "dialing", "outcomes", "recorded"]
