"""Extensions printed in adverts: one number and one recording serve many adverts, and each call still tells which.

Codes are far apart, so that one slip of the finger (a wrong digit, two swapped, one left out) never credits another advert.
Common practice, no source.
"""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from itertools import islice
from typing import Any

LONGEST = 6
"""Digits that a menu can listen for; see the keys of `core.flows.values`."""
USUAL, FEW_USUAL = 4, 3
"""Digits of a code, and those of a client with few lead sources."""
FEW = 12
"""So many lead sources are few."""
APART = 2
"""In so many digits any two codes differ."""
FREE = "?"
LEAP, TRIED = 6_180_339, 600
"""How far apart the codes lie that are tried one after the other (it has no divisor in common with 10), and how many are compared."""


@dataclass(frozen=True, slots=True)
class Scheme:
    """How a client's codes are made: digits stand as they are, ? is a digit that is chosen; empty for the usual way."""

    typed: str = ""

    def length(self, sources: int, taken: Collection[str]) -> int:
        """How many digits the next code has: as many as the scheme or the codes there are, else as is usual."""
        if self.typed:
            return len(self.typed)
        if taken:
            return max(len(one) for one in taken)
        return USUAL if sources > FEW else FEW_USUAL


def load(raw: Mapping[str, Any]) -> Scheme:
    """The scheme as a client keeps it; one that was kept as two numbers of digits goes on with codes of that length."""
    if "topic_digits" in raw:
        return Scheme(FREE * (int(raw["topic_digits"]) + int(raw.get("advert_digits", 2))))
    return Scheme(str(raw.get("scheme", "")))


def dump(scheme: Scheme) -> dict[str, Any]:
    """The scheme JSON-ready."""
    return {"scheme": scheme.typed}


def problem_of(scheme: str) -> str:
    """Why a scheme cannot be used, as a sentence; empty when it can."""
    if not scheme:
        return ""
    if set(scheme) - set("0123456789" + FREE) or not 2 <= len(scheme) <= LONGEST:
        return f"Write 2 to {LONGEST} places, each a digit or {FREE} for a free one: 7{FREE * 3}."
    if scheme.count(FREE) < APART:
        return f"Leave at least {APART} places free: codes differ in {APART} digits."
    return ""


def differ(one: str, other: str) -> int:
    """In how many digits two codes of one length differ (Hamming distance)."""
    return sum(a != b for a, b in zip(one, other, strict=True))


def is_near(one: str, other: str) -> bool:
    """Whether one slip makes one code of another: a wrong digit, two neighbors swapped, a digit left out or typed twice. Codes of
    which one begins another are near as well."""
    if len(one) == len(other):
        if differ(one, other) < APART:
            return True
        swaps = (one[:n] + one[n + 1] + one[n] + one[n + 2 :] for n in range(len(one) - 1))
        return other in swaps
    short, long = sorted((one, other), key=len)
    return long.startswith(short) or (
        len(long) - len(short) == 1 and any(long[:n] + long[n + 1 :] == short for n in range(len(long)))
    )


def nearest(code: str, taken: Collection[str]) -> str | None:
    """A code among those taken that one slip makes of this one; None where there is none."""
    return next((one for one in sorted(taken) if is_near(code, one)), None)


def neighbors(code: str) -> Iterator[str]:
    """All codes of the same length that one slip makes of a code, and the code itself."""
    yield code
    for n, digit in enumerate(code):
        yield from (code[:n] + other + code[n + 1 :] for other in "0123456789" if other != digit)
        yield code[:n] + code[n + 1 : n + 2] + digit + code[n + 2 :]


def propose(scheme: Scheme, sources: int, taken: Collection[str], keys: Collection[str] = ()) -> str | None:
    """The next code: far from all others, with few digits twice, and if it can be beginning with none of `keys`, which menus listen
    for already. None where the scheme has no code left that no slip makes of another."""
    length = scheme.length(sources, taken)
    alike = [one for one in taken if len(one) == length]
    unlike = [one for one in taken if len(one) != length]
    near = {other for one in alike for other in neighbors(one)}
    free = (one for one in _codes(scheme.typed or FREE * length) if one not in near)
    fitting = islice((one for one in free if not any(is_near(one, other) for other in unlike)), TRIED)

    def rank(code: str) -> tuple[bool, int, int, str]:
        distance = min((differ(code, one) for one in alike), default=length)
        return (code[0] in keys or code[0] == "0", -distance, length - len(set(code)), code)

    return min(fitting, key=rank, default=None)


def _codes(pattern: str) -> Iterator[str]:
    """Every code of a pattern, once, in an order that leaps through all of them."""
    places = [n for n, one in enumerate(pattern) if one == FREE]
    size = 10 ** len(places)
    for n in range(size):
        digits = iter(f"{n * LEAP % size:0{len(places)}d}")
        yield "".join(next(digits) if one == FREE else one for one in pattern)
