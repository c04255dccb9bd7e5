"""Label: puts words on the call."""

import re
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
    lead_status: Annotated[str, Field(min_length=1, max_length=40)] | None = None
    next: Target = None

    def said_of(self, way: Exit) -> str:
        return f"what follows {self.quoted}"

    def in_words(self, around: Around) -> str:
        said = [f"labels the call {', '.join(f'“{one}”' for one in self.labels)}"] if self.labels else []
        said += [f"sets the lead status “{self.lead_status}”"] if self.lead_status else []
        return ", ".join(said) or "labels the call with nothing yet"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        labels, status = read_labels(rest)
        return Typed({"name": first_words(", ".join([*labels, status or ""])), "labels": labels, "lead_status": status})

    def slips(self, has: Has) -> Iterator[Slip]:
        if not self.labels and not self.lead_status:
            yield Slip("no_labels", f"{self.begins} puts no label on the call.", weight="advises")


def read_labels(text: str) -> tuple[list[str], str | None]:
    """The labels of a typed line, and the lead status where it names one: “boat lifts, lead status qualified”."""
    found, status = [], None
    for one in (" ".join(part.split()) for part in text.split(",")):
        match = re.fullmatch(r"(?:lead )?status:?\s+(.+)", one, re.I)
        if match:
            status = match[1][:40]
        elif one:
            found.append(one[:40])
    return found[:10], status
