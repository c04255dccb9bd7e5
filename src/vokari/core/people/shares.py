"""Weighted shares: whose turn it is, so that nobody is ever a whole call away from their share.

The algorithm is Tijdeman's for the chairman assignment problem (R. Tijdeman, "The chairman assignment problem", Discrete
Mathematics 32 (1980), 323-330; from memory): of those whose next call is due, the one whose deadline is the earliest.
With k members whose shares add up to one, after any n calls each has n times their share, give or take
1 - 1 / (2k - 2) of a call.
"""

from collections.abc import Mapping
from fractions import Fraction


def next_turn(shares: Mapping[str, Fraction], counts: Mapping[str, int]) -> str | None:
    """The member who gets the next call, by the calls that each has had under these very shares; None when nobody has a
    share. Deterministic: of two who are equal the first in `shares`."""
    whole = sum(shares.values())
    wanted = {key: share / whole for key, share in shares.items() if share > 0} if whole else {}
    if len(wanted) < 2:
        return next(iter(wanted), None)
    turn = sum(counts.get(key, 0) for key in wanted) + 1
    slack = Fraction(1, 2 * len(wanted) - 2)
    behind = {key: turn * share - counts.get(key, 0) for key, share in wanted.items()}
    due = [key for key in wanted if behind[key] >= slack]
    return min(due, key=lambda key: (1 - slack - behind[key]) / wanted[key])


def order(shares: Mapping[str, Fraction], counts: Mapping[str, int]) -> list[str]:
    """Everybody, the one whose turn it is first, then those who are furthest behind their share; those without a share
    come last."""
    first = next_turn(shares, counts)
    if first is None:
        return list(shares)
    whole = sum(shares.values())
    turn = sum(counts.get(key, 0) for key in shares) + 1
    rest = [key for key in shares if key != first]
    rest.sort(key=lambda key: counts.get(key, 0) - turn * shares[key] / whole if shares[key] else Fraction(10**9))
    return [first, *rest]
