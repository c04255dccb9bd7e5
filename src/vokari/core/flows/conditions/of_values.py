"""Conditions on what callers typed or a Look-up gave, on the language that is spoken, and on shares of callers."""

import re

from ..model.condition import Condition
from ..model.steps.keypad_entry import spoken_name, stored_name
from ..questions.facts import WhichShare
from .base import Holds, Looks, Names, Reading, Told, free_text, free_written
from .of_caller import OfFacts

LANGUAGES = {
    "en": "English", "es": "Spanish", "fr": "French", "de": "German", "it": "Italian", "pt": "Portuguese", "nl": "Dutch", "pl": "Polish",
    "cy": "Welsh", "zh": "Chinese", "ar": "Arabic", "ru": "Russian", "uk": "Ukrainian", "vi": "Vietnamese", "ko": "Korean",
    "hi": "Hindi", "tr": "Turkish", "ja": "Japanese", "sv": "Swedish", "da": "Danish", "fi": "Finnish", "el": "Greek",
}  # fmt: skip
"""Languages by their ISO 639 code, as they are typed."""
_BY_NAME = {name.casefold(): code for code, name in LANGUAGES.items()}


class KeptValue(OfFacts):
    """Whether what is kept under a name is one of some texts; not known where nothing is kept."""

    merges = True

    def holds(self, condition: Condition, told: Told) -> Holds:
        value = told.values.get(condition.of or "")
        return None if value is None else value in condition.any_of

    def looks(self, condition: Condition) -> Looks:
        return Looks(values=frozenset((condition.of or "", text) for text in condition.any_of))

    def words(self, condition: Condition, names: Names) -> str:
        return f"{spoken_name(condition.of or 'nothing')} is {' or '.join(condition.any_of) or 'nothing'}"

    def offered(self, names: Names) -> list[str]:
        return [f"{spoken_name(one)} is 1" for one in names.kept]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"((?!not\b)[a-z][\w -]{0,31}?)\s+is\s+", text, re.I)
        if match is None or re.match(r"(?:not|and|or)\b", match[1], re.I):
            return None
        of, found = stored_name(match[1]), free_text(text[match.end() :])
        if not of or found is None:
            return None
        if of not in names.kept:
            return f"Nothing in this flow keeps the {spoken_name(of)}: ask for it by a Keypad entry or a Look-up first."
        return Condition(test="value", of=of, any_of=(found[0][:200],)), match.end() + found[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"{spoken_name(condition.of or 'nothing')} is {free_written(one)}" for one in condition.any_of]


class InLanguage(OfFacts):
    """Whether the call is in some language: the one that the caller chose, else the flow's."""

    merges = True

    def holds(self, condition: Condition, told: Told) -> Holds:
        return any(told.language == one or told.language.split("-")[0] == one for one in condition.any_of)

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(LANGUAGES.get(one, one) for one in condition.any_of)

    def offered(self, names: Names) -> list[str]:
        return ["language Spanish"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"language\s+(?:is\s+)?([A-Za-z-]+)", text, re.I)
        if match is None:
            return None
        typed = match[1].casefold()
        code = _BY_NAME.get(typed) or (match[1] if re.fullmatch(r"[a-z]{2,3}(?:-[A-Z]{2})?", match[1]) else "")
        if not code:
            return f"“{match[1]}” is no language that is known here: write it as language Spanish, or by its code."
        return Condition(test="language", any_of=(code,)), match.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"language {LANGUAGES.get(one, one)}" for one in condition.any_of]


class Share(OfFacts):
    """Whether the caller is one of a share of callers: the same caller always the same way. The shares of one junction follow each other,
    so that two of 30 % are 60 % together."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(WhichShare(told.split, told.bounds))
        begins = told.begins.get(id(condition), 0)
        return isinstance(answer, int) and begins <= answer < begins + (condition.percent or 0)

    def words(self, condition: Condition, names: Names) -> str:
        return f"{condition.percent or 0} % of callers"

    def offered(self, names: Names) -> list[str]:
        return ["50 % of callers"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(\d{1,6}(?:\.\d+)?)\s*(?:%|percent\b)(?:\s+of\s+(?:the\s+)?callers\b)?", text, re.I)
        if match is None:
            return None
        if not match[1].isdigit() or not 1 <= int(match[1]) <= 100:
            return f"“{match[1]} %” is no share: a whole number of 1 to 100 % of callers."
        return Condition(test="share", percent=int(match[1])), match.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [self.words(condition, names)]
