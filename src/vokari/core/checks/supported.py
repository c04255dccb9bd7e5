"""What is in the format but does not run yet: not offered on screen, and refused in words when a file brings it."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..flows.model.document import FlowDocument
from ..flows.model.steps import AnyStep


@dataclass(frozen=True, slots=True)
class Unsupported:
    """What cannot be run: its place in the document ("steps.3.by"), and a sentence."""

    path: str
    sentence: str


def unsupported(document: FlowDocument) -> list[Unsupported]:
    """One for each thing of the document that this version cannot run; empty when all of it runs."""
    found = []
    for index, step in enumerate(document.steps):
        path = f"steps.{index}"
        found += [Unsupported(f"{path}.{field}", sentence) for field, sentence in _of_step(step)]
    return found


def _of_step(step: AnyStep) -> Iterator[tuple[str, str]]:
    for one in step.plays():
        if one.prompt.recording:
            yield one.field, "a file brings no recordings: name a prompt of the library, and write its words in say"
    yield from step.unsupported()
