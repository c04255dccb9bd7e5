"""Phones that the application has rung, as this carrier plays them: somebody picks up, and their call arrives.

Nobody is there, so a phone is picked up by itself after some seconds; one whose number ends in 13 rings out, one that ends in 14 is busy.
What they say, and which keys they press, can be told beforehand; they speak by espeak-ng, or from a sound that was brought.
"""

import time
from dataclasses import dataclass

from .inventory import Inventory, Unavailable
from .register import RINGINGS
from .script import CallScript, MessageScript

NEVER_ANSWERS, BUSY = "13", "14"
SAYS = "Hello. You have reached us. Please stay on the line, and somebody will be with you in a moment."
KEEPS = ["1"]


@dataclass(frozen=True, slots=True)
class RungPhone:
    """A phone as it stands: ringing, answered, busy or not_answered."""

    ref: str
    to: str
    state: str


class RingingDesk:
    """The phones that were rung of late, kept beside the numbers. `seconds`: how long one rings; `said` is what is said at phones, by
    number, and the keys pressed at each question."""

    def __init__(self, inventory: Inventory, seconds: float = 3.0) -> None:
        self.inventory, self.seconds = inventory, seconds
        self.said: dict[str, tuple[MessageScript, list[str]]] = {}
        inventory.ask(RINGINGS)

    def ring(self, ref: str, to: str) -> bool:
        """Rings a phone; False where it was rung with this reference before."""
        known = self.inventory.ask("SELECT 1 FROM ringings WHERE ref = ?", (ref,))
        self.inventory.ask("INSERT OR IGNORE INTO ringings VALUES (?, ?, ?)", (ref, to, time.time()))
        return not known

    def state(self, ref: str) -> RungPhone:
        """A phone as it stands now. Raises Unavailable for an unknown one."""
        found = self.inventory.ask("SELECT phone, since FROM ringings WHERE ref = ?", (ref,))
        if not found:
            raise Unavailable(404, "There is no such call.")
        to, since = str(found[0][0]), float(found[0][1])
        if time.time() - since < self.seconds:
            return RungPhone(ref, to, "ringing")
        return RungPhone(ref, to, self.becomes(to))

    def becomes(self, to: str) -> str:
        """What becomes of a phone once it has rung."""
        return "not_answered" if to.endswith(NEVER_ANSWERS) else "busy" if to.endswith(BUSY) else "answered"

    def script(self, ref: str, to: str) -> CallScript:
        """What happens on the call of a phone that was picked up."""
        message, keys = self.said.get(to, (MessageScript(words=SAYS, then="key"), KEEPS))
        return CallScript.model_validate(
            {"from": to, "to": to, "rung": ref, "message": message, "answers": keys, "sound": True}
        )
