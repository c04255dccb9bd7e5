"""The prompts of a flow: which of the library it plays, and their words as they are now."""

from collections.abc import Collection, Iterator, Mapping

from .document import FlowDocument
from .exits import Played
from .steps import AnyStep
from .values import Prompt


def played(document: FlowDocument) -> Iterator[tuple[AnyStep, Played]]:
    """Every prompt of a flow, with the step it is in."""
    for step in document.steps:
        for one in step.plays():
            yield step, one


def languages_of(document: FlowDocument) -> set[str]:
    """The languages in which callers may hear a flow: its own, and those that its branches set."""
    branches = (branch for step in document.steps for branch in getattr(step, "branches", ()))
    return {document.language} | {branch.language for branch in branches if getattr(branch, "language", None)}


def library_keys(document: FlowDocument) -> tuple[str, ...]:
    """The keys of the prompts of the library that a flow plays, each once."""
    return tuple(dict.fromkeys(one.prompt.prompt for _, one in played(document) if one.prompt.prompt))


def with_words(document: FlowDocument, words: Mapping[str, str]) -> FlowDocument:
    """The flow with the words that prompts of the library have now, by key; of one that is not there the words stay that it had."""
    if not any(_stale(one.prompt, words) for _, one in played(document)):
        return document
    return document.with_steps(tuple(_step_with(step, words) for step in document.steps))


def only_known(document: FlowDocument, known: Collection[str]) -> FlowDocument:
    """The flow with those prompts of the library that are known, by key; in the place of others their words are read by a voice."""
    if not set(library_keys(document)) - set(known):
        return document
    steps = []
    for step in document.steps:
        unknown = {
            one.field: one.prompt.model_copy(update={"prompt": None})
            for one in step.plays()
            if one.prompt.prompt is not None and one.prompt.prompt not in known
        }
        steps.append(step.model_copy(update=unknown) if unknown else step)
    return document.with_steps(tuple(steps))


def _stale(prompt: Prompt, words: Mapping[str, str]) -> bool:
    return prompt.say != words.get(prompt.prompt or "", prompt.say)


def _step_with(step: AnyStep, words: Mapping[str, str]) -> AnyStep:
    changed = {
        one.field: one.prompt.model_copy(update={"say": words[one.prompt.prompt or ""]})
        for one in step.plays()
        if _stale(one.prompt, words)
    }
    return step.model_copy(update=changed) if changed else step
