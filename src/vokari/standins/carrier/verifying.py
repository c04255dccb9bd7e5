"""Verification calls, as this carrier plays them: a phone rings, the words are said, and somebody presses the key or not.

Nobody is there to pick up, so a phone answers and the key is pressed by itself after some seconds; one whose number ends
in 13 rings out, and one that ends in 14 is answered by somebody who presses nothing.
"""

import time
from dataclasses import dataclass

from .inventory import Inventory, Unavailable

NEVER_ANSWERS, PRESSES_NOTHING = "13", "14"


@dataclass(frozen=True, slots=True)
class Verification:
    """A call as it stands: ringing, pressed, not_answered or not_pressed."""

    ref: str
    to: str
    state: str


class VerifyingDesk:
    """The verification calls of late, kept beside the numbers. `seconds`: how long one takes."""

    def __init__(self, inventory: Inventory, seconds: float = 6.0) -> None:
        self.inventory, self.seconds = inventory, seconds
        inventory.ask(
            "CREATE TABLE IF NOT EXISTS verifications (ref TEXT PRIMARY KEY, called TEXT, words TEXT, key TEXT, since REAL)"
        )

    def place(self, ref: str, to: str, words: str, key: str) -> Verification:
        """Rings a phone; again with the same ref it is the same call."""
        values = (ref, to, words, key, time.time())
        self.inventory.ask("INSERT OR IGNORE INTO verifications VALUES (?, ?, ?, ?, ?)", values)
        return self.state(ref)

    def state(self, ref: str) -> Verification:
        """A call as it stands now. Raises Unavailable for an unknown one."""
        found = self.inventory.ask("SELECT called, since FROM verifications WHERE ref = ?", (ref,))
        if not found:
            raise Unavailable(404, "There is no such call.")
        to, since = str(found[0][0]), float(found[0][1])
        if time.time() - since < self.seconds:
            return Verification(ref, to, "ringing")
        if to.endswith(NEVER_ANSWERS):
            return Verification(ref, to, "not_answered")
        return Verification(ref, to, "not_pressed" if to.endswith(PRESSES_NOTHING) else "pressed")
