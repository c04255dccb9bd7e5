"""Hang up: ends the call after its words."""

import re
from collections.abc import Iterator
from typing import Literal

from ..exits import Around, Has, Played, Slip, Typed
from ..step import StepBase, first_words, in_quotes
from ..values import Prompt


class HangUp(StepBase):
    """Ends the call after its words. `refusal` counts the caller as turned away."""

    title = "Hang up"
    when = "Ends the call, with words."
    verbs = ("bye", "end", "hang")

    kind: Literal["hang_up"] = "hang_up"
    prompt: Prompt = Prompt()
    refusal: bool = False

    def plays(self) -> Iterator[Played]:
        yield Played("prompt", self.prompt)

    def in_words(self, around: Around) -> str:
        ending = " as a refusal" if self.refusal else ""
        return f"{in_quotes(self.prompt)} and ends the call{ending}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        said = re.sub(r"^up\b\s*", "", rest)
        return Typed({"name": first_words(said) or "Goodbye", "prompt": {"say": said}})

    def slips(self, has: Has) -> Iterator[Slip]:
        if self.prompt.is_empty():
            yield Slip("silent_end", f"{self.begins} ends the call without a word: write what the caller hears last.")
