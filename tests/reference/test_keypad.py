"""The letters of the keypad. Source: ITU-T E.161, from memory; phonenumbers maps the same letters for vanity numbers."""

import string

import phonenumbers
import pytest

from vokari.core.numbers.keypad import LETTERS, to_digits


@pytest.mark.parametrize("letter", string.ascii_uppercase)
def test_each_letter_stands_on_the_key_that_the_package_knows(letter: str) -> None:
    assert to_digits(letter) == phonenumbers.convert_alpha_characters_in_number(letter)
    assert to_digits(letter.lower()) == to_digits(letter)


def test_the_keys_carry_the_whole_alphabet_once() -> None:
    assert "".join(LETTERS.values()) == string.ascii_uppercase
    assert {key: len(letters) for key, letters in LETTERS.items() if len(letters) == 4} == {"7": 4, "9": 4}
    assert to_digits("BOAT") == "2628"
    assert to_digits("24-7") is None
    assert to_digits("é") is None
