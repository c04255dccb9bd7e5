"""Keypad entry: asks for digits of a length and keeps them under a name."""

import re
from collections.abc import Iterator
from typing import Any, Literal, Self

from pydantic import Field, model_validator

from ..asking import asked, tries_words
from ..exits import Around, Has, Played, Slip, Typed
from ..step import StepBase, first_words
from ..values import POSTAL_CODE, Prompt, StoredName, Target

MOST_DIGITS = 32
POSTAL_DIGITS = {"US": 5}
"""How many digits a postal code has, where it is one of digits."""


class KeypadEntry(StepBase):
    """Asks for digits of a length and keeps them under `store_as`."""

    title = "Keypad entry"
    when = "Asks for digits to keep: an order number, a postal code."
    verbs = ("type", "types", "digits")
    ways = (("typed", "typed"), ("nothing", "nothing typed"), ("wrong", "wrong entry"))
    onward = "typed"
    silent = ("nothing",)
    follows = ("nothing", "wrong")

    kind: Literal["keypad_entry"] = "keypad_entry"
    prompt: Prompt = Prompt()
    shortest: int = Field(default=1, ge=1, le=MOST_DIGITS)
    longest: int = Field(default=5, ge=1, le=MOST_DIGITS)
    wait: int = Field(default=5, ge=1, le=30)
    tries: int = Field(default=2, ge=1, le=9)
    inter_digit: int = Field(default=3, ge=1, le=10)
    retry_silent: Prompt | None = None
    retry_wrong: Prompt | None = None
    store_as: StoredName = "entry"
    typed: Target = None
    nothing: Target = None
    wrong: Target = None

    @model_validator(mode="after")
    def _can_be_typed(self) -> Self:
        if self.shortest > self.longest:
            raise ValueError("the shortest entry is longer than the longest")
        return self

    @property
    def waits(self) -> float:
        """The seconds that a caller has once the prompt is over."""
        return self.wait

    def plays(self) -> Iterator[Played]:
        return asked(self.prompt, self.retry_silent, self.retry_wrong)

    def in_words(self, around: Around) -> str:
        return f"asks for {self.length_words}, keeps {self.kept_words}, {self.wait} s, {tries_words(self.tries)}"

    @property
    def length_words(self) -> str:
        """How long an entry is: "5 digits", "3 to 6 digits"."""
        most = f" to {self.longest}" if self.longest != self.shortest else ""
        return f"{self.shortest}{most} digit{'' if self.longest == 1 else 's'}"

    @property
    def kept_words(self) -> str:
        """What is kept, by its name in words: "the order number"."""
        return f"the {spoken_name(self.store_as)}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed | str:
        typed = read_entry(rest)
        if isinstance(typed, str):
            return typed
        fill, words = typed
        return Typed({"name": first_words(words), "prompt": {"say": words.strip(' "“”')}, **fill})

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
        if self.store_as == POSTAL_CODE and has.country in POSTAL_DIGITS:
            digits = POSTAL_DIGITS[has.country]
            if not self.shortest <= digits <= self.longest:
                words = f"{self.begins} keeps a postal code of {self.length_words}, and one here has {digits}."
                yield Slip("postal_length", words)


_LENGTH = re.compile(r"(?:(\d{1,2})(?:\s*(?:-|–|to)\s*(\d{1,2}))?\s*digits?\b|an?\b)?\s*(?:\bfor\s+)?", re.I)
_NAME = re.compile(r"(?:the\s+)?([a-z][a-z0-9 _-]{0,30})(?=\s*(?:[\"“„«,:]|$))", re.I)


def stored_name(words: str) -> str:
    """A name in words as values are kept under it: “Order number” is `order_number`; empty where it is none."""
    name = re.sub(r"[\s-]+", "_", words.strip().casefold())
    return name if re.fullmatch(r"[a-z][a-z0-9_]{0,31}", name) else ""


def spoken_name(name: str) -> str:
    """A stored name in words."""
    return name.replace("_", " ")


def read_entry(text: str) -> tuple[dict[str, Any], str] | str:
    """The length and the name that a typed line tells (“5 digits for postal code”), as fields, and what stands behind them; or a
    sentence."""
    fill: dict[str, Any] = {}
    match = _LENGTH.match(text)
    rest = text[match.end() :] if match else text
    if match and match[1]:
        shortest, longest = int(match[1]), int(match[2] or match[1])
        if not 1 <= shortest <= longest <= MOST_DIGITS:
            return f"Callers type 1 to {MOST_DIGITS} digits: type 5 digits for postal code."
        fill |= {"shortest": shortest, "longest": longest}
    named = _NAME.match(rest) if match and match[0].strip() else None
    if named and (name := stored_name(named[1])):
        fill["store_as"] = name
        rest = rest[named.end() :].lstrip(" ,:")
    if fill.get("store_as") == POSTAL_CODE and "shortest" not in fill:
        fill |= {"shortest": 5, "longest": 5}
    return fill, rest.strip()
