"""Mail addresses: what can be one, and what was likely meant."""

import pytest

from vokari.core.mail import is_address, meant

KNOWN = {"example.com", "heating.example.net", "example.org"}


@pytest.mark.parametrize(
    ("typed", "likely"),
    [
        ("dana@exmaple.com", "dana@example.com"), ("dana@example.con", "dana@example.com"), ("Dana@EXAMPLE.COM", ""),
        ("a.b@heating.exampel.net", "a.b@heating.example.net"), ("x@another.example", ""), ("x@meadow.test.con", "x@meadow.test.com"),
        ("x@meadow.test.ogr", "x@meadow.test.org"), ("x@meadow.test.co.ku", "x@meadow.test.co.uk"), ("x@meadow.test.net", ""),
        ("x@example.org", ""), ("x@examples-of-all-kinds.com", ""),
    ],
)  # fmt: skip
def test_a_near_miss_of_a_domain_in_use_or_of_an_ending_is_offered(typed: str, likely: str) -> None:
    assert meant(typed, KNOWN) == likely


@pytest.mark.parametrize(
    "typed", ["dana", "dana@", "@example.com", "dana@example", "da na@example.com", "dana@example..com"]
)
def test_what_is_no_address_is_none(typed: str) -> None:
    assert not is_address(typed)


def test_an_address_is_one() -> None:
    assert is_address("o’dana+yard@mail.example.co.uk")
