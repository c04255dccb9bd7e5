"""The way that a call took through its flow, read from its log: what the map lights."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain, pairwise
from typing import Any

from ..model.document import FlowDocument
from ..model.steps import ComeBack, ContinueIn
from ..running.steps.voicemail import MESSAGE_SECONDS


@dataclass(frozen=True, slots=True)
class Way:
    """Steps met, exits taken as (step, exit), the steps where the caller got a fate, and the last step."""

    steps: frozenset[str]
    taken: frozenset[tuple[str, str]]
    fates: frozenset[str]
    last: str


def way_of(document: FlowDocument, log: Sequence[dict[str, Any]]) -> Way:
    """The way of a stored log (see `formats.call_log`) on the document that the call ran on."""
    passages = list(chain.from_iterable(entry["way"] for entry in log))
    met = {step for _, step in passages}
    taken = {(_left(document, before, by), by) for (_, before), (by, _) in pairwise(passages)}
    taken |= {(entry["step"], entry["ends"]) for entry in log if entry.get("ends")}
    fates = {entry["step"] for entry in log if any(one["type"] == "connect" for one in entry["commands"])}
    fates |= {
        before["step"]
        for before, entry in pairwise(log)
        if entry["event"]["kind"] == "recorded" and entry["event"]["voice"] >= MESSAGE_SECONDS
    }
    told = {
        one.id for one in document.steps if getattr(one, "counts_as", "nothing") != "nothing" or one.kind == "hang_up"
    }
    last = log[-1]["step"] if log else ""
    return Way(frozenset(met), frozenset(taken), frozenset(fates | (told & met)), last)


def _left(document: FlowDocument, before: str, by: str) -> str:
    """The step whose exit was taken: out of an inner flow that is the step which continued in it."""
    step = document.step(before)
    if not isinstance(step, ComeBack):
        return before
    outside = (one.id for one in document.steps if isinstance(one, ContinueIn) and one.exit(by) is not None)
    return next(outside, before)
