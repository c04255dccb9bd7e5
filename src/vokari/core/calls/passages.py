"""How many callers passed each step and exit of a flow, and where they gave up, from the log of a call."""

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

from ..flows.running.flow import flow_of


class Place(NamedTuple):
    """A step of a version, or one of its exits (empty: the step as a whole)."""

    version: int
    step: str
    exit: str = ""


def passages(
    entries: Sequence[Mapping[str, Any]], version: int, pins: Mapping[str, int], *, lost: bool
) -> tuple[Counter[Place], Counter[Place]]:
    """How often a call passed each place, and the step at which it gave up where it was `lost` because the caller hung up. What
    happened in an inner flow is told of the version that was pinned."""
    way = [(str(by), str(step)) for entry in entries for by, step in entry.get("way", ())]
    passed = Counter(_place(version, pins, step) for _, step in way)
    inside: list[str] = []
    for (_, before), (by, after) in pairwise(way):
        if by == "within":
            inside.append(before)
        left = (
            inside.pop()
            if flow_of(before) and flow_of(after) != flow_of(before) and inside and by != "within"
            else before
        )
        passed[_place(version, pins, left, by)] += 1
    last = entries[-1] if entries else {}
    gave_up: Counter[Place] = Counter()
    if lost and last.get("event", {}).get("kind") == "gone":
        at = str(entries[-2]["step"]) if len(entries) > 1 else str(last.get("step", ""))
        if at:
            gave_up[_place(version, pins, at)] += 1
    return passed, gave_up


def _place(version: int, pins: Mapping[str, int], step: str, exit_: str = "") -> Place:
    key = flow_of(step)
    return Place(pins.get(key, version), step.rpartition("/")[2], exit_) if key else Place(version, step, exit_)
