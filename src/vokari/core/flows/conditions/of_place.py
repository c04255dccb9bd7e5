"""Conditions on where the caller probably is: somewhere, at a postal code, within an area, nearest to a place or a person."""

import re

from ...places.distance import KM_PER_MILE
from ...places.document import FARTHEST_KM
from ...places.gazetteer import STATES, state_of
from ...places.typed import MILES, distance_words
from ..model.condition import Condition
from ..model.values import POSTAL_CODE
from ..questions.facts import Where
from .base import Holds, Looks, Names, Reading, Told, free_text, free_written, named_in
from .of_caller import OfFacts


class _OfPlace(OfFacts):
    def asked(self, condition: Condition, told: Told) -> Where:
        raise NotImplementedError

    def looks(self, condition: Condition) -> Looks:
        """Whether a postal code was typed makes a difference, and which."""
        codes = condition.any_of if condition.test == "postal_code" else ()
        values = frozenset((POSTAL_CODE, code) for code in ("", *codes) if not code.endswith("*"))
        return Looks(facts=frozenset([condition]), values=values)

    def holds(self, condition: Condition, told: Told) -> Holds:
        answer = told.ask(self.asked(condition, told))
        return answer[0] if isinstance(answer, tuple) and isinstance(answer[0], bool) else None


class InPlace(_OfPlace):
    """Whether the caller is in some states, cities or area codes."""

    merges = True

    def asked(self, condition: Condition, told: Told) -> Where:
        return Where("area", any_of=condition.any_of, typed=told.values.get(POSTAL_CODE, ""))

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(_said(one) for one in condition.any_of) or "nowhere"

    def offered(self, names: Names) -> list[str]:
        return ["area code 410", "in Maryland", "in Annapolis MD"] if names.country == "US" else ["area code 01273"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"area\s+code\s+", text, re.I)
        if match:
            digits = re.match(r"\d{2,6}\b", text[match.end() :])
            if digits is None:
                return "Say which, in digits: area code 410."
            return Condition(test="area", any_of=(digits[0],)), match.end() + digits.end()
        match = re.match(r"in\s+", text, re.I)
        found = free_text(text[match.end() :]) if match else None
        if match is None or found is None:
            return None
        value = _place(found[0], names.country)
        if not value:
            return f"“{found[0][:40]}” is no state: write the state behind a city, for instance in Annapolis MD."
        return Condition(test="area", any_of=(value,)), match.end() + found[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [_said(one) for one in condition.any_of]


def _place(text: str, country: str) -> str:
    """A state or a city as it is kept; empty for none."""
    state = state_of(text) if country == "US" else ""
    if state:
        return f"US-{state}"
    if country != "US":
        return " ".join(text.split())[:60]
    city, _, code = " ".join(text.split()).rpartition(" ")
    return f"US-{code.upper()} {city}"[:60] if city and code.upper() in STATES else ""


def _said(value: str) -> str:
    if re.fullmatch(r"\d+", value):
        return f"area code {value}"
    if not value.startswith("US-"):
        return f"in {free_written(value)}"
    state, _, city = value.removeprefix("US-").partition(" ")
    return f"in {free_written(f'{city} {state}' if city else STATES.get(state, state))}"


class PostalCode(_OfPlace):
    """Whether the caller's postal code is one of some; with * behind it all that begin so."""

    merges = True

    def asked(self, condition: Condition, told: Told) -> Where:
        return Where("postal_code", any_of=condition.any_of, typed=told.values.get(POSTAL_CODE, ""))

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(self.written(condition, names))

    def offered(self, names: Names) -> list[str]:
        return ["postal code 214*"]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"(?:postal\s+code|postcode|zip(?:\s+code)?)\s+(?:is\s+)?", text, re.I)
        if match is None:
            return None
        code = re.match(r"[0-9]{2,10}\*?(?!\w)", text[match.end() :])
        if code is None:
            return "Callers type postal codes of digits: postal code 21401, or postal code 214* for all that begin so."
        return Condition(test="postal_code", any_of=(code[0],)), match.end() + code.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [f"postal code {one}" for one in condition.any_of]


class Within(_OfPlace):
    """Whether the caller is within an area that the client serves, or some distance of a place of theirs."""

    def asked(self, condition: Condition, told: Told) -> Where:
        typed = told.values.get(POSTAL_CODE, "")
        return Where("within", condition.of or "", km=condition.distance_km, typed=typed)

    def words(self, condition: Condition, names: Names) -> str:
        return self.written(condition, names)[0]

    def offered(self, names: Names) -> list[str]:
        areas = [f"within {free_written(name)}" for name in names.areas.values()]
        unit = "miles" if names.country in MILES else "km"
        return [*areas, *(f"within 20 {unit} of {free_written(name)}" for name in names.places.values())]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"within\s+(?:the\s+)?", text, re.I)
        if match is None:
            return None
        rest = text[match.end() :]
        far = re.match(r"(\d{1,5}(?:\.\d{1,3})?)\s*(miles?|mi|km|kilomet(?:er|re)s?)\s+(?:of|from)\s+", rest, re.I)
        if far is None:
            found = named_in(rest, names.areas)
            if found is None:
                return f"This client serves no area called “{rest[:40].strip()}”: name one under Places, or write within 20 miles of a place."
            return Condition(test="within", of=found[0]), match.end() + found[1]
        distance = float(far[1]) * (KM_PER_MILE if far[2].lower().startswith("mi") else 1)
        if not 0 < distance <= FARTHEST_KM:
            return f"A distance is more than nothing and at most {FARTHEST_KM:g} km: within 20 miles of a place."
        place = named_in(rest[far.end() :], names.places)
        if place is None:
            return f"This client has no place called “{rest[far.end() :][:40].strip()}”: name it under Places."
        km = round(distance, 3)
        return Condition(test="within", of=place[0], distance_km=km), match.end() + far.end() + place[1]

    def written(self, condition: Condition, names: Names) -> list[str]:
        if condition.distance_km is None:
            return [f"within {free_written(names.areas.get(condition.of or '', 'an area that is gone'))}"]
        place = free_written(names.places.get(condition.of or "", "a place that is gone"))
        return [f"within {distance_words(condition.distance_km, names.country)} of {place}"]


class Nearest(_OfPlace):
    """Whether the nearest of the client's places to the caller, or of the people who look after an area, is one of some."""

    merges = True

    def asked(self, condition: Condition, told: Told) -> Where:
        typed = told.values.get(POSTAL_CODE, "")
        return Where("nearest_location", condition.of or "", condition.any_of, typed=typed)

    def words(self, condition: Condition, names: Names) -> str:
        known = names.people if condition.of == "people" else names.places
        gone = "somebody who is gone" if condition.of == "people" else "a place that is gone"
        return f"nearest to {' or '.join(known.get(one, gone) for one in condition.any_of)}"

    def offered(self, names: Names) -> list[str]:
        return [f"nearest to {free_written(name)}" for name in names.places.values()]

    def read(self, text: str, names: Names) -> Reading:
        match = re.match(r"nearest\s+(?:to\s+)?", text, re.I)
        if match is None:
            return None
        place = named_in(text[match.end() :], names.places)
        if place is not None:
            return Condition(test="nearest_location", of="places", any_of=(place[0],)), match.end() + place[1]
        person = named_in(text[match.end() :], names.people)
        if person is not None:
            return Condition(test="nearest_location", of="people", any_of=(person[0],)), match.end() + person[1]
        return f"This client has no place and nobody called “{text[match.end() :][:40].strip()}”: name places under Places."

    def written(self, condition: Condition, names: Names) -> list[str]:
        known = names.people if condition.of == "people" else names.places
        return [f"nearest to {free_written(known.get(one, 'a place that is gone'))}" for one in condition.any_of]
