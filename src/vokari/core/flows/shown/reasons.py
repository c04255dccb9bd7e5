"""Why a branch was taken: what a flow asked and what it was told, in words, from the log of a call."""

from collections.abc import Sequence
from itertools import chain
from typing import Any, cast, get_args

from ..conditions import tests
from ..conditions.base import Names
from ..model.condition import Condition
from ..model.document import FlowDocument
from ..model.steps import ComeBack, Junction
from ..questions.facts import (
    Fact,
    HasCalled,
    LastCallCameTo,
    LastSpokeWith,
    OfContact,
    OfTouch,
    Where,
    WhereAnswer,
    WhichShare,
    Withheld,
)
from ..questions.stored import NAMES, load

_FACTS = frozenset(NAMES[kind] for kind in get_args(Fact))
BY_WORDS = {
    "typed": "by the postal code that was typed", "contact": "by the contact’s postal code", "earlier": "by the postal code of an earlier call",
    "area_code": "by the area code, a hint",
}  # fmt: skip


def fact_words(raw: dict[str, Any], names: Names) -> str:
    """An answer about the caller, the touch or the place, as the log keeps it: “First call: no”; empty for any other."""
    if raw["ask"] not in _FACTS:
        return ""
    asked, answer = next(iter(load([raw]).items()))
    assert isinstance(asked, Fact)
    if isinstance(asked, WhichShare):
        return f"Falls to place {int(str(answer)) + 1} of 100"
    said = tests.words(_condition(asked), names)
    holds, how = answer, ""
    if isinstance(answer, tuple):
        holds, by, percent = cast(WhereAnswer, answer)
        part = f", {percent} of 100 of its postal codes" if by == "area_code" and percent != 100 else ""
        how = f", {BY_WORDS[str(by)]}{part}" if by else ""
    told = "not known" if holds is None else "yes" if holds else "no"
    if how and holds is not None and "hint" in how:
        told = f"probably {'so' if holds else 'not'}"
    return f"{said[0].upper()}{said[1:]}: {told}{how}"


def fact_as_case(asked: object, answer: object, names: Names) -> str:
    """An answer about the caller, the touch or the place as a case: “with “first call””, “without “first call””; empty for a number that is
    not withheld, as most are."""
    if isinstance(asked, WhichShare):
        return f"of place {int(str(answer)) + 1} of 100"
    if not isinstance(asked, get_args(Fact)) or (isinstance(asked, Withheld) and not answer):
        return ""
    said = tests.words(_condition(asked), names)
    holds = answer[0] if isinstance(answer, tuple) else answer
    return f"of whom it is not known: “{said}”" if holds is None else f"{'with' if holds else 'without'} “{said}”"


def _condition(asked: Fact) -> Condition:
    """A condition that asks this, for its words."""
    match asked:
        case Withheld() | WhichShare():
            return Condition(test="withheld")
        case HasCalled(at_least=1, hours=None, came_to=()):
            return Condition(test="called")
        case HasCalled():
            return Condition(test="called", at_least=asked.at_least, any_of=asked.came_to, **_reach(asked.hours))
        case LastCallCameTo():
            return Condition(test="last_call", any_of=asked.came_to, **_reach(asked.hours))
        case LastSpokeWith():
            return Condition(test="last_spoke_with", any_of=asked.people, **_reach(asked.hours))
        case OfTouch(what="number"):
            return Condition(test="number_dialled", any_of=asked.any_of)
        case OfTouch():
            return Condition.model_validate(
                {"test": asked.what, "any_of": asked.any_of, "at_least": asked.at_least, **_reach(asked.hours)}
            )
        case OfContact():
            return Condition(test=asked.what, of=asked.of or None, any_of=asked.any_of)
        case Where():
            return Condition(test=asked.what, of=asked.of or None, any_of=asked.any_of, distance_km=asked.km)


def _reach(hours: int | None) -> dict[str, Any]:
    """So many hours as the fields of a condition."""
    if hours is None:
        return {}
    return {"days": hours // 24 or None, "hours": hours % 24 or None}


def sorted_by(document: FlowDocument, before: str, way: Sequence[Sequence[str]]) -> list[str]:
    """The exits of junctions that were taken from a step on, in words: “Where they are: nearest to Yard”."""
    found = []
    came_from = chain([before], (step for _, step in way))
    for left, (by, _) in zip(came_from, way, strict=False):
        step = document.step(left)
        if isinstance(step, Junction) and (exit_ := step.exit(by)) is not None:
            found.append(f"{step.called}: {exit_.name}")
        elif isinstance(step, ComeBack):
            found.append(f"Comes back: {step.way}")
    return found
