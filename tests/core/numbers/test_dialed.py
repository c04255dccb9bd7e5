"""Numbers with digits that are dialed once they pick up, and how long a phone rings."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.numbers.numbering import Wrong, joined, parse, parse_dialed, parted, problem_of, shown
from vokari.core.numbers.ringing import in_rings, usual_seconds

DESK = "+14105550160"


@pytest.mark.parametrize(
    "typed",
    [
        "410-555-0160;ext=24", "410-555-0160 ext. 24", "410-555-0160 ext 24", "(410) 555-0160 x24", "410.555.0160 extension 24",
        "+1 410 555 0160, ext: 24", "410-555-0160 #24", "tel:+1-410-555-0160;ext=24".removeprefix("tel:"), "4105550160 extn. 2-4",
    ],
)  # fmt: skip
def test_an_extension_in_its_usual_spellings_is_read(typed: str) -> None:
    """RFC 3966, section 3: ;ext= after the number. The other spellings are common practice, no source."""
    assert parse_dialed(typed, "US") == f"{DESK};ext=24"
    assert isinstance(parse(typed, "US"), Wrong), "where it cannot be dialed it is not dropped in silence"


def test_more_than_digits_and_pauses_are_kept() -> None:
    assert parse_dialed("410-555-0160,,24#", "US") == f"{DESK};postd=24#"
    assert parse_dialed("410-555-0160;postd=w24#", "US") == f"{DESK};postd=w24#"
    assert shown(f"{DESK};postd=w24#") == "410-555-0160 then w24#"
    assert shown(f"{DESK};ext=24") == "410-555-0160 ext. 24"


@pytest.mark.parametrize(
    "typed", ["410-555-0160 ext", "410-555-0160;ext=", "410-555-0160 x", "410-555-0160 ext. twenty"]
)
def test_an_extension_without_digits_is_told(typed: str) -> None:
    assert isinstance(parse_dialed(typed, "US"), Wrong)


@given(st.text("0123456789*#pw", max_size=12))
def test_what_is_joined_is_parted_again(digits: str) -> None:
    assert parted(joined(DESK, digits)) == (DESK, digits)
    assert problem_of(joined(DESK, digits)) == ""


def test_a_phone_rings_until_shortly_before_its_own_mailbox_answers() -> None:
    """product.md: two seconds before a figure that is known, else 18 s in North America and 15 s in the UK (common practice, no
    source); rings at the cadences of 6 and 3 seconds (trade-facts.md: the national ringing tones)."""
    assert [usual_seconds(one) for one in (DESK, f"{DESK};ext=24", "+447700900123", "sip:a@b.example")] == [
        18,
        18,
        15,
        18,
    ]
    assert [usual_seconds(DESK, after) for after in (25.0, 22.5, 2.0)] == [23, 20, 1]
    assert [in_rings(18, DESK), in_rings(15, "+447700900123"), in_rings(6, DESK), in_rings(25, DESK)] == [
        "3 rings, 18 s", "5 rings, 15 s", "1 ring, 6 s", "5 rings, 25 s",
    ]  # fmt: skip
