"""How long a phone is rung where nobody chose, and how often it then rings.

Common practice, no source: a phone is given up before its own mailbox answers, which is after 18 to 24 seconds in North America
and after 15 to 30 on mobiles in the UK. The cadences (one ring every 6 seconds, and every 3) are those of the national tones.
"""

from math import ceil

from .numbering import calling_code

USUAL = {"1": 18, "44": 15}
"""Ring seconds by calling code."""
ELSEWHERE = 18
CADENCE = {"1": 6, "44": 3}
"""Seconds from the start of one ring to that of the next, by calling code."""
BEFORE = 2
"""So many seconds before its own mailbox answers a phone is given up."""


def usual_seconds(to: str, mailbox_after: float | None = None) -> int:
    """How long a phone (a number as dialed, or a SIP address) rings unless somebody says how long: until shortly before its
    own mailbox answers, where that is known, else as is usual in its country."""
    if mailbox_after is not None:
        return max(1, int(mailbox_after - BEFORE))
    return USUAL.get(calling_code(to), ELSEWHERE)


def in_rings(seconds: int, to: str = "") -> str:
    """A length of time as the person hears it: the rings that begin in it, then the seconds."""
    rings = ceil(seconds / CADENCE.get(calling_code(to), 6))
    return f"{rings} ring{'' if rings == 1 else 's'}, {seconds} s"
