"""Conditions on the caller: their past with this client, whether they withhold their number, and what is kept of them as a contact."""

import re
from collections.abc import Mapping

from ..model.condition import Condition
from ..model.condition import Test as TestName
from ..questions.facts import ContactFact, Fact, HasCalled, LastCallCameTo, LastSpokeWith, OfContact, Withheld
from .base import Holds, Looks, Names, Reading, Told, free_text, free_written, named_in
from .within import read_within, written_within

FATE_WORDS: Mapping[str, str] = {
    "answered": "answered", "message_left": "left a message", "served": "served", "turned_away": "turned away", "lost": "lost",
}  # fmt: skip
"""What came of a call, as it is typed."""
_FATE = "|".join(sorted(FATE_WORDS.values(), key=len, reverse=True))
_FATES = rf"(?:{_FATE})(?:\s*/\s*(?:{_FATE}))*"
_BY_WORDS = {words: fate for fate, words in FATE_WORDS.items()}
_CALLED = re.compile(rf"(called|{_FATES})\b(?:\s+(?:(\d{{1,4}})\s+times?(?:\s+or\s+more)?\b|(before)\b))?", re.I)
_LAST_CALL = re.compile(rf"last\s+call\s+({_FATES})\b", re.I)


class OfFacts:
    """What tests of facts have in common: what they look at is the condition itself."""

    merges = False
    unknown = ""

    def looks(self, condition: Condition) -> Looks:
        return Looks(facts=frozenset([condition]))


def _fates(text: str) -> tuple[str, ...]:
    found = (_BY_WORDS[" ".join(one.lower().split())] for one in text.split("/"))
    return tuple(dict.fromkeys(found))


def _fate_words(any_of: tuple[str, ...]) -> str:
    return "/".join(FATE_WORDS.get(one, one) for one in any_of)


class FirstCall(OfFacts):
    """Whether the caller never called this client before."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        called = told.ask(HasCalled(1, None))
        return None if called is None else called is False

    def words(self, condition: Condition, names: Names) -> str:
        return "first call"

    def offered(self, names: Names) -> list[str]:
        return ["first call"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(?:the\s+)?first\s+call\b", text, re.I)
        return (Condition(test="first_call"), match.end()) if match else None

    def written(self, condition: Condition, names: Names) -> list[str]:
        return ["first call"]


class Called(OfFacts):
    """How often the caller called, within some time, counting what came of the calls."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(HasCalled(condition.at_least or 1, condition.reach, condition.any_of))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return self.written(condition, names)[0]

    def offered(self, names: Names) -> list[str]:
        return [
            "called before",
            "called 3 times in 30 days",
            "lost in 2 days",
            "left a message in 7 days",
            "answered in 90 days",
        ]

    def read(self, text: str, names: Names) -> Reading:
        match = _CALLED.match(text)
        if match is None:
            return None
        fates = () if match[1].casefold() == "called" else _fates(match[1])
        within = read_within(text[match.end() :])
        if isinstance(within, str):
            return within
        fields, length = within
        if not match[2] and not match[3] and not fields:
            return f"Say how often or since when: {match[1].lower()} before, {match[1].lower()} 3 times in 30 days."
        count = int(match[2] or 1)
        if not 1 <= count <= 100:
            return "A caller is counted up to 100 times: called 3 times in 30 days."
        at_least = {"at_least": count} if count > 1 else {}
        return Condition(test="called", any_of=fates, **at_least, **fields), match.end() + length

    def written(self, condition: Condition, names: Names) -> list[str]:
        who, within = _fate_words(condition.any_of) or "called", written_within(condition)
        often = f" {condition.at_least} times" if (condition.at_least or 1) > 1 else "" if within else " before"
        return [f"{who}{often}{within}"]


class LastCall(OfFacts):
    """What came of the caller's latest call."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(LastCallCameTo(condition.any_of, condition.reach))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return self.written(condition, names)[0]

    def offered(self, names: Names) -> list[str]:
        return ["last call lost in 2 hours", "last call answered"]

    def read(self, text: str, names: Names) -> Reading:
        match = _LAST_CALL.match(text)
        if match is None:
            return (
                "Say what came of it: last call lost, last call answered."
                if re.match(r"last\s+call\b", text, re.I)
                else None
            )
        within = read_within(text[match.end() :])
        if isinstance(within, str):
            return within
        return Condition(test="last_call", any_of=_fates(match[1]), **within[0]), match.end() + within[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"last call {_fate_words(condition.any_of) or 'gone'}{written_within(condition)}"]


class LastSpoke(OfFacts):
    """Who of the client's people talked with the caller last."""

    merges = True

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(LastSpokeWith(condition.any_of, condition.reach))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        who = " or ".join(names.people.get(one, "somebody who is gone") for one in condition.any_of)
        return f"last spoke with {who or 'nobody'}{written_within(condition)}"

    def offered(self, names: Names) -> list[str]:
        return [f"last spoke with {free_written(name)}" for name in names.people.values()]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(?:last\s+)?spoke\s+with\s+", text, re.I)
        if match is None:
            return None
        found = named_in(text[match.end() :], names.people)
        if found is None:
            return f"None of the client’s people is called “{text[match.end() :][:40].strip()}”."
        end = match.end() + found[1]
        within = read_within(text[end:])
        if isinstance(within, str):
            return within
        return Condition(test="last_spoke_with", any_of=(found[0],), **within[0]), end + within[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        within = written_within(condition)
        return [
            f"last spoke with {free_written(names.people.get(one, 'somebody who is gone'))}{within}"
            for one in condition.any_of
        ]


class IsWithheld(OfFacts):
    """Whether the caller withholds their number."""

    def holds(self, condition: Condition, told: Told) -> Holds:
        return told.ask(Withheld()) is True

    def words(self, condition: Condition, names: Names) -> str:
        return "number withheld"

    def offered(self, names: Names) -> list[str]:
        return ["withheld"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(?:number\s+)?withheld\b", text, re.I)
        return (Condition(test="withheld"), match.end()) if match else None

    def written(self, condition: Condition, names: Names) -> list[str]:
        return ["withheld"]


class Named(OfFacts):
    """What is one of some texts, typed behind a few words that say what it is: “label regular”, “campaign spring-launch”."""

    merges = True

    def __init__(self, test: TestName, begins: str, example: str) -> None:
        self.test, self.begins, self.example = test, begins, example

    def asked(self, condition: Condition) -> Fact:
        """What is asked of the engine."""
        raise NotImplementedError

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(self.asked(condition))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return f"{self.begins} {' or '.join(condition.any_of)}"

    def offered(self, names: Names) -> list[str]:
        return [f"{self.begins} {self.example}"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(rf"{self.begins}\b\s*(?:is\s+)?", text, re.I)
        if match is None:
            return None
        found = free_text(text[match.end() :])
        if found is None:
            return f"Say which: {self.begins} {self.example}."
        return Condition(test=self.test, any_of=(found[0][:200],)), match.end() + found[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"{self.begins} {free_written(one)}" for one in condition.any_of]


class Contact(Named):
    """What is kept of the caller as a contact: a label, the lead status, a list that they are on."""

    unknown = "what is kept of contacts is not known of live calls yet"

    def __init__(self, what: ContactFact, begins: str, example: str) -> None:
        super().__init__(what, begins, example)
        self.what = what

    def asked(self, condition: Condition) -> Fact:
        return OfContact(self.what, condition.of or "", condition.any_of)


class ContactField(Contact):
    """What a field of a contact says."""

    def __init__(self) -> None:
        super().__init__("contact_field", "contact", "city is Annapolis")

    def words(self, condition: Condition, names: Names) -> str:
        return f"contact {condition.of} is {' or '.join(condition.any_of)}"

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"contact\s+([\w ]{1,40}?)\s+is\s+", text, re.I)
        if match is None:
            return f"Say which field is what: contact {self.example}." if re.match(r"contact\b", text, re.I) else None
        found = free_text(text[match.end() :])
        if found is None:
            return f"Say what it is: contact {self.example}."
        of = " ".join(match[1].split()).casefold()
        return Condition(test="contact_field", of=of, any_of=(found[0][:60],)), match.end() + found[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"contact {condition.of} is {free_written(one)}" for one in condition.any_of]
