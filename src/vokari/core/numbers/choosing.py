"""Choosing a number for each of several lead sources by a client's rule: alike, or clearly unlike."""

from collections import Counter
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from . import memorable, numbering

Likeness = Literal["alike", "unlike", "any"]
LIKENESSES: dict[str, str] = {
    "unlike": "clearly unlike, so that two adverts cannot be confused",
    "alike": "look-alike, in a row",
    "any": "whatever is easiest to remember",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Choice:
    """A number chosen, with the reason in words; `doubtful` when the rule could not quite be kept."""

    e164: str
    reason: str
    doubtful: bool = False


def confusable(first: str, second: str) -> bool:
    """Whether two numbers are easily taken for each other: one digit differs, or two neighbours changed places."""
    if len(first) != len(second):
        return False
    places = [index for index, (a, b) in enumerate(zip(first, second, strict=True)) if a != b]
    if len(places) == 1:
        return True
    return (
        len(places) == 2
        and places[1] == places[0] + 1
        and first[places[0]] == second[places[1]]
        and first[places[1]] == second[places[0]]
    )


def choose(free: Collection[str], count: int, likeness: Likeness, others: Collection[str] = ()) -> list[Choice]:
    """Up to `count` of the free E.164 numbers. `others` are the client's numbers, which adverts show already."""
    match likeness:
        case "alike":
            return _alike(free, count)
        case "unlike":
            return list(_unlike(free, count, others))
    best = sorted(free, key=lambda e164: (-memorable.score(e164), e164))[:count]
    return [Choice(e164, _memorable(e164) or "the next free one") for e164 in best]


def _memorable(e164: str) -> str:
    strong = [one.reason for one in memorable.patterns(e164) if one.weight >= memorable.WORTH_TELLING]
    return strong[0] if strong else ""


def _alike(free: Collection[str], count: int) -> list[Choice]:
    """The numbers that lie closest together: the window of the sorted ones with the smallest span."""
    ordered = sorted(free, key=lambda e164: (len(e164), e164))
    if not ordered:
        return []
    count = min(count, len(ordered))
    windows = [ordered[index : index + count] for index in range(len(ordered) - count + 1)]
    best = min(windows, key=lambda window: int(window[-1]) - int(window[0]))
    in_row = all(int(b) - int(a) == 1 for a, b in pairwise(best))
    row = f"{_end(best[0])} to {_end(best[-1])} " + ("in a row" if in_row else "close together")
    return [Choice(e164, row if count > 1 else "the only one") for e164 in best]


def slips(e164: str) -> Iterator[str]:
    """Every number that is one slip away: one digit changed, or two neighbours exchanged."""
    for place, digit in enumerate(e164):
        if digit == "+":
            continue
        for other in "0123456789":
            if other != digit:
                yield e164[:place] + other + e164[place + 1 :]
        following = e164[place + 1 : place + 2]
        if following and following != digit:
            yield e164[:place] + following + digit + e164[place + 2 :]


def _unlike(free: Collection[str], count: int, others: Collection[str]) -> Iterator[Choice]:
    """The most memorable ones, each clearly unlike all chosen before and all that the client has."""
    left = sorted(free, key=lambda e164: (-memorable.score(e164), e164))
    against = list(others)
    close = Counter(slip for other in others for slip in slips(other))
    for _ in range(min(count, len(left))):
        clear = next((one for one in left if not close[one]), None)
        pick = clear or min(left, key=lambda one: (close[one], one))
        left.remove(pick)
        if clear:
            near = _memorable(pick)
            unlike = "unlike every other number" if against else "the first"
            yield Choice(pick, f"{near}, {unlike}" if near else unlike)
        else:
            twin = next(other for other in against if confusable(pick, other))
            yield Choice(pick, f"close to {_end(twin)}: no clearly unlike number is left here", doubtful=True)
        against.append(pick)
        close.update(slips(pick))


def _end(e164: str) -> str:
    return numbering.national_digits(e164)[-7:-4] + "-" + e164[-4:]
