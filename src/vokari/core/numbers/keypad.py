"""The letters of the telephone keypad. Source: ITU-T E.161, the letters most keypads carry."""

LETTERS = {
    "2": "ABC", "3": "DEF", "4": "GHI", "5": "JKL", "6": "MNO", "7": "PQRS", "8": "TUV", "9": "WXYZ",
}  # fmt: skip
_DIGITS = {letter: digit for digit, letters in LETTERS.items() for letter in letters}


def to_digits(word: str) -> str | None:
    """The digits under the letters of a word, digits as they are; None where a character is on no key."""
    found = [one if one.isdigit() and one.isascii() else _DIGITS.get(one) for one in word.upper()]
    return "".join(one for one in found if one) if all(found) else None
