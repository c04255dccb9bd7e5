"""What the proof finds: callers whom the flow loses, steps that nobody comes to, parts that are built again."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..flows.model.document import FlowDocument
from ..flows.model.walks import reached
from ..proof import told, when
from ..proof.claims import Claims, End
from ..proof.examples import Example
from . import copies
from .finding import Finding
from .mends import mending

_MENDS = ("rescue", "rescue_instead")
MOST_STEPS = 8
"""How much of an example is said in a sentence."""


@dataclass(frozen=True, slots=True)
class Proven:
    """A finding of the proof, with the call that shows it, if one does."""

    finding: Finding
    example: Example | None = None


def findings(document: FlowDocument, claims: Claims) -> Iterator[Proven]:
    """All findings of a proof, the worst first."""
    for end in claims.losses:
        yield Proven(_loss(document, claims, end), end.example)
    if not claims.proven:
        words = f"Not all of this flow was proven: {'; '.join(claims.walk.unwalked)}. What lies beyond is not known."
        yield Proven(Finding("not_walked", words, weight="asks"))
    led_to = reached(document)
    never = [document.by_id[one] for one in claims.unreached if one in led_to]
    if never and claims.proven:
        names = [one.quoted for one in never]
        some = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
        yield Proven(
            Finding("never_reached", f"No call of the coming 13 months comes to {some}.", never[0].id, weight="advises")
        )
    yield from map(Proven, copies.findings(document))


def _loss(document: FlowDocument, claims: Claims, end: End) -> Finding:
    times = claims.walk.world.times
    step = claims.walk.flow.steps.get(end.at)
    where = f"at {step.quoted}" if step else "in this flow"
    often = claims.when(end)
    happens = told.steps_of(end.example)
    shown = ", ".join(happens[:MOST_STEPS]) + (" …" if len(happens) > MOST_STEPS else "")
    example = (
        f"For instance {when.moment(end.example.at, times.zone)}: {f'{shown}; then ' if shown else ''}the call ends."
    )
    at = end.at if end.at in document.by_id else ""
    own = document.by_id.get(at)
    # Whoever was served or turned away at this step must not be led on with those who are lost.
    helped = any(one.at == end.at and one.came.fate in ("served", "turned_away") for one in claims.ends)
    mends = tuple(one for one in _MENDS if own and not helped and mending(document, own, one))
    return Finding("loses_callers", f"Callers are lost {where}, {often}. {example}", at, mends=mends)
