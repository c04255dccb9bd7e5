"""Conditions before a colon, and the opening times that they may tell."""

import re

from ...hours.typed import read_week, write_week
from ..drafting import typed_conditions
from ..model.condition import CLOSED, Condition
from .heads import OPEN_WORD
from .known import Known
from .nodes import NEW_PERIOD, Read, Wrong


class Sorting:
    """Reads conditions for one text, whose opening times `found` may have."""

    def __init__(self, known: Known, found: Read) -> None:
        self.known, self.found = known, found

    def read(self, words: str) -> tuple[Condition | str, str, str] | None:
        """The condition that a line begins with (“otherwise” for all others), the name it gives its exit, and what stands behind; None
        where it begins with none."""
        if OPEN_WORD.match(words) and ":" not in re.sub(r"\d:\d", "", words):
            words += ":"
        for colon in (one.start() for one in re.finditer(r":(?=\s|$)", words)):
            head, rest = words[:colon].strip(), words[colon + 1 :].strip()
            named = re.search(r'\s+as\s+"?([^"]{1,60})"?$', head)
            plain = head[: named.start()] if named else head
            if plain.casefold() in ("otherwise", "else"):
                return "otherwise", "", rest
            when = self._open(plain) or typed_conditions.read(plain, self.known.names)
            if isinstance(when, Condition):
                return when, named[1].strip() if named else "", rest
        return None

    def _open(self, plain: str) -> Condition | None:
        """“open” is any time that is not closed, by the client's first set of hours, whose times may stand behind it."""
        match = OPEN_WORD.match(plain)
        if match is None or not self.known.hours or (match[1] and isinstance(read_week(match[1]), str)):
            return None
        if match[1]:
            self.same_hours(match[1])
        closed = Condition(test="period", of=next(iter(self.known.hours)), any_of=(CLOSED,))
        return Condition(test="not", parts=(closed,))

    def same_hours(self, typed: str) -> None:
        """Raises Wrong where times that were typed are others than those of the client's hours."""
        week = read_week(typed, NEW_PERIOD)
        if isinstance(week, str):
            raise Wrong(week)
        if self.found.hours is not None:
            same, has = week == self.found.hours.week, write_week(self.found.hours.week)
        else:
            key = next(iter(self.known.hours))
            has = self.known.weeks.get(key, "")
            same = write_week(week) == has
        if not same:
            raise Wrong(
                f"The opening times are {has or 'none yet'}: change them under Hours, or leave the times out here."
            )
