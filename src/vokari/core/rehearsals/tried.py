"""Which ways of a flow rehearsals have taken, and which not yet."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..flows.model.document import FlowDocument
from ..flows.model.values import END, SAME
from ..flows.model.walks import reached
from ..flows.shown.way import way_of

Exit = tuple[str, str]
"""A step and one of its exits."""


@dataclass(frozen=True, slots=True)
class Tried:
    """The exits of a flow that lead to a step or to an end: those that were taken, and those that were not, in the order of the flow.
    `ends` are the steps at which a call can end by one that was not."""

    taken: frozenset[Exit]
    untried: tuple[Exit, ...]
    ends: frozenset[str] = frozenset()

    @property
    def all(self) -> int:
        """How many there are."""
        return len(self.taken) + len(self.untried)


def tried(document: FlowDocument, logs: Iterable[Sequence[Mapping[str, Any]]], also: Iterable[Exit] = ()) -> Tried:
    """What some logs of calls took of a document as it is shown, and `also` others."""
    found = set(also)
    for log in logs:
        found |= way_of(document, [dict(one) for one in log]).taken
    known = reached(document)
    every = {
        (step.id, way.id): way.target == END
        for step in document.steps
        if step.id in known
        for way in step.exits
        if way.target not in (None, SAME)
    }
    untried = tuple(one for one in every if one not in found)
    return Tried(
        frozenset(one for one in every if one in found),
        untried,
        frozenset(step for step, by in untried if every[step, by]),
    )
