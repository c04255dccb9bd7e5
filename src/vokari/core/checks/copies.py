"""Parts of a flow that were built more than once: changed in one place only, they drift apart."""

import json
from collections import defaultdict
from collections.abc import Collection, Iterator
from typing import Any

from ..flows.drafting.edits import Connect, Edit, RemoveStep
from ..flows.model.document import FlowDocument
from ..flows.model.steps import AnyStep, HoldLine, Junction, KeypadEntry, Menu, Ring, Voicemail
from ..flows.model.walks import reached, reached_from
from ..flows.shown.outline import numbers
from .finding import Finding

SINGLE = 3
"""So many times one step alone may not stand; a part of several steps may not stand twice."""
_ALONE = (HoldLine, Junction, KeypadEntry, Menu, Ring, Voicemail)
_OWN = frozenset({"id", "name", "note", "to_do"})


def findings(document: FlowDocument) -> Iterator[Finding]:
    """One for each part that stands more than once, at the first of them."""
    rows = numbers(document)
    for group, size in copies(document):
        *first, last = [str(rows[one.id]) for one in group]
        words = (
            f"{group[0].begins}{f' and what follows it, {size} steps,' if size > 1 else ''} is built {len(group)} times alike, at rows"
            f" {', '.join(first)} and {last}: changed at one of them only, they drift apart."
        )
        yield Finding(
            "built_again", words, group[0].id, weight="advises", mends=("join",) if _kept(document, group) else ()
        )


def copies(document: FlowDocument) -> list[tuple[list[AnyStep], int]]:
    """The first steps of parts that do the same for every caller, whatever they are called, those together that are alike, each with the count of its
    steps that stand again elsewhere; the largest first. Found by splitting steps into classes until no class holds two that lead elsewhere (partition
    refinement; J. Hopcroft, An n log n algorithm for minimizing states in a finite automaton, 1971; here the plain form)."""
    led_to = reached(document)
    steps = [one for one in document.steps if one.id in led_to]
    classes = _classes(steps)
    groups: dict[int, list[AnyStep]] = defaultdict(list)
    for one in steps:
        groups[classes[one.id]].append(one)
    again = {one.id: one for group in groups.values() if len(group) > 1 for one in group}
    sized = [(group, len(reached_from(again, [group[0].id]))) for group in groups.values() if len(group) > 1]
    found: list[tuple[list[AnyStep], int]] = []
    told: set[str] = set()
    for group, size in sorted(sized, key=lambda one: -one[1]):
        if told.issuperset(one.id for one in group):
            continue
        if size > 1 or (len(group) >= SINGLE and isinstance(group[0], _ALONE)):
            told |= reached_from(again, [one.id for one in group])
            found.append((group, size))
    return found


def joining(document: FlowDocument, step: AnyStep) -> tuple[Edit, ...]:
    """Edits that lead to one of the parts alike what leads to any, and remove the others; none where something else names a step of those."""
    group = next((group for group, _ in copies(document) if step in group), [])
    kept = _kept(document, group)
    if kept is None:
        return ()
    others = {one.id for one in group if one is not kept}
    left = _left(document, others, kept.id)
    led: list[Edit] = [
        Connect(step=one.id, exit=way.id, to=kept.id)
        for one in document.steps
        for way in one.exits
        if way.target in others and one.id not in left
    ]
    return (*led, *(RemoveStep(id=one.id) for one in document.steps if one.id in left))


def _kept(document: FlowDocument, group: list[AnyStep]) -> AnyStep | None:
    """Which of some parts alike stays when they are made one: the one that the flow itself names, else the first. None where two are named, where a kept
    rehearsal names a step that would go, or where the rescue would come to lie on a way round."""
    own = (document.start, document.rescue, document.everyone_else)
    named = [one for one in group if one.id in own]
    if not group or len(named) > 1:
        return None
    kept = (named or group)[0]
    others = {one.id for one in group if one is not kept}
    left = _left(document, others, kept.id)
    said = json.dumps([one.model_dump(mode="json") for one in document.rehearsals])
    if left.intersection(own) or any(f'"{one}"' in said for one in left):
        return None
    rescue = document.by_id.get(document.rescue or "")
    if rescue is not None and rescue.id not in reached_from(document.by_id, rescue.successors):
        after = reached_from(document.by_id, _led(rescue, others, kept.id), lambda one: _led(one, others, kept.id))
        return None if rescue.id in after else kept
    return kept


def _left(document: FlowDocument, others: Collection[str], kept: str) -> set[str]:
    """The steps that no way leads to any more once what leads to others leads to the one that is kept."""
    starts = [kept if one in others else one for one in (document.start, document.rescue) if one]
    return reached(document) - reached_from(document.by_id, starts, lambda one: _led(one, others, kept))


def _led(step: AnyStep, others: Collection[str], kept: str) -> list[str]:
    return [kept if one in others else one for one in step.successors]


def _classes(steps: list[AnyStep]) -> dict[str, int]:
    """A number for each step, the same for those that do the same and lead to such that do."""
    targets = {one.id: [way.target or "" for way in one.exits] for one in steps}
    classes = _numbered({one.id: _content(one) for one in steps})
    count = 0
    while count != (count := len(set(classes.values()))):
        classes = _numbered({id_: (classes[id_], *(classes.get(to, to) for to in led)) for id_, led in targets.items()})
    return classes


def _numbered(of: dict[str, Any]) -> dict[str, int]:
    numbers: dict[Any, int] = {}
    return {id_: numbers.setdefault(one, len(numbers)) for id_, one in of.items()}


def _content(step: AnyStep) -> str:
    """What a step does by itself, wherever it leads."""
    ways = {way.id for way in step.exits}
    raw = step.model_dump(exclude={*_OWN, *ways})
    return repr(_bare(raw, ways))


def _bare(raw: Any, ways: Collection[str]) -> Any:
    """Without ids, and for branches without where they lead."""
    if isinstance(raw, dict):
        led = ("id", "to") if raw.get("id") in ways else ("id",)
        return {name: _bare(one, ways) for name, one in raw.items() if name not in led}
    return [_bare(one, ways) for one in raw] if isinstance(raw, list | tuple) else raw
