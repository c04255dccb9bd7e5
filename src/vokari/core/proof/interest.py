"""What later steps still ask about: the rest of what is known makes no difference, and situations that differ in it alone are one."""

from collections.abc import Hashable, Mapping
from typing import NamedTuple

from ..flows.conditions.tests import looks
from ..flows.model.condition import Condition
from ..flows.model.steps import AnyStep, HoldLine, Junction, Ring
from ..flows.questions.facts import (
    HasCalled,
    LastCallCameTo,
    LastSpokeWith,
    OfContact,
    OfTouch,
    Where,
    WhichShare,
    Withheld,
)
from ..flows.running.flow import Flow

PAST, WITHHELD = "past", "withheld"
Nothing = frozenset[str]()


class Interest(NamedTuple):
    """What a step and those after it ask: sets of hours, those whose exceptions are named, dates, weeks, steps whose phones have times of their
    own, and matters of the caller (see `matter`)."""

    hours: frozenset[str] = Nothing
    exceptions: frozenset[str] = Nothing
    ranges: frozenset[str] = Nothing
    weeks: frozenset[str] = Nothing
    duty: frozenset[str] = Nothing
    matters: frozenset[str] = Nothing

    def with_(self, other: "Interest") -> "Interest":
        return Interest(*(one | another for one, another in zip(self, other, strict=True)))

    @property
    def asks_time(self) -> bool:
        return any(self[:5])


NONE = Interest()


def matter(question: Hashable) -> str:
    """The matter of the caller that a question is about: answers to questions of one matter bear on each other."""
    match question:
        case HasCalled() | LastCallCameTo() | LastSpokeWith():
            return PAST
        case Withheld():
            return WITHHELD
        case OfTouch():
            return f"touch {question.what}"
        case OfContact():
            return f"contact {question.what}"
        case Where():
            return f"where {question.what}"
        case WhichShare():
            return f"share {question.split}"
    return ""


def _matters(leaf: Condition, step_id: str) -> set[str]:
    test = leaf.test
    if test in ("first_call", "called", "last_call", "last_spoke_with"):
        return {PAST, WITHHELD}
    if test == "withheld":
        return {PAST, WITHHELD}
    if test in ("on_list", "lead_status", "label", "contact_field"):
        return {f"contact {test}", WITHHELD}
    if test in ("area", "postal_code", "within", "nearest_location"):
        return {f"where {test}", WITHHELD}
    if test == "share":
        return {f"share {step_id}"}
    return {f"touch {'number' if test == 'number_dialled' else test}"}


def _own(step: AnyStep) -> Interest:
    if isinstance(step, Ring | HoldLine):
        return Interest(duty=frozenset([step.id]))
    if not isinstance(step, Junction):
        return NONE
    found = NONE
    for branch in step.branches:
        seen = looks(branch.when)
        leaves = list(branch.when.leaves())
        named = frozenset(leaf.of or "" for leaf in leaves if leaf.test == "exception")
        matters = {
            one
            for leaf in (*seen.facts, *(one for one in leaves if one.test == "share"))
            for one in _matters(leaf, step.id)
        }
        found = found.with_(Interest(seen.hours, named, seen.ranges, seen.weeks, Nothing, frozenset(matters)))
    return found


def interests(flow: Flow) -> Mapping[str, Interest]:
    """For each step what it and every later one ask. A rescue is later than all of its flow."""
    found = {step_id: _own(step) for step_id, step in flow.steps.items()}
    changed = True
    while changed:
        changed = False
        for step in reversed(list(flow.steps.values())):
            rescue = flow.rescue(step.id)
            later = found[step.id]
            for one in (*flow.onward(step), *([rescue] if rescue else [])):
                if one in found:
                    later = later.with_(found[one])
            if later != found[step.id]:
                found[step.id], changed = later, True
    return found
