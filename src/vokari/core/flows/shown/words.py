"""A flow in words: what a caller meets at each step, and how long it takes."""

from collections.abc import Mapping

from ..model.document import FlowDocument
from ..model.exits import Around, Exit
from ..model.steps import AnyStep
from ..model.values import END, SAME, Target

WORDS_A_MINUTE = 150
"""Speed of text read aloud. Common practice, no source."""


def speaking_seconds(words: str, rate: int = WORDS_A_MINUTE) -> float:
    """How long a text takes to read aloud at so many words a minute, estimated from its words; at least a second when there are any."""
    count = len(words.split())
    return max(1.0, round(count * 60 / rate, 1)) if count else 0.0


def summary(step: AnyStep, document: FlowDocument, mailboxes: Mapping[str, str] | None = None) -> str:
    """What happens at a step, in one short line that goes on from its name. `mailboxes` names them by key, if known."""
    return step.in_words(Around(document.step_names, mailboxes))


def target_words(target: Target, leads_to: AnyStep | None, number: int = 0) -> str:
    """Where an exit leads, in words."""
    if leads_to is not None:
        return f"to {number} {leads_to.called}" if number else f"to {leads_to.called}"
    if target == END:
        return "the call ends"
    if target == SAME:
        return "as no answer"
    return "nowhere yet"


def exit_name(exit_: Exit) -> str:
    """What stands beside an exit: the branch's own words, or the exit's name."""
    return exit_.name or ("hear again" if exit_.hear_again else "")
