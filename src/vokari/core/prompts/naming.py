"""Names of prompts: whether one can be mistaken for another or says nothing, and a better one from the words."""

import re
from collections.abc import Collection, Mapping

from rapidfuzz import fuzz

from .kinds import KINDS, Kind
from .markup import plain

TOO_ALIKE = 88
"""How alike two names are, in hundredths, from which on one is taken for the other (RapidFuzz’s ratio). Common practice, no source."""
_NOTHING = re.compile(
    r"(?:new|untitled|unnamed|final|copy|test|temp|old|the|my|a|audio|clip|file|msg|message|prompt|recording|record|rec|sound|take|track|"
    r"voice|memo|greeting|menu|img|wav|mp3|ogg|m4a|flac|webm|v|no|nr|of|and|"
    + "|".join(one.lower() for word in KINDS.values() for one in word.split()) + r"|[0-9]+)"
)  # fmt: skip
_LITTLE_WORDS = """
a an and are as at be but by for from have in is it of on or our please so thank thanks that the to us we will with you your hello hi
welcome calling call press el la los las de que y en por para un una con su nos le les des du une et pour vous nous der die das und sie
wir für bei uns
"""
_LITTLE = frozenset(_LITTLE_WORDS.split())
"""Words that tell no prompt from another."""


def questions(name: str, others: Mapping[str, str]) -> list[str]:
    """What speaks against a name, each a sentence; `others` are the names of other prompts by key."""
    said = " ".join(name.split())
    words = re.findall(r"[^\W_]+", said.casefold())
    found = []
    if not words or all(_NOTHING.fullmatch(word) or len(word) < 2 for word in _letters_and_digits(words)):
        found.append(f"“{said}” does not say what callers hear.")
    for other in others.values():
        if too_alike(said, other):
            found.append(f"“{said}” and “{other}” can be taken for each other.")
            break
    return found


def _letters_and_digits(words: list[str]) -> list[str]:
    """Words with the digits in them apart: "recording3" is "recording" and "3"."""
    return [part for word in words for part in re.findall(r"[0-9]+|[^\W\d_]+", word)]


def too_alike(one: str, other: str) -> bool:
    """Whether two names can be taken for each other: the same but for digits, case and marks, or nearly so."""
    left, right = (_bare(name) for name in (one, other))
    if left == right:
        return True
    numbers = [re.findall(r"[0-9]+", name) for name in (one, other)]
    if not any(numbers) and min(len(left), len(right)) < 5:
        return False
    return fuzz.ratio(left, right) >= TOO_ALIKE


def _bare(name: str) -> str:
    return " ".join(re.findall(r"[^\W\d_]+", name.casefold()))


def proposed(words: str, kind: Kind, others: Collection[str] = ()) -> str:
    """A name from what is said: its kind and the first words that tell it from others. Empty where there are no words."""
    found: list[str] = []
    for word in re.findall(r"[^\W_]+(?:[’'-][^\W_]+)*", re.sub(r"\{[^{}]*\}", " ", plain(words))):
        if word.casefold() not in _LITTLE and word.casefold() not in (one.casefold() for one in found):
            found.append(word)
    if not found:
        return ""
    for count in range(min(4, len(found)), len(found) + 1):
        name = f"{KINDS[kind]}: {' '.join(found[:count])}"[:60].rstrip()
        if not any(too_alike(name, other) for other in others):
            return name
    return name
