"""A flow made ready to run, with the flows that it continues in: the steps of those stand beside its own, under ids of two parts."""

from collections.abc import Mapping
from functools import cached_property

from ...prompts.fields import RECORDING
from ...prompts.spoken import Takes
from ..model.document import FlowDocument
from ..model.spoken import library_keys
from ..model.steps import AnyStep, ComeBack, ContinueIn, KeypadEntry
from ..model.values import END, SAME, Target
from .reads import Reads

WITHIN = "/"
"""Stands between the key of an inner flow and the id of a step in it; no id of a document has it."""


class Flow:
    """A document, its steps by id, and the inner flows by the key that Continue in names them by, with their steps as `key/id`. So one
    flow that is continued in from two places counts its entries once. `takes` are what is heard of prompts of the library, by the key of
    the inner flow (empty: the flow itself); one that is not among them is read as the document has its words."""

    def __init__(
        self,
        document: FlowDocument,
        inner: Mapping[str, FlowDocument] | None = None,
        steps: Mapping[str, AnyStep] | None = None,
        takes: Mapping[str, Takes] | None = None,
    ) -> None:
        self.document = document
        self.takes = takes or {}
        self.inner = inner or {}
        self.steps: Mapping[str, AnyStep] = document.by_id if steps is None else steps
        if self.inner and steps is None:
            others = {one.id: one for key, flow in self.inner.items() for one in _within(key, flow)}
            self.steps = {**document.by_id, **others}

    def home(self, step_id: str) -> FlowDocument:
        """The flow that a step is in."""
        return self.inner.get(flow_of(step_id), self.document)

    def start(self, key: str) -> Target:
        """Where an inner flow begins; None for one that is not there."""
        flow = self.inner.get(key)
        return qualified(key, flow.start) if flow else None

    def rescue(self, step_id: str) -> Target:
        """The rescue of the flow that a step is in."""
        return qualified(flow_of(step_id), self.home(step_id).rescue)

    def onward(self, step: AnyStep) -> tuple[str, ...]:
        """Where any caller may come from a step: out of an inner flow to wherever any step that continues in it goes on."""
        if isinstance(step, ContinueIn):
            begins = self.start(step.flow)
            return (begins,) if begins else ()
        if isinstance(step, ComeBack):
            return self._after.get((flow_of(step.id), step.named), ())
        return step.successors

    @cached_property
    def continues_in(self) -> frozenset[str]:
        """The keys of the flows that it continues in itself."""
        return frozenset(step.flow for step in self.document.steps if isinstance(step, ContinueIn) and step.flow)

    @cached_property
    def prompts(self) -> frozenset[str]:
        """The keys of the prompts of the library that are played, here and in the flows that it continues in."""
        return frozenset(key for one in (self.document, *self.inner.values()) for key in library_keys(one))

    @cached_property
    def plays_back(self) -> bool:
        """Whether some words of it play what was recorded last."""
        field = f"{{{RECORDING}}}"
        return any(field in one.prompt.say for step in self.steps.values() for one in step.plays())

    @cached_property
    def typed_names(self) -> frozenset[str]:
        """The names under which what callers type is kept."""
        return frozenset(step.store_as for step in self.steps.values() if isinstance(step, KeypadEntry))

    @cached_property
    def _after(self) -> Mapping[tuple[str, str], tuple[str, ...]]:
        found: dict[tuple[str, str], tuple[str, ...]] = {}
        outside = (step for step in self.steps.values() if isinstance(step, ContinueIn))
        for flow, back in ((step.flow, back) for step in outside for back in step.returns):
            if back.to and back.to != END:
                found[flow, back.named] = (*found.get((flow, back.named), ()), back.to)
        return found

    @cached_property
    def reads(self) -> Reads:
        """What its steps tell apart, worked out when it is first asked for."""
        return Reads(self.steps, self.onward, lambda step_id: self.rescue(step_id) or self.document.rescue)


def flow_of(step_id: str) -> str:
    """The key of the inner flow that a step is in; empty for the flow itself."""
    return step_id.rpartition(WITHIN)[0]


def qualified(key: str, target: Target) -> Target:
    """A target of an inner flow as it is led to from outside."""
    return target if not key or target in (None, END, SAME) else f"{key}{WITHIN}{target}"


def _within(key: str, flow: FlowDocument) -> list[AnyStep]:
    """The steps of an inner flow under their ids of two parts."""
    found = []
    for step in flow.steps:
        led = step
        for way in step.exits:
            if way.target not in (None, END, SAME):
                led = led.with_target(way.id, qualified(key, way.target))
        found.append(led.model_copy(update={"id": qualified(key, step.id)}))
    return found
