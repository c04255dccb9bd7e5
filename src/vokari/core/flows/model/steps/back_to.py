"""Back to: goes back to an earlier step of the same flow."""

import re
from typing import Literal

from ..exits import Around, Exit, Typed
from ..step import StepBase
from ..values import Target


class BackTo(StepBase):
    """Goes back to an earlier step of the same flow."""

    title = "Back to"
    when = "Sends callers back to a step above."
    verbs = ("back",)
    ways = (("to", "back to"),)
    silent = ("to",)
    needs_caller = False

    kind: Literal["back_to"] = "back_to"
    to: Target = None

    def said_of(self, way: Exit) -> str:
        return self.quoted

    def in_words(self, around: Around) -> str:
        target = around.steps.get(self.to) if self.to else None
        return f"goes back to {target}" if target else "goes back to nowhere yet"

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed | str:
        number = re.match(r"^(?:to\s+)?(\d+)$", rest)
        return Typed({}, back_to=int(number.group(1))) if number else "Say which step to go back to: back to 3."
