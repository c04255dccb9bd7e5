"""Conditions as typed text: "Front desk and not exception", "closed or 2026-12-24 to 2026-12-26", read and written."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..model.conditions import CLOSED, Names, read_range
from ..model.values import Condition

_DATES = re.compile(r"(\d{4}-\d{2}-\d{2})(?:\s*(?:to|until|-|–|/)\s*(\d{4}-\d{2}-\d{2}))?", re.IGNORECASE)
_WORD = re.compile(r"(and|or|not)\b|[(),]", re.IGNORECASE)
LONGEST = 400


@dataclass(frozen=True, slots=True)
class _Atom:
    """A word of the language: what it stands for."""

    test: str
    of: str
    value: str


class _Unread(ValueError):
    """Text that is no condition; the sentence says what."""


def atoms(names: Names) -> dict[str, _Atom]:
    """Every name that can stand in a condition. A period is named alone where no other set has one of its name."""
    found: dict[str, _Atom] = {}
    counts: dict[str, int] = {}
    for known in names.values():
        for name in known.periods.values():
            counts[name.casefold()] = counts.get(name.casefold(), 0) + 1
    for index, (key, known) in enumerate(names.items()):
        for period, name in known.periods.items():
            alone = counts[name.casefold()] == 1 and name.casefold() not in ("and", "or", "not", CLOSED, "exception")
            found[name if alone else f"{known.name}: {name}"] = _Atom("period", key, period)
            found.setdefault(f"{known.name}: {name}", _Atom("period", key, period))
        for word, test, value in ((CLOSED, "period", CLOSED), ("exception", "exception", "")):
            found[f"{known.name}: {word}"] = _Atom(test, key, value)
            if index == 0:
                found[word] = _Atom(test, key, value)
    return found


def offered(names: Names) -> list[str]:
    """The words to choose from, each meaning once, the short form of it."""
    shortest: dict[_Atom, str] = {}
    for text, atom in atoms(names).items():
        if atom not in shortest or len(text) < len(shortest[atom]):
            shortest[atom] = text
    return list(shortest.values())


def read(text: str, names: Names) -> Condition | str:
    """The condition that a text tells of, or a sentence that says what was not understood."""
    if len(text) > LONGEST:
        return f"A condition takes at most {LONGEST} letters."
    reader = _Reader(text, atoms(names))
    try:
        found = reader.whole()
    except _Unread as wrong:
        return str(wrong)
    return found


def write(condition: Condition, names: Names) -> str:
    """The condition as `read` reads it."""
    short: Mapping[_Atom, str] = {atoms(names)[text]: text for text in offered(names)}

    def said(one: Condition, inner: bool) -> str:
        match one.test:
            case "period" | "exception":
                values = one.any_of if one.test == "period" else ("",)
                parts = [short.get(_Atom(one.test, one.of or "", value), "a period that is gone") for value in values]
                text = " or ".join(parts)
                return f"({text})" if inner and len(parts) > 1 else text
            case "dates":
                text = " or ".join(part.replace("/", " to ") for part in one.any_of)
                return f"({text})" if inner and len(one.any_of) > 1 else text
            case "not":
                text = " or ".join(said(part, len(one.parts) == 1) for part in one.parts)
                return f"not ({text})" if len(one.parts) > 1 else f"not {text}"
            case "all" | "any":
                word = " and " if one.test == "all" else " or "
                text = word.join(said(part, True) for part in one.parts)
                return f"({text})" if inner else text
        return one.test

    return said(condition, False)


class _Reader:
    """Reads from left to right: or binds least, then and, then not."""

    def __init__(self, text: str, known: Mapping[str, _Atom]) -> None:
        self.text = text
        self.at = 0
        self.known = sorted(((name.casefold(), atom) for name, atom in known.items()), key=lambda pair: -len(pair[0]))
        self.depth = 0

    def whole(self) -> Condition:
        if not self.text.strip():
            raise _Unread("Say when this exit is taken, for instance a period, closed, exception, or dates.")
        found = self.either()
        if self.peek():
            raise _Unread(f"“{self.text[self.at :].strip()}” is too much: join conditions by and, or, not.")
        return found

    def either(self) -> Condition:
        parts = [self.both()]
        while self.take("or") or self.take(","):
            parts.append(self.both())
        return _joined("any", parts)

    def both(self) -> Condition:
        parts = [self.single()]
        while self.take("and"):
            parts.append(self.single())
        return _joined("all", parts)

    def single(self) -> Condition:
        self.depth += 1
        if self.depth > 40:
            raise _Unread("This condition is nested too deeply.")
        if self.take("not"):
            return Condition(test="not", parts=(self.single(),))
        if self.take("("):
            inner = self.either()
            if not self.take(")"):
                raise _Unread("A bracket is not closed.")
            return inner
        return self.atom()

    def atom(self) -> Condition:
        rest = self.text[self.at :].lstrip()
        self.at = len(self.text) - len(rest)
        dates = _DATES.match(rest)
        if dates:
            self.at += dates.end()
            span = f"{dates.group(1)}/{dates.group(2)}" if dates.group(2) else dates.group(1)
            if read_range(span) is None:
                raise _Unread(f"“{dates.group(0)}” are no days in order. Write them as 2026-12-24 to 2026-12-26.")
            return Condition(test="dates", any_of=(span,))
        folded = rest.casefold()
        for name, atom in self.known:
            if folded.startswith(name) and not folded[len(name) : len(name) + 1].isalnum():
                self.at += len(name)
                if atom.test == "period":
                    return Condition(test="period", of=atom.of, any_of=(atom.value,))
                return Condition(test="exception", of=atom.of)
        word = rest.split(" and ")[0].split(" or ")[0].strip()[:40]
        raise _Unread(f"“{word or 'Nothing'}” is no period of this client’s hours, nor closed, exception or a date.")

    def peek(self) -> str:
        return self.text[self.at :].strip()

    def take(self, word: str) -> bool:
        rest = self.text[self.at :].lstrip()
        match = _WORD.match(rest)
        if match and match.group(0).casefold() == word:
            self.at = len(self.text) - len(rest) + match.end()
            return True
        return False


def _joined(test: str, parts: list[Condition]) -> Condition:
    """One condition of several; periods of one set, and dates, that are joined by or become one."""
    if test == "any":
        merged: list[Condition] = []
        for part in parts:
            before = next(
                (i for i, one in enumerate(merged) if one.test == part.test and one.of == part.of and part.test in ("period", "dates")),
                None,
            )  # fmt: skip
            if before is None:
                merged.append(part)
            else:
                any_of = tuple(dict.fromkeys((*merged[before].any_of, *part.any_of)))
                merged[before] = part.model_copy(update={"any_of": any_of})
        parts = merged
    if len(parts) == 1:
        return parts[0]
    return Condition(test="any" if test == "any" else "all", parts=tuple(parts))
