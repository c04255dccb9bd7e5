"""What a walk sees of each step: as long as it stays the same, so does all that was found of calls that come to no other."""

import hashlib
import json
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..flows.model.document import FlowDocument
from ..flows.model.steps import AnyStep, ContinueIn, KeypadEntry, Menu
from ..flows.running.flow import Flow
from .bearing import bears_on
from .interest import Interest
from .noted import KEYS
from .world import World

NEW = ""
"""Stands for where a call is that has just come."""
UNMET = {"name", "note", "to_do"}
"""What of a step no caller meets."""
WORDS = {"prompt", "retry_silent", "retry_wrong"}
"""What of a step that asks for keys is only heard."""


@dataclass(frozen=True, slots=True)
class View:
    """What a walk sees: of each step by its id, of the start (`NEW`) and of what becomes of keys (`KEYS`), as digests; what everything may depend
    on (what documents say beside their steps, and the cells of time), as one; and what of the client bears on the flow."""

    steps: dict[str, str]
    whole: str
    bearing: dict[str, Any]

    def changed(self, since: "View") -> set[str] | None:
        """The steps that looked otherwise before; None where what everything depends on did."""
        if self.whole != since.whole or not _same(since.bearing, self.bearing):
            return None
        return {one for one in {*self.steps, *since.steps} if self.steps.get(one) != since.steps.get(one)}


def view(flow: Flow, world: World) -> View:
    """What a walk of a flow in a world sees."""
    return View(_steps(flow, world), _whole(flow, world), bears_on(flow, world.client))


def _steps(flow: Flow, world: World) -> dict[str, str]:
    """Of each step what it is, and what it and later ones ask and look for."""
    apart = {
        one: _places(world.duties(one)) for one in frozenset().union(*(each.duty for each in world.interests.values()))
    }
    asked: dict[Interest, list[object]] = {}
    found = {NEW: digest([flow.document.start]), KEYS: digest([_of_keys(flow, step) for step in flow.steps.values()])}
    for step_id, step in flow.steps.items():
        interest = world.interest(step_id)
        if interest not in asked:
            asked[interest] = _asked(interest, apart)
        begins = flow.start(step.flow) if isinstance(step, ContinueIn) else None
        met = step.model_dump(mode="json", exclude=UNMET)
        found[step_id] = digest([met, asked[interest], sorted(flow.reads.values_from(step_id)), begins])
    return found


def _whole(flow: Flow, world: World) -> str:
    documents = [_beside(one) for one in (flow.document, *(one for _, one in sorted(flow.inner.items())))]
    takes = sorted((key, repr(one)) for key, one in flow.takes.items())
    return digest(
        [documents, sorted(flow.inner), takes, sorted(flow.typed_names), flow.plays_back, world.times.structure]
    )


def digest(what: object) -> str:
    """JSON-ready values in short."""
    return hashlib.sha256(json.dumps(what, sort_keys=True).encode()).hexdigest()[:24]


def _beside(document: FlowDocument) -> object:
    unmet = {"name", "mark", "start", "everyone_else", "steps", "unread", "rehearsals"}
    return document.model_dump(mode="json", exclude=unmet)


def _asked(interest: Interest, apart: Mapping[str, Sequence[int]]) -> list[object]:
    """What is asked from a step on. Of the steps that ring phones it only matters which cells of time they tell apart."""
    duties = {tuple(places) for one in interest.duty if any(places := apart[one])}
    return [*(sorted(one) for one in interest._replace(duty=frozenset())), sorted(duties)]


def _places(labels: Sequence[Hashable]) -> tuple[int, ...]:
    """Labels as numbers, in the order in which they come first."""
    known: dict[Hashable, int] = {}
    return tuple(known.setdefault(one, len(known)) for one in labels)


def _of_keys(flow: Flow, step: AnyStep) -> object:
    """What a step makes of keys that were pressed early, or where they go on to."""
    if isinstance(step, Menu | KeypadEntry):
        return step.model_dump(mode="json", exclude=UNMET | WORDS), sorted(flow.reads.values_from(step.id))
    return step.id, step.kind, flow.onward(step), flow.rescue(step.id)


def _same(before: dict[str, Any], after: dict[str, Any]) -> bool:
    """Whether what bears on a flow before and after an edit is the same: what only one of them comes to may be anything."""
    for name, known in before.items():
        now = after[name]
        if isinstance(known, dict):
            if any(now.get(key, value) != value for key, value in known.items()):
                return False
        elif now != known:
            return False
    return True
