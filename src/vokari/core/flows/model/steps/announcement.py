"""Announcement: says a prompt a number of times."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from ..exits import Around, Exit, Has, Played, Slip, Typed
from ..step import StepBase, first_words, in_quotes
from ..values import Prompt, Target


class Announcement(StepBase):
    """Says a prompt a number of times. A notice is heard to the end; `counts_as` gives the caller a fate."""

    title = "Announcement"
    when = "Tells callers something and goes on: a greeting, a notice of recording, an answer to the usual question."
    verbs = ("say", "says", "announce", "play")
    ways = (("next", "then"),)
    onward = "next"
    silent = ("next",)
    linear = True

    kind: Literal["announcement"] = "announcement"
    prompt: Prompt = Prompt()
    times: int = Field(default=1, ge=1, le=10)
    notice: bool = False
    counts_as: Literal["nothing", "served", "turned_away"] = "nothing"
    next: Target = None

    def may_end(self, way: Exit) -> bool:
        return not self.prompt.is_empty()

    def said_of(self, way: Exit) -> str:
        return f"what follows {self.quoted}"

    def plays(self) -> Iterator[Played]:
        yield Played("prompt", self.prompt)

    def in_words(self, around: Around) -> str:
        parts = [in_quotes(self.prompt)]
        if self.times > 1:
            parts.append(f"{self.times} times")
        if self.notice:
            parts.append("heard to the end")
        if self.counts_as != "nothing":
            parts.append("an answer in itself" if self.counts_as == "served" else "a refusal")
        return ", ".join(parts)

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": first_words(rest), "prompt": {"say": rest}})

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
