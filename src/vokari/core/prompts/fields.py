"""Fields in spoken words: what stands between braces and is filled in when a caller hears it.

`{caller|neighbor}` gives the words for when it is not known; `{opens of Workshop}` names one of the client's sets of hours.
"""

import re
from dataclasses import dataclass

_FIELD = re.compile(r"\{([^{}]{1,80})\}")
_LEADING = re.compile(r"[\s.,;:!?…]+")
"""Marks that belong to what stands before them."""
_VALUE = "\x01"
"""Stands for a value, in the place of a field."""

ASKED: dict[str, str] = {
    "caller": "the caller’s first name, where it is known", "client": "the client’s name", "hours": "today’s opening times",
    "opens": "when it opens next", "holiday": "the name of today’s holiday or exception", "number": "the number that was dialed",
    "date": "today’s date",
}  # fmt: skip
"""What is known at any point of a flow: it is asked for when the words are about to be said."""
WAITING: dict[str, str] = {"place": "the caller’s place in line", "wait": "the wait, in minutes"}
"""What is known in a hold line only."""
TYPED = "typed"
"""What the caller typed last; a name of a Keypad entry or a Look-up says what is kept under it."""
BY_HOURS = frozenset({"hours", "opens", "holiday"})
"""Fields that can name a set of hours."""
RECORDING, PLAYED_BACK = "recording", "\x02"
"""What was recorded last in a call, in flows of the program’s own; and what stands for it among the parts of words."""


@dataclass(frozen=True, slots=True)
class Field:
    """A field: what it is filled in with, of which set of hours if it says so, the words for when it is not known, and as it was
    written."""

    name: str
    of: str = ""
    otherwise: str = ""
    written: str = ""


def field_of(inside: str) -> Field:
    """The field of what stands between two braces."""
    name, _, otherwise = inside.partition("|")
    name = " ".join(name.split())
    what, said, of = name.partition(" of ")
    if said and what.casefold() in BY_HOURS:
        return Field(what.casefold(), of.strip(), otherwise.strip(), inside)
    return Field(name.casefold(), "", otherwise.strip(), inside)


def parts(words: str) -> tuple[str | Field, ...]:
    """Words in order: fixed ones and fields."""
    found: list[str | Field] = []
    at = 0
    for match in _FIELD.finditer(words):
        if words[at : match.start()]:
            found.append(words[at : match.start()])
        found.append(field_of(match[1]))
        at = match.end()
    if words[at:]:
        found.append(words[at:])
    return tuple(found)


def fields_in(words: str) -> tuple[Field, ...]:
    """The fields of words, each once, in order."""
    if "{" not in words:
        return ()
    return tuple(dict.fromkeys(one for one in parts(words) if isinstance(one, Field)))


def fixed(words: str) -> tuple[str, ...]:
    """The parts of words that are the same for every caller, as their sound is made beforehand: the words that stand between fields, and
    those for when a field is not known. A part without a letter or digit is no sound of its own."""
    if "{" not in words:
        return (words.strip(),) if words.strip() else ()
    if _within_mark(words):
        return ()
    values = {one.written: _VALUE for one in fields_in(words)}
    known = [one for one in filled(words, values) if not one.startswith(_VALUE)]
    unknown = filled(words, {}) if any(one.otherwise for one in fields_in(words)) else ()
    return tuple(one for one in dict.fromkeys((*known, *unknown)) if re.search(r"\w", one))


def filled(words: str, values: dict[str, str]) -> tuple[str, ...]:
    """The parts of words with fields filled in, in order, each the words of one sound; `values` are by field as written. A field that is
    not known has the words for that, else none. Words with a field inside of mark-up are one part."""
    pieces = [one if isinstance(one, str) else values.get(one.written, "") or one.otherwise for one in parts(words)]
    if _within_mark(words):
        return ("".join(pieces),)
    found: list[str] = []
    for piece in pieces:
        marks = _LEADING.match(piece)
        if marks and found:
            found[-1] += marks[0].strip()
            piece = piece[marks.end() :]
        if piece.strip():
            found.append(piece.strip())
    return tuple(found)


def _within_mark(words: str) -> bool:
    """Whether a field stands between the tags of an element, so that the words around it cannot be said apart."""
    deep = 0
    for match in re.finditer(r"<(/?)\s*(?:say-as|emphasis|speak)\b[^>]*?(/?)>|\{", words):
        if match[0] == "{":
            if deep:
                return True
        elif not match[2]:
            deep += -1 if match[1] else 1
    return False
