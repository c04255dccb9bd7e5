"""A menu's words, written from its branches: what each is for first, the key last, in the language of the flow."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..model.steps import Branch

_KEYS = {
    "en": {"*": "star", "#": "pound", "en-GB#": "hash"},
    "es": {"*": "asterisco", "#": "numeral"},
}
_FORMS = {
    "en": ("For {name}, press {key}.", "To go back, press {key}.", "To hear this again, press {key}."),
    "es": ("Para {name}, oprima {key}.", "Para volver, oprima {key}.", "Para oír esto otra vez, oprima {key}."),
}
"""By language: a branch, a way back, and hearing it again. A language without forms of its own is English."""


@dataclass(frozen=True, slots=True)
class Choice:
    """One branch as its words need it: its key, what it is for, and whether it is a way back or hears the menu again."""

    keys: str
    name: str
    back: bool = False
    again: bool = False


def written(choices: Sequence[Choice], language: str) -> str:
    """The words for the branches in their order; those without a name are left out."""
    short = language.split("-")[0]
    plain, back, again = _FORMS.get(short, _FORMS["en"])
    said = []
    for one in choices:
        form = again if one.again else back if one.back else plain
        if one.again or one.back or one.name.strip():
            said.append(form.format(name=_inside(one.name.strip(), language), key=_key(one.keys, language)))
    return " ".join(said)


def choices_of(branches: Sequence[Branch], backs: Sequence[str]) -> list[Choice]:
    """The choices that a menu offers aloud; `backs` are the ids of steps that send callers back."""
    return [Choice(one.keys, one.name, one.to in backs, one.hear_again) for one in branches if not one.elsewhere]


def _inside(name: str, language: str) -> str:
    """A name within a sentence: the first letter small, unless it is one of a name or of an abbreviation."""
    first, _, rest = name.partition(" ")
    plain = first[1:].islower() and (not rest or rest[0].islower())
    return (
        name[0].lower() + name[1:]
        if plain and len(first) > 1 and language.startswith(("en", "es")) and not rest[:1].isupper()
        else name
    )


def _key(keys: str, language: str) -> str:
    words = _KEYS.get(language.split("-")[0], _KEYS["en"])
    return words.get(f"{language}{keys}") or words.get(keys) or keys
