"""What is wrong with the conditions of a junction: values that nothing keeps, shares above the whole, places that are gone, and what is not
known of live calls yet."""

from collections.abc import Collection, Iterator

from ..flows.conditions.tests import TESTS, splits
from ..flows.model.condition import Condition
from ..flows.model.document import FlowDocument
from ..flows.model.steps import Junction, KeypadEntry, LookUp, Menu
from ..flows.model.steps.junction import Sorting
from ..flows.model.steps.keypad_entry import spoken_name
from ..flows.model.values import EXTENSION, POSTAL_CODE
from .finding import Finding, Surroundings


def findings(document: FlowDocument, around: Surroundings) -> Iterator[Finding]:
    """All findings about conditions that are not about hours."""
    kept = {step.store_as for step in document.steps if isinstance(step, KeypadEntry | LookUp)}
    kept |= {EXTENSION for step in document.steps if isinstance(step, Menu) and step.dial_extensions}
    for step in document.steps:
        if not isinstance(step, Junction):
            continue
        for branch in step.branches:
            for leaf in branch.when.leaves():
                yield from _of_leaf(step, branch, leaf, kept, around)
        whole = splits(step).whole
        if whole > 100:
            words = f"The shares of {step.quoted} come to {whole} %: nobody is left for the last of them. Take them down to 100 %."
            yield Finding("shares", words, step.id)


def _of_leaf(
    step: Junction, branch: Sorting, leaf: Condition, kept: Collection[str], around: Surroundings
) -> Iterator[Finding]:
    unknown = TESTS[leaf.test].unknown
    if unknown:
        words = (
            f"{step.begins} sorts by something that is not known of live calls yet ({unknown}): nobody takes that exit."
        )
        yield Finding("not_known", words, step.id, branch.id, "asks")
    if leaf.test == "value" and leaf.of not in kept:
        words = f"{step.begins} looks at the {spoken_name(leaf.of or 'value')}, and nothing in this flow keeps it: ask for it first."
        yield Finding("nothing_kept", words, step.id, branch.id)
    if leaf.test == "value" and leaf.of in kept and not leaf.any_of:
        yield Finding("nothing_kept", f"{step.begins} compares a value with nothing.", step.id, branch.id)
    if leaf.test == "postal_code" and POSTAL_CODE not in kept:
        words = f"{step.begins} looks at postal codes, and nothing in this flow asks for one: only codes of earlier calls are known."
        yield Finding("no_code_typed", words, step.id, branch.id, "asks")
    if leaf.test == "nearest_location" and leaf.of == "people":
        known = around.where.territories()
        for name in (around.people[key].name for key in leaf.any_of if key in around.people and key not in known):
            words = f"{step.begins} asks how near {name} is, who looks after no area whose place is known: say so under Places."
            yield Finding("no_territory", words, step.id, branch.id, "asks")
    for kind, key in leaf.names():
        yield from _gone(step, branch, kind, key, around)


def _gone(step: Junction, branch: Sorting, kind: str, key: str, around: Surroundings) -> Iterator[Finding]:
    places = around.where.places
    match kind:
        case "place":
            if places.place(key) is None:
                yield Finding(
                    "no_place", f"{step.begins} asks for a place that is gone: choose another.", step.id, branch.id
                )
            elif around.where.point_of(key) is None:
                words = f"{step.begins} asks how far {places.place(key).name} is, and where it lies is not known."  # type: ignore[union-attr]
                yield Finding("no_place", words, step.id, branch.id)
        case "area":
            area = places.area(key)
            if area is None:
                yield Finding(
                    "no_place", f"{step.begins} asks for an area that is gone: choose another.", step.id, branch.id
                )
            elif area.is_empty:
                yield Finding(
                    "no_place", f"{step.begins} asks for {area.name}, in which nowhere lies.", step.id, branch.id
                )
        case "person":
            if key not in around.people:
                yield Finding(
                    "no_person", f"{step.begins} asks for somebody who is gone: choose another.", step.id, branch.id
                )
        case "source":
            if key not in around.sources:
                words = f"{step.begins} asks for a lead source that this client does not have."
                yield Finding("unknown_source", words, step.id, branch.id)
