"""Two texts that were made of one, laid over each other: nobody's line is lost."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher


@dataclass(frozen=True, slots=True)
class _Change:
    """Lines `start` to `end` of the text that both began from, and what one side put in their place."""

    start: int
    end: int
    lines: tuple[str, ...]


def merged(was: Sequence[str], theirs: Sequence[str], mine: Sequence[str]) -> list[str]:
    """The text with the changes of both sides. Where both changed the same lines, theirs come first and those of mine that they do
    not have follow."""
    sides = [list(_changes(was, theirs)), list(_changes(was, mine))]
    found: list[str] = []
    at = 0
    while any(sides):
        start = min(side[0].start for side in sides if side)
        end = start
        groups: list[list[_Change]] = [[], []]
        while group := [n for n in (0, 1) if sides[n] and (sides[n][0].start < end or sides[n][0].start == start)]:
            for n in group:
                end = max(end, sides[n][0].end)
                groups[n].append(sides[n].pop(0))
        found += was[at:start]
        first, second = (_laid(was, start, end, group) for group in groups)
        if not groups[0] or not groups[1] or first == second:
            found += first if groups[0] else second
        else:
            before = was[start:end]
            found += [*first, *(line for line in second if line not in first and line not in before)]
        at = end
    return [*found, *was[at:]]


def _changes(was: Sequence[str], now: Sequence[str]) -> Iterator[_Change]:
    for what, start, end, first, last in SequenceMatcher(None, was, now, autojunk=False).get_opcodes():
        if what != "equal":
            yield _Change(start, end, tuple(now[first:last]))


def _laid(was: Sequence[str], start: int, end: int, changes: Sequence[_Change]) -> list[str]:
    """The lines `start` to `end` with the changes of one side."""
    found: list[str] = []
    at = start
    for one in changes:
        found += [*was[at : one.start], *one.lines]
        at = one.end
    return [*found, *was[at:end]]
