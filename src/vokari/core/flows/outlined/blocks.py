"""A line of a flow with all that hangs below it, as outlines on paper are put in order: moved among its neighbours, put under the line
before it or beside the line above it, doubled, and pasted behind another.

Lines are those of `writing`. What stands under a menu has a key: one that comes there without gets the next that is free.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from .heads import EXIT_WORDS, KEY, is_head
from .lines import INDENT
from .lines import lines as lines_of
from .quoting import unquoted
from .statements import parts_of

Move = Literal["up", "down", "deeper", "less_deep", "double"]
_KEYS = [*"123456789", "0"]


class Stuck(ValueError):
    """Why a line cannot go there, as a sentence."""


@dataclass(frozen=True, slots=True)
class Put:
    """The lines after a move, and the line at which the block stands now."""

    lines: list[str]
    at: int


@dataclass(frozen=True, slots=True)
class Outline:
    """Lines, and which of them go on from a line above at their depth that begins with the name of an exit: those go along with it."""

    lines: list[str]
    goes_on: frozenset[int] = frozenset()

    def depth(self, at: int) -> int:
        """How deep a line stands."""
        return _depth(self.lines[at])

    def end(self, at: int) -> int:
        """The line behind a block."""
        end = self.below(at)
        while at not in self.goes_on and end in self.goes_on and self.depth(end) == self.depth(at):
            end = self.below(end)
        return end

    def below(self, at: int) -> int:
        """The line behind a line and those deeper below it."""
        depth = self.depth(at)
        return next((n for n in range(at + 1, len(self.lines)) if self.depth(n) <= depth), len(self.lines))

    def before(self, at: int) -> int | None:
        """The neighbour before a block; None where it is the first."""
        depth = self.depth(at)
        for n in range(at - 1, -1, -1):
            if self.depth(n) < depth:
                return None
            if self.depth(n) == depth and (at in self.goes_on or n not in self.goes_on):
                return n if (at in self.goes_on) == (n in self.goes_on) else None
        return None

    def after(self, at: int) -> int | None:
        """The neighbour behind a block; None where it is the last."""
        end = self.end(at)
        alike = (
            end < len(self.lines)
            and self.depth(end) == self.depth(at)
            and (at in self.goes_on) == (end in self.goes_on)
        )
        return end if alike else None

    def above(self, at: int) -> int | None:
        """The line that a block hangs below."""
        return next((n for n in range(at - 1, -1, -1) if self.depth(n) < self.depth(at)), None)

    def block(self, at: int) -> list[str]:
        """A line and those that hang below it, without the indent of the first."""
        return [one[len(INDENT) * self.depth(at) :] for one in self.lines[at : self.end(at)]]


def moved(outline: Outline, at: int, move: Move) -> Put:
    """The lines once the block at a line was moved. Raises Stuck."""
    match move:
        case "up":
            before = outline.before(at)
            if before is None:
                raise Stuck("It is the first there already.")
            return _swapped(outline, before, at, before)
        case "down":
            after = outline.after(at)
            if after is None:
                raise Stuck("It is the last there already.")
            return _swapped(outline, at, after, at + outline.end(after) - after)
        case "deeper":
            before = outline.before(at)
            if before is None:
                raise Stuck("Nothing stands before it that it could hang below.")
            return put(outline, at, before, below=True)
        case "less_deep":
            above = outline.above(at)
            if above is None:
                raise Stuck("It hangs below nothing.")
            return put(outline, at, above, below=False)
        case "double":
            return pasted(outline, at, "\n".join(outline.block(at)), keyed=at not in outline.goes_on)


def put(outline: Outline, at: int, to: int, *, below: bool) -> Put:
    """The lines with a block behind another at its depth, or `below` the line of that one, as the last there."""
    lines, end = outline.lines, outline.end(at)
    if at <= to < end:
        raise Stuck("A row does not go below itself.")
    owner, place = to if below else outline.above(to), outline.below(to) if below else outline.end(to)
    gone = end - at
    rest = [*lines[:at], *lines[end:]]
    fresh = _fitted(outline.block(at), rest, owner if owner is None or owner < at else owner - gone)
    place = at if at <= place <= end else place - gone if place > end else place
    return Put([*rest[:place], *fresh, *rest[place:]], place)


def without(outline: Outline, at: int) -> Put:
    """The lines without the block at a line; the place is that of the line before it."""
    return Put([*outline.lines[:at], *outline.lines[outline.end(at) :]], max(0, at - 1))


def pasted(outline: Outline, at: int | None, text: str, *, keyed: bool = True) -> Put:
    """The lines with a text behind the block at a line and at its depth; at the end where `at` is None. Indents, bullets and counting
    numbers of the text are read as `lines` reads them. `keyed` gives keys to what comes below a menu."""
    read, lines = lines_of(text), outline.lines
    if not read:
        raise Stuck("There is nothing to paste: copy a row, or lines of text, first.")
    least = min(one.depth for one in read)
    fresh = [INDENT * (one.depth - least) + one.words for one in read]
    if at is None:
        return Put([*lines, *fresh], len(lines))
    place = outline.end(at)
    return Put([*lines[:place], *_fitted(fresh, lines, outline.above(at), keyed=keyed), *lines[place:]], place)


def _depth(line: str) -> int:
    return (len(line) - len(line.lstrip(" "))) // len(INDENT)


def _swapped(outline: Outline, upper: int, lower: int, at: int) -> Put:
    lines, end = outline.lines, outline.end(lower)
    return Put([*lines[:upper], *lines[lower:end], *lines[upper:lower], *lines[end:]], at)


def _children(lines: Sequence[str], at: int | None) -> list[str]:
    """The lines right below a line, without their indent."""
    if at is None:
        return []
    depth = _depth(lines[at]) + 1
    end = next((n for n in range(at + 1, len(lines)) if _depth(lines[n]) < depth), len(lines))
    return [one.lstrip(" ") for one in lines[at + 1 : end] if _depth(one) == depth]


def _fitted(fresh: list[str], lines: Sequence[str], owner: int | None, *, keyed: bool = True) -> list[str]:
    """A block with the depth of what hangs below an owner, and with keys as it asks for: free ones below a menu, none elsewhere."""
    around = _children(lines, owner)
    taken = {match[1] for one in around if (match := KEY.match(one))}
    head = lines[owner].strip() if owner is not None else ""
    asks = bool(re.search(r"(?:^|:\s|\bthen\s)(?:ask|asks|menu)\b", head))
    opens = bool(head) and not around and bool(KEY.match(head)) and ":" not in head
    headed = (n for n, one in enumerate(fresh) if not n or KEY.match(one) or re.match(r'[^\s:"][^:"]{0,59}:\s', one))
    own = {n for n in headed if keyed}
    found = []
    depth = _depth(lines[owner]) + 1 if owner is not None else 0
    for n, one in enumerate(fresh):
        if n in own and (taken or asks or opens):
            one = _keyed(one, taken)
        elif n in own:
            one = _without_key(one)
        found.append(INDENT * depth + one)
    return found


def _keyed(line: str, taken: set[str]) -> str:
    match = KEY.match(line)
    if match is None and is_head(line):
        name, _, said = line.partition(":")
        if name.strip().casefold() in (*EXIT_WORDS["menu"], "else"):
            return line
        line = said.strip() or line
    key, rest = (match[1], match[2]) if match else ("", line)
    if not key or key in taken:
        key = next((one for one in _KEYS if one not in taken), "")
        if not key:
            raise Stuck("All ten keys of that menu are in use.")
    taken.add(key)
    return f"{key} {rest}"


def _without_key(line: str) -> str:
    """A line without its key, what it was for as the name of the step."""
    match = KEY.match(line)
    if match is None:
        return line
    named = re.match(r'([^:"]{1,60}):\s+(.+)$', match[2])
    if named is None:
        return match[2] or line
    name, said = named[1].strip(), named[2]
    parts = parts_of(said)
    quoted = unquoted(said)
    said = f"say {said}" if quoted is not None and said[:1] == '"' else said
    return said if len(parts) > 1 or re.search(r"\bas\s", said) else f"{said} as {name}"
