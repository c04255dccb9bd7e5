"""Keypad entry: asks for digits of a length and keeps them under a name."""

from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field, model_validator

from ..asking import asked, tries_words
from ..exits import Around, Has, Played, Slip, Typed
from ..step import StepBase, first_words
from ..values import Prompt, StoredName, Target


class KeypadEntry(StepBase):
    """Asks for digits of a length and keeps them under `store_as`."""

    title = "Keypad entry"
    when = "Asks for digits to keep: an order number, a postal code."
    runs = False
    ways = (("typed", "typed"), ("nothing", "nothing typed"), ("wrong", "wrong entry"))
    onward = "typed"
    silent = ("nothing",)

    kind: Literal["keypad_entry"] = "keypad_entry"
    prompt: Prompt = Prompt()
    shortest: int = Field(default=1, ge=1, le=32)
    longest: int = Field(default=5, ge=1, le=32)
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
        most = f" to {self.longest}" if self.longest != self.shortest else ""
        return f"asks for {self.shortest}{most} digits, keeps them as {self.store_as}, {self.wait} s, {tries_words(self.tries)}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": first_words(rest), "prompt": {"say": rest}})

    def slips(self, has: Has) -> Iterator[Slip]:
        return self.without_words()
