"""Look-up: asks a client's own system over HTTP and keeps the answer under a name."""

import re
from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field

from ..exits import Around, Has, Named, Renaming, Slip, Typed
from ..step import StepBase, first_words
from ..values import StoredName, Target

URL = re.compile(r"https?://[^\s/?#@]+(?:[/?#]\S*)?")


class LookUp(StepBase):
    """Asks a client's own system over HTTP and keeps the answer under `store_as`."""

    title = "Look-up"
    when = "Asks the client’s own system about the caller or what they typed, and sorts by the answer."
    verbs = ("look", "lookup")
    ways = (("found", "found"), ("not_found", "not found"), ("failed", "failed"))
    onward = "not_found"
    silent = ("found", "not_found", "failed")
    heard = False
    needs_caller = False

    kind: Literal["look_up"] = "look_up"
    url: str = ""
    send: tuple[str, ...] = ()
    store_as: StoredName = "answer"
    patience: int = Field(default=5, ge=1, le=20)
    found: Target = None
    not_found: Target = None
    failed: Target = None

    def names(self) -> Iterator[Named]:
        if self.url:
            yield Named("address", self.url, called=self.url)

    def renamed(self, to: Renaming) -> Self:
        return self.model_copy(update={"url": (to("address", self.url) or "") if self.url else ""})

    def in_words(self, around: Around) -> str:
        return f"asks {self.url or 'nowhere yet'}, keeps the answer as {self.store_as}, {self.patience} s"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": first_words(re.sub(r"^up\b\s*", "", rest)) or cls.title})

    def slips(self, has: Has) -> Iterator[Slip]:
        if not URL.fullmatch(self.url):
            said = f"asks {self.url}, which is no web address" if self.url else "asks no system yet: write its address"
            yield Slip("no_address", f"{self.begins} {said}.")
