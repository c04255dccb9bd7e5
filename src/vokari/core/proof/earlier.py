"""What of an earlier walk stands after an edit, so that only what the edit bears on is walked again.

What was found in a situation came of the steps that were looked at there. It stands where none of these looks otherwise now (see `view`).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from ..flows.questions.knowledge import NOTHING, Cells
from ..flows.running.events import Event
from ..flows.running.flow import Flow
from .situations import Edge, Situation
from .view import View, view
from .world import World

LookedAt = frozenset[str]
Found = tuple[list[Edge], LookedAt]
"""The edges that were found, and the steps of which they came."""
Limit = tuple[int, Event, str]
"""A situation, an event, and the step that a call has entered too often by it."""


@dataclass(frozen=True, slots=True)
class Earlier:
    """A walk that reached all of a flow, `since` when: the situations without their world, what was found in each but limits, and these."""

    since: datetime
    view: View
    situations: list[Situation]
    found: list[Found]
    limits: dict[Limit, Found]


class Standing:
    """What of an earlier walk stands in a world, of which a walk sees this `view` now: all that came of no step that `changed`."""

    def __init__(self, earlier: Earlier, world: World, view: View, changed: set[str]) -> None:
        self.earlier, self.view, self._changed = earlier, view, changed
        self.situations = _within(earlier.situations, world.times.cells, world.numbers)
        self._places = {one: place for place, one in enumerate(self.situations)}

    def found(self, situation: Situation) -> Found | None:
        """What was found in a situation, limits left out; None where that does not stand."""
        place = self._places.get(situation)
        return None if place is None else self._stands(self.earlier.found[place])

    def limit(self, situation: Situation, event: Event, step: str) -> Found | None:
        """The same of a limit."""
        place = self._places.get(situation)
        known = None if place is None else self.earlier.limits.get((place, event, step))
        return None if known is None else self._stands(known)

    def _stands(self, found: Found) -> Found | None:
        return found if self._changed.isdisjoint(found[1]) else None


def standing(earlier: Earlier, flow: Flow, world: World) -> Standing | None:
    """What of an earlier walk stands for a flow in a world of the same time; None where nothing does."""
    now = view(flow, world)
    changed = now.changed(earlier.view)
    return None if changed is None else Standing(earlier, world, now, changed)


def left(
    world: World, view: View, situations: Sequence[Situation], found: list[Found], limits: dict[Limit, Found]
) -> Earlier:
    """What a walk leaves for a later one."""
    bare = _within(situations, NOTHING.moments, NOTHING.numbers)
    return Earlier(world.times.since, view, bare, found, limits)


def _within(situations: Sequence[Situation], moments: Cells, numbers: Cells) -> list[Situation]:
    """The same situations, with what is known as places of other cells."""
    return [one._replace(known=one.known._replace(moments=moments, numbers=numbers)) for one in situations]
