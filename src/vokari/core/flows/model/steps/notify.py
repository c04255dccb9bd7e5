"""Notify: tells people, groups or the caller."""

from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field

from ..exits import Around, Exit, Named, Renaming, Typed
from ..step import StepBase, first_words
from ..values import NotifyTo, Target, Words

BY = {"email": "by email", "text": "by text message"}
"""The ways that run today."""
LATER = ("group", "url")
"""Receivers that are told later."""


class Notify(StepBase):
    """Tells people, groups or the caller by email, text message, task or HTTP call."""

    title = "Notify"
    when = "Tells people or the caller something by email, text message or task."
    verbs = ("tell", "tells", "notify")
    ways = (("next", "then"),)
    onward = "next"
    silent = ("next",)
    linear = True
    heard = False
    needs_caller = False

    kind: Literal["notify"] = "notify"
    to: tuple[NotifyTo, ...] = Field(default=(), max_length=50)
    by: Literal["email", "text", "task", "http"] = "email"
    words: Words = ""
    next: Target = None

    def said_of(self, way: Exit) -> str:
        return f"what follows {self.quoted}"

    def names(self) -> Iterator[Named]:
        for one in self.to:
            if one.of and one.kind == "person":
                yield Named("person", one.of)
            elif one.of and one.kind in ("email", "number"):
                yield Named("phone" if one.kind == "number" else "address", one.of)

    def renamed(self, to: Renaming) -> Self:
        """Of two receivers that become one, one is left."""
        told = (_renamed(one, to) for one in self.to)
        return self.model_copy(update={"to": tuple(dict.fromkeys(one for one in told if one is not None))})

    def in_words(self, around: Around) -> str:
        told = [{"caller": "the caller", "person": "a person"}.get(one.kind, one.of or "") for one in self.to]
        who = receiver_names(told) or "nobody yet"
        return f"tells {who} {BY.get(self.by, self.by)}"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": first_words(rest) or "Notice"})

    def unsupported(self) -> Iterator[tuple[str, str]]:
        if self.by not in BY:
            yield "by", f"telling by {self.by} cannot be run yet"
        for index, one in enumerate(self.to):
            if one.kind in LATER:
                yield f"to.{index}", f"telling a {one.kind} cannot be run yet"


def receiver_names(told: list[str]) -> str:
    """Some names in a row; people, whose names a flow does not hold, by their number."""
    people = told.count("a person")
    names = [one for one in told if one != "a person"]
    if people:
        names.insert(0, "a person" if people == 1 else f"{people} people")
    return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else "".join(names)


def _renamed(one: NotifyTo, to: Renaming) -> NotifyTo | None:
    match one.kind:
        case "person":
            key = to("person", one.of or "")
        case "email" | "number":
            key = to("phone" if one.kind == "number" else "address", one.of or "")
        case _:
            return one
    return one.model_copy(update={"of": key}) if key else None
