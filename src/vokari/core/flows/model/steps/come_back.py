"""Come back: ends a flow inside a flow."""

from collections.abc import Iterator
from typing import Literal

from ..exits import Around, Has, Slip, Typed
from ..step import StepBase
from ..values import Name


class ComeBack(StepBase):
    """Ends a flow inside a flow, by a way that has a name outside."""

    title = "Come back"
    when = "Leaves a flow that is a part of another, by a way that has a name there."
    verbs = ("come", "comes")
    heard = False
    needs_caller = False

    kind: Literal["come_back"] = "come_back"
    way: Name = ""

    @property
    def named(self) -> str:
        """The way as it is compared."""
        return way_named(self.way)

    @property
    def made_name(self) -> str:
        return f"Come back {self.way}" if self.way else ""

    def in_words(self, around: Around) -> str:
        return f"comes back {self.way}" if self.way else "comes back by a way without a name"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": "", "way": come_back_way(rest)})

    def slips(self, has: Has) -> Iterator[Slip]:
        if not self.named:
            yield Slip(
                "nameless_way", f"{self.begins} comes back by a way without a name: name it, for instance “booked”."
            )


def way_named(name: str) -> str:
    """The name of a way back as it is compared: letters of any size, one space between words."""
    return " ".join(name.casefold().split())


def come_back_way(rest: str) -> str:
    """The way that a typed line names: “back with booked”."""
    words = rest.strip()
    for one in ("back", "with", "by"):
        words = words.removeprefix(one).strip() if words.split(" ")[0].casefold() == one else words
    return words.strip(' "“”.')[:60]
