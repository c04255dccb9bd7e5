"""How easily people remember a number, and why: repeats, runs, pairs, palindromes, round ends, words on the keypad.

Patterns are looked for in the subscriber number (the last seven digits, so across the hyphen too), and count most
where they end the number. The weights are our own; that these patterns help is common practice, no source.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from .keypad import to_digits

Kind = Literal["repeat", "run", "pairs", "palindrome", "round", "few", "word"]
KINDS: dict[str, str] = {
    "repeat": "a digit repeated", "run": "counting up or down", "pairs": "pairs", "palindrome": "reads the same both ways",
    "round": "a round end",
}  # fmt: skip
"""The patterns that can be asked for, with the words of the choice."""

LOOKED_AT = 7
WORTH_TELLING = 15
"""Patterns below this weight are no reason to choose a number."""
WORDS_FOR = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven"}


@dataclass(frozen=True, slots=True)
class Pattern:
    """One pattern in a number: its kind, a weight from 1 to 100, and a short reason."""

    kind: Kind
    weight: int
    reason: str


@lru_cache(maxsize=65536)
def patterns(e164: str) -> tuple[Pattern, ...]:
    """Every pattern of a number, the strongest first."""
    digits = e164.lstrip("+")[-LOOKED_AT:]
    found = [*_repeats(digits), *_runs(digits), *_pairs(digits), *_palindromes(digits), *_ends(digits)]
    return tuple(sorted(found, key=lambda one: -one.weight))


def score(e164: str) -> int:
    """The weight of the strongest pattern and a quarter of each other kind's; 0 for a number without any."""
    best: dict[str, int] = {}
    for one in patterns(e164):
        best.setdefault(one.kind, one.weight)
    weights = sorted(best.values(), reverse=True)
    return weights[0] + sum(weight // 4 for weight in weights[1:]) if weights else 0


def word_pattern(e164: str, word: str) -> Pattern | None:
    """The pattern of a word that a number spells on the keypad; None when it does not."""
    digits = to_digits(word)
    if not digits or digits not in e164:
        return None
    at_end = e164.endswith(digits)
    return Pattern("word", 95 if at_end else 60, f"{'ends in' if at_end else 'holds'} {word.upper()}")


def _at_end(digits: str, end: int) -> bool:
    return end == len(digits)


def _repeats(digits: str) -> Iterator[Pattern]:
    start = 0
    while start < len(digits):
        end = start
        while end < len(digits) and digits[end] == digits[start]:
            end += 1
        length = end - start
        last = _at_end(digits, end)
        if length >= 3 or (length == 2 and last):
            weight = {2: 10, 3: 44, 4: 70, 5: 85}.get(length, 100)
            where = "ends in" if last else "has"
            yield Pattern("repeat", weight if last else weight // 3, f"{where} {WORDS_FOR[length]} {digits[start]}s")
        start = end


def _runs(digits: str) -> Iterator[Pattern]:
    """The longest counting up or down that ends at each digit, of three digits or more."""
    for step, words in ((1, "counts up"), (-1, "counts down")):
        start = 0
        for end in range(1, len(digits) + 1):
            if end < len(digits) and int(digits[end]) - int(digits[end - 1]) == step:
                continue
            length = end - start
            if length >= 3:
                last = _at_end(digits, end)
                weight = {3: 32, 4: 62, 5: 80}.get(length, 95)
                yield Pattern("run", weight if last else weight // 3, f"{digits[start:end]} {words}")
            start = end


def _pairs(digits: str) -> Iterator[Pattern]:
    a, b, c, d = (digits[index] for index in (-4, -3, -2, -1))
    if a == c and b == d and a != b:
        yield Pattern("pairs", 52, f"{a}{b} twice")
    if a == b and c == d and a != c:
        yield Pattern("pairs", 46, f"{a}{b} and {c}{d}")


def _palindromes(digits: str) -> Iterator[Pattern]:
    """The longest palindrome at the end, of four digits or more and of more than one digit."""
    for length in range(len(digits), 3, -1):
        end = digits[-length:]
        if end == end[::-1] and len(set(end)) > 1:
            across = "" if length <= 4 else f", {end[:-4]}-{end[-4:]}"
            yield Pattern(
                "palindrome", {4: 42, 5: 50, 6: 72}.get(length, 90), f"{end} reads the same both ways{across}"
            )
            return


def _ends(digits: str) -> Iterator[Pattern]:
    if digits.endswith("00"):
        yield Pattern("round", 50 if digits.endswith("000") else 30, f"a round {digits[-3:].lstrip('0') or '000'}")
    if len(set(digits[-4:])) == 2:
        yield Pattern("few", 18, "two digits only at its end")
