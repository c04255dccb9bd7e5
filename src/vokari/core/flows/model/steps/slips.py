"""Slips that several kinds of step have in common."""

from collections.abc import Iterator

from ..exits import Slip
from .base import StepBase


def without_words(step: StepBase) -> Iterator[Slip]:
    """Prompts that have no words yet."""
    for one in step.plays():
        if one.prompt.is_empty():
            yield Slip("no_words", f"{one.called[0].upper()}{one.called[1:]} of {step.quoted} has no words yet.")
