"""Places and kinds of the carrier's numbers against the metadata and the geocoder of phonenumbers."""

import phonenumbers
import pytest
from phonenumbers import PhoneNumberType, geocoder

from vokari.core.numbers.numbering import area_code_problem
from vokari.standins.carrier.inventory import US_PLACES, catalogue
from vokari.standins.carrier.porting import describe

STATES = {
    "MD": "Maryland", "ME": "Maine", "OR": "Oregon", "VT": "Vermont", "WA": "Washington State", "NY": "New York", "IL": "Illinois",
    "CO": "Colorado", "GA": "Georgia", "TX": "Texas", "NM": "New Mexico", "WI": "Wisconsin", "MN": "Minnesota",
    "TN": "Tennessee", "MA": "Massachusetts", "CA": "California", "NC": "North Carolina", "UT": "Utah", "FL": "Florida",
}  # fmt: skip


@pytest.mark.parametrize("code", US_PLACES)
def test_an_area_code_lies_in_its_state(code: str) -> None:
    """The geocoder knows some town of the area code, or only the state: the state must be the same."""
    state = US_PLACES[code].rpartition(", ")[2]
    known = geocoder.description_for_number(phonenumbers.parse(f"+1{code}2345678"), "en")
    assert known.endswith(f", {state}") or known in (STATES[state], STATES[state].removesuffix(" State"))
    assert area_code_problem(code, "US") == ""


def test_kinds_are_those_of_the_metadata() -> None:
    for offer in catalogue():
        kind = phonenumbers.number_type(phonenumbers.parse(offer.e164))
        if offer.kind == "toll_free":
            assert kind == PhoneNumberType.TOLL_FREE, offer.e164
        else:
            assert kind != PhoneNumberType.TOLL_FREE, offer.e164


def test_a_number_that_comes_across_gets_its_place_from_the_geocoder() -> None:
    assert describe("+442079460700") == ("GB", "London", "local")
    assert describe("+14105550177")[0] == "US"
    assert describe("+448081570100")[2] == "toll_free"
    assert describe("+441632960777")[0] == "GB"
