"""A menu's words, written from its branches: what each is for first, the key last, in the language of the flow."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from ...value import once
from ..model.document import FlowDocument
from ..model.steps import AnyStep, BackTo, Branch, Menu
from .languages import speech_of


@dataclass(frozen=True, slots=True)
class Choice:
    """One branch as its words need it: its key, what it is for, and whether it is a way back or hears the menu again."""

    keys: str
    name: str
    back: bool = False
    again: bool = False


def written(choices: Sequence[Choice], language: str) -> str:
    """The words for the branches in their order; those without a name are left out."""
    return " ".join(words for one in choices if (words := sentence(one, language)))


def sentence(one: Choice, language: str) -> str:
    """The words for one choice; empty where it has no name."""
    speech = speech_of(language)
    form = speech.again if one.again else speech.back if one.back else speech.branch
    if not (one.again or one.back or one.name.strip()):
        return ""
    return form.format(name=_inside(one.name.strip(), language), key=key_words(one.keys, language))


def words_of(menu: Menu, document: FlowDocument) -> str:
    """The words that a menu of a flow has when they are written from its branches."""
    return written(choices_of(menu.branches, _backs(document)), menu.prompt.language or document.language)


def says_its_keys(menu: Menu, document: FlowDocument) -> bool:
    """Whether a menu has the words that are written from its branches, or none yet."""
    return not menu.prompt.say.strip() or menu.prompt.say == words_of(menu, document)


def in_step(before: FlowDocument, after: FlowDocument) -> FlowDocument:
    """The flow after a change, its menus in step with their branches: those that had the words of their branches, and those without
    words, get those of the branches that they have now. Words that somebody wrote, and menus that have a recording, stay."""

    def anew(step: AnyStep) -> AnyStep:
        if not isinstance(step, Menu) or step.prompt.prompt or step.prompt.recording:
            return step
        was = before.step(step.id)
        same = isinstance(was, Menu) and was.prompt.say == step.prompt.say and says_its_keys(was, before)
        if step.prompt.say.strip() and not same:
            return step
        words = words_of(step, after)
        return (
            step
            if words == step.prompt.say
            else step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": words})})
        )

    steps = tuple(anew(step) for step in after.steps)
    return after if all(new is old for new, old in zip(steps, after.steps, strict=True)) else after.with_steps(steps)


@once
def _backs(document: FlowDocument) -> frozenset[str]:
    return frozenset(one.id for one in document.steps if isinstance(one, BackTo))


def choices_of(branches: Sequence[Branch], backs: Collection[str]) -> list[Choice]:
    """The choices that a menu offers aloud; `backs` are the ids of steps that send callers back."""
    return [Choice(one.keys, one.name, one.to in backs, one.hear_again) for one in branches if not one.elsewhere]


def key_words(keys: str, language: str) -> str:
    """A key as it is spoken: "star", "pound", "hash" in British English, digits as they are."""
    speech = speech_of(language)
    pound = "hash" if language == "en-GB" else speech.pound
    return {"*": speech.star, "#": pound}.get(keys, keys)


def _inside(name: str, language: str) -> str:
    """A name within a sentence: the first letter small, unless it is one of a name or of an abbreviation."""
    first, _, rest = name.partition(" ")
    plain = first[1:].islower() and (not rest or rest[0].islower())
    return (
        name[0].lower() + name[1:]
        if plain and len(first) > 1 and language.startswith(("en", "es")) and not rest[:1].isupper()
        else name
    )
