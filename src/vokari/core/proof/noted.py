"""A flow of which it is noted what of it is looked at, so that it is known later what a result came of."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from copy import copy

from ..flows.model.steps import Announcement, AnyStep
from ..flows.running.flow import Flow
from ..flows.running.reads import Reads

KEYS = "*"
"""Stands, beside the ids of steps, for what becomes of keys that are kept; no id of a step is like it."""


class NotedSteps(dict[str, AnyStep]):
    """Steps by id; `looked_at` are the ids that were asked for, there or not."""

    def __init__(self, steps: Mapping[str, AnyStep]) -> None:
        super().__init__(steps)
        self.looked_at: set[str] = set()

    @contextmanager
    def noting(self) -> Iterator[set[str]]:
        """The ids that are asked for meanwhile; they count as asked for around it too."""
        around, inside = self.looked_at, set[str]()
        self.looked_at = inside
        try:
            yield inside
        finally:
            around |= inside
            self.looked_at = around

    def __getitem__(self, key: str) -> AnyStep:
        self.looked_at.add(key)
        return super().__getitem__(key)

    def get(self, key: str, default: AnyStep | None = None) -> AnyStep | None:  # type: ignore[override]
        self.looked_at.add(key)
        return super().get(key, default)


class _NotedReads(Reads):
    """What is told apart, noted where it is asked of keys."""

    def __init__(self, reads: Reads, note: Callable[[str], None]) -> None:
        super().__init__(reads.steps, reads.onward, reads.rescue)
        self._note = note

    def kept(self, step_id: str, kept: str) -> str:
        if kept:
            self._note(KEYS)
        return super().kept(step_id, kept)

    def keys_to_keep(self, here: Announcement, kept: str) -> list[str]:
        self._note(KEYS)
        return super().keys_to_keep(here, kept)


def noted(flow: Flow) -> tuple[Flow, NotedSteps]:
    """The same flow with its steps noted, and these. What is worked out once of all steps notes none of them."""
    steps = NotedSteps(flow.steps)
    _ = flow.typed_names, flow.plays_back
    found = copy(flow)
    found.steps, found.reads = steps, _NotedReads(flow.reads, lambda one: steps.looked_at.add(one))
    return found, steps
