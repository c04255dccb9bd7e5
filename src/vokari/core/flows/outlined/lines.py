"""A text as lines with their depth: indents of any kind, bullets and counting numbers of a list are told from what is said.

Spaces and tabs may be mixed: a line is one deeper than the nearest line above it that has less indent.
"""

import re
import unicodedata
from dataclasses import dataclass

MOST_LINES, MOST_DEPTH, LONGEST_LINE = 2000, 50, 5000
TAB = 4
INDENT = " " * TAB
"""What a level is written with."""
_BULLET = re.compile(r"^(?:[-–—•◦▪‣·]\s+(?=\S)|\d+(?:\.\d+)+[.)]?\s+)")
_UNSEEN = ("Cc", "Cf", "Cs")


@dataclass(frozen=True, slots=True)
class Line:
    """One line: its place in the text (from 0), how deep it stands, and its words."""

    at: int
    depth: int
    words: str


def lines(text: str) -> list[Line]:
    """The lines of a text that say something, at most MOST_LINES; never fails."""
    found: list[Line] = []
    indents: list[int] = []
    for at, raw in enumerate(text.replace("\r\n", "\n").replace("\r", "\n").split("\n")[:MOST_LINES]):
        plain = "".join(
            one if one == "\t" or unicodedata.category(one) not in _UNSEEN else "" for one in raw
        ).expandtabs(TAB)
        words = plain.strip()
        if not words:
            continue
        width = len(plain) - len(plain.lstrip())
        while indents and width < indents[-1]:
            indents.pop()
        if not indents or width > indents[-1]:
            indents.append(width)
        found.append(
            Line(at, min(len(indents) - 1, MOST_DEPTH), (_BULLET.sub("", words, count=1) or words)[:LONGEST_LINE])
        )
    return found
