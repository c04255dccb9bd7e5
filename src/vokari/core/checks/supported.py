"""What is in the format but does not run yet: not offered on screen, and refused in words when a file brings it."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..flows.conditions.tests import TESTS
from ..flows.model.document import FlowDocument
from ..flows.model.steps import AnyStep, Junction


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
        if not step.runs:
            found.append(Unsupported(path, f"the step kind {step.title} cannot be run yet"))
        else:
            found += [Unsupported(f"{path}.{field}", sentence) for field, sentence in _of_step(step)]
    return found


def _of_step(step: AnyStep) -> Iterator[tuple[str, str]]:
    for one in step.plays():
        if one.prompt.prompt or one.prompt.recording or one.prompt.voice:
            words = "prompts of the library, recordings and chosen voices cannot be played yet; write the words in say"
            yield one.field, words
    yield from step.unsupported()
    for index, branch in enumerate(step.branches) if isinstance(step, Junction) else ():
        for leaf in branch.when.leaves():
            if not TESTS[leaf.test].runs:
                words = f"the condition {leaf.test.replace('_', ' ')} cannot be run yet"
                yield f"branches.{index}.when", words
