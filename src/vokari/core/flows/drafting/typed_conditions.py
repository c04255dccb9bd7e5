"""Conditions as typed text: "Front desk and not exception", "closed or 2026-12-24 to 2026-12-26", read and written."""

import re

from ..conditions.base import Names
from ..conditions.tests import TESTS
from ..model.condition import Condition

_WORD = re.compile(r"(and|or|not)\b|[(),]", re.IGNORECASE)
LONGEST = 400


class _Unread(ValueError):
    """Text that is no condition; the sentence says what."""


def offered(names: Names) -> list[str]:
    """The words to choose from, each meaning once, the short form of it."""
    return [text for test in TESTS.values() for text in test.offered(names)]


def read(text: str, names: Names) -> Condition | str:
    """The condition that a text tells of, or a sentence that says what was not understood."""
    if len(text) > LONGEST:
        return f"A condition takes at most {LONGEST} letters."
    try:
        return _Reader(text, names).whole()
    except _Unread as wrong:
        return str(wrong)


def write(condition: Condition, names: Names) -> str:
    """The condition as `read` reads it."""

    def said(one: Condition, inner: bool) -> str:
        match one.test:
            case "not":
                text = " or ".join(said(part, len(one.parts) == 1) for part in one.parts)
                return f"not ({text})" if len(one.parts) > 1 else f"not {text}"
            case "all" | "any":
                text = (" and " if one.test == "all" else " or ").join(said(part, True) for part in one.parts)
                return f"({text})" if inner else text
        parts = TESTS[one.test].written(one, names)
        return f"({' or '.join(parts)})" if inner and len(parts) > 1 else " or ".join(parts)

    return said(condition, False)


class _Reader:
    """Reads from left to right: or binds least, then and, then not. A comma is or, but between days and times of the week: “Aug, Mon-Fri
    8-12” is both."""

    def __init__(self, text: str, names: Names) -> None:
        self.text = text
        self.names = names
        self.at = 0
        self.depth = 0

    def whole(self) -> Condition:
        if not self.text.strip():
            raise _Unread(
                "Say when this exit is taken: a period of the hours, closed, a date, first call, within an area."
            )
        found = self.either()
        if self.peek():
            raise _Unread(f"“{self.text[self.at :].strip()}” is too much: join conditions by and, or, not.")
        return found

    def either(self) -> Condition:
        parts = [self.both()]
        while True:
            if self.take("or"):
                parts.append(self.both())
            elif self.take(","):
                following = self.both()
                if {parts[-1].test, following.test} == {"dates", "times"}:
                    parts[-1] = Condition(test="all", parts=(parts[-1], following))
                else:
                    parts.append(following)
            else:
                return _either(parts)

    def both(self) -> Condition:
        parts = [self.single()]
        while self.take("and"):
            parts.append(self.single())
        return parts[0] if len(parts) == 1 else Condition(test="all", parts=tuple(parts))

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
        for test in TESTS.values():
            found = test.read(rest, self.names)
            if isinstance(found, str):
                raise _Unread(found)
            if found is not None:
                condition, length = found
                self.at += length
                return condition
        word = rest.split(" and ")[0].split(" or ")[0].strip()[:40]
        raise _Unread(
            f"“{word or 'Nothing'}” is no condition that is known here: a period of the hours, closed, a date, first call, called 3 times in 30 days, in Maryland."
        )

    def peek(self) -> str:
        return self.text[self.at :].strip()

    def take(self, word: str) -> bool:
        rest = self.text[self.at :].lstrip()
        match = _WORD.match(rest)
        if match and match.group(0).casefold() == word:
            self.at = len(self.text) - len(rest) + match.end()
            return True
        return False


def _either(parts: list[Condition]) -> Condition:
    """One condition of several joined by or; several of one test about one thing become one with more values."""
    merged: list[Condition] = []
    for part in parts:
        alone = part.model_copy(update={"any_of": ()})
        like = (i for i, one in enumerate(merged) if one.any_of and one.model_copy(update={"any_of": ()}) == alone)
        at = next(like, None) if part.any_of and part.test in TESTS and TESTS[part.test].merges else None
        if at is None:
            merged.append(part)
        else:
            any_of = tuple(dict.fromkeys((*merged[at].any_of, *part.any_of)))
            merged[at] = part.model_copy(update={"any_of": any_of})
    return merged[0] if len(merged) == 1 else Condition(test="any", parts=tuple(merged))
