"""Phone numbers against the phonenumbers package and the published ranges."""

import phonenumbers
import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers import numbering
from vokari.demo import people
from vokari.demo.american import AMERICAN
from vokari.demo.british import BRITISH
from vokari.standins.carrier.inventory import catalogue


@pytest.mark.parametrize(
    ("typed", "country", "e164"),
    [
        ("(410) 555-0142", "US", "+14105550142"), ("410.555.0142", "US", "+14105550142"), ("1 410 555 0142", "US", "+14105550142"),
        ("+1 410 555 0142", "GB", "+14105550142"), ("020 7946 0018", "GB", "+442079460018"), ("+44 (0)20 7946 0018", "US", "+442079460018"),
        ("07700 900123", "GB", "+447700900123"), ("tel:+1-410-555-0142", "US", "+14105550142"), ("0808 157 0123", "GB", "+448081570123"),
    ],
)  # fmt: skip
def test_numbers_in_any_usual_form(typed: str, country: str, e164: str) -> None:
    assert numbering.parse(typed, country) == e164


@pytest.mark.parametrize(
    "typed", ["", "abc", "12", "410-555", "+999 123456", "+1 911 555 0142 1234", "410-111-0142", "call me"]
)
def test_what_is_no_number_gets_words(typed: str) -> None:
    """North American plan: NXX-NXX-XXXX with N from 2 to 9; E.164: at most 15 digits."""
    wrong = numbering.parse(typed, "US")
    assert isinstance(wrong, numbering.Wrong)
    assert wrong.sentence.endswith(".")


@given(st.integers(200, 999), st.integers(200, 999), st.integers(0, 9999))
def test_the_north_american_plan_agrees_with_the_package(area: int, exchange: int, line: int) -> None:
    e164 = f"+1{area}{exchange}{line:04d}"
    if not numbering.is_fiction(e164):
        assert (numbering.problem_of(e164) == "") == phonenumbers.is_valid_number(phonenumbers.parse(e164))


@given(st.text(max_size=30), st.sampled_from(["US", "GB"]))
def test_nothing_typed_makes_it_fail(typed: str, country: str) -> None:
    read = numbering.parse(typed, country)
    assert isinstance(read, numbering.Wrong) or numbering.problem_of(read) == ""


@pytest.mark.parametrize(
    ("e164", "country", "form"),
    [
        ("+14105550142", "US", "410-555-0142"),
        ("+442079460018", "GB", "020 7946 0018"),
        ("+14105550142", "GB", "+1 410-555-0142"),
    ],
)
def test_numbers_are_shown_in_the_form_of_the_country(e164: str, country: str, form: str) -> None:
    assert numbering.shown(e164, country) == form
    assert numbering.parse(form, country) == e164


def test_every_number_of_the_demo_and_the_carrier_is_set_aside_for_fiction() -> None:
    """555-0100 to 0199 in any area code and 800; 020 7946 0000 to 0999; 0808 157 0000 to 0999; 07700 900000 to 900999;
    01632 960000 to 960999. Values from memory."""
    staff = [numbering.parted(number)[0] for make in (*AMERICAN, *BRITISH) for number in make().habits]
    tracking = [offer.e164 for offer in catalogue()]
    callers = [*people.CALLERS_US, *people.CALLERS_GB, *(number for number, _ in people.TEST_PHONES)]
    assert all(numbering.is_fiction(number) for number in [*staff, *tracking, *callers])
    assert not set(staff) & set(tracking)
    assert not set(callers) & (set(staff) | set(tracking))
    assert not numbering.is_fiction("+14105550200")
    assert not numbering.is_fiction("+442079461000")
