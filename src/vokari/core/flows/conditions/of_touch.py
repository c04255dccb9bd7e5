"""Conditions on the touch behind a call: the number dialed, its lead source and campaign, and what a visit to the website tells."""

import re
from typing import cast

from ...numbers import numbering
from ..model.condition import Condition
from ..model.condition import Test as TestName
from ..questions.facts import OF_VISITS, Fact, OfTouch, TouchFact
from .base import Holds, Names, Reading, Told, free_written, named_in
from .of_caller import Named, OfFacts
from .within import read_within, written_within

NO_VISITS = "what a visit to the website tells is not known of live calls yet"


class NumberDialed(OfFacts):
    """Which tracking number was dialed."""

    merges = True

    def holds(self, condition: Condition, told: Told) -> Holds:
        return told.ask(OfTouch("number", condition.any_of)) is True

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(self.written(condition, names))

    def offered(self, names: Names) -> list[str]:
        return []

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(?:number\s+)?dial(?:l)?ed\b\s*", text, re.I)
        if match is None:
            return None
        digits = re.match(r"[+(]?\d[\d\s().-]*\d", text[match.end() :])
        if digits is None:
            return "Say which number: dialed +1 410-555-0142."
        number = numbering.parse(digits[0], names.country)
        if isinstance(number, numbering.Wrong):
            return number.sentence
        return Condition(test="number_dialled", any_of=(number,)), match.end() + digits.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"dialed {numbering.shown(one, names.country)}" for one in condition.any_of]


class LeadSource(OfFacts):
    """Which lead source the number dialed was given to when the call came."""

    merges = True

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(OfTouch("lead_source", condition.any_of))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return f"lead source {' or '.join(names.sources.get(one, 'one that is gone') for one in condition.any_of)}"

    def offered(self, names: Names) -> list[str]:
        return [f"lead source {free_written(name)}" for name in names.sources.values()]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"lead\s+source\b\s*(?:is\s+)?", text, re.I)
        if match is None:
            return None
        found = named_in(text[match.end() :], names.sources)
        if found is None:
            return f"This client has no lead source “{text[match.end() :][:40].strip()}”."
        return Condition(test="lead_source", any_of=(found[0],)), match.end() + found[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"lead source {free_written(names.sources.get(one, 'one that is gone'))}" for one in condition.any_of]


class Tagged(Named):
    """What a campaign tag of the touch says (source, medium, campaign, term as keyword, content), or what a visit tells."""

    def __init__(self, what: TouchFact, begins: str, example: str) -> None:
        super().__init__(cast(TestName, what), begins, example)
        self.what = what
        self.unknown = NO_VISITS if what in OF_VISITS else ""

    def asked(self, condition: Condition) -> Fact:
        return OfTouch(self.what, condition.any_of)


class Visits(OfFacts):
    """How many visits the caller made to the website."""

    unknown = NO_VISITS

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(OfTouch("visits", at_least=condition.at_least or 1))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return f"{condition.at_least or 1} visits or more"

    def offered(self, names: Names) -> list[str]:
        return ["3 visits or more"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(\d{1,3})\s+visits?\b(?:\s+or\s+more\b)?", text, re.I)
        if match is None:
            return None
        if not 1 <= int(match[1]) <= 100:
            return "Visits are counted from 1 to 100: 3 visits or more."
        return Condition(test="visits", at_least=int(match[1])), match.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [self.words(condition, names)]


class VisitAge(OfFacts):
    """Whether the latest visit to the website is no older than some time."""

    unknown = NO_VISITS

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(OfTouch("visit_age", hours=condition.reach))
        return None if answer is None else answer is True

    def words(self, condition: Condition, names: Names) -> str:
        return f"visited{written_within(condition) or ' before'}"

    def offered(self, names: Names) -> list[str]:
        return ["visited in 2 hours"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"visited\b(?:\s+before\b)?", text, re.I)
        if match is None:
            return None
        within = read_within(text[match.end() :])
        if isinstance(within, str):
            return within
        return Condition(test="visit_age", **within[0]), match.end() + within[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [self.words(condition, names)]
