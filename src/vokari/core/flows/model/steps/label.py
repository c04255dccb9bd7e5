"""Label: puts words on the call."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from ..exits import Around, Exit, Has, Slip, Typed
from ..step import StepBase, first_words
from ..values import Target


class Label(StepBase):
    """Puts words on the call, and a lead status if one is given."""

    title = "Label"
    when = "Marks the call for reports and lists; callers notice nothing."
    verbs = ("label", "tag")
    ways = (("next", "then"),)
    onward = "next"
    silent = ("next",)
    linear = True
    heard = False
    needs_caller = False

    kind: Literal["label"] = "label"
    labels: tuple[Annotated[str, Field(min_length=1, max_length=40)], ...] = Field(default=(), max_length=10)
    lead_status: str | None = None
    next: Target = None

    def said_of(self, way: Exit) -> str:
        return f"what follows {self.quoted}"

    def in_words(self, around: Around) -> str:
        return "labels the call " + (", ".join(f"“{one}”" for one in self.labels) or "with nothing yet")

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        labels = [one.strip() for one in rest.split(",") if one.strip()]
        return Typed({"name": first_words(rest), "labels": labels})

    def slips(self, has: Has) -> Iterator[Slip]:
        if not self.labels:
            yield Slip("no_labels", f"{self.begins} puts no label on the call.", weight="asks")

    def unsupported(self) -> Iterator[tuple[str, str]]:
        if self.lead_status:
            yield "lead_status", "setting a lead status cannot be run yet"
