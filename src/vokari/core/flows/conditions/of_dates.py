"""Conditions on dates: whether today lies in some ranges, in the client's time."""

import re

from ..model.condition import Condition
from ..model.dates import is_range, range_words, read_range, typed_range
from ..questions.kinds import InDates
from .base import Looks, Names, Reading, Told

_DATES = re.compile(r"(\d{4}-\d{2}-\d{2})(?:\s*(?:to|until|-|–|/)\s*(\d{4}-\d{2}-\d{2}))?", re.IGNORECASE)


class Dates:
    """Whether today is one of some days, of one year or of every year."""

    unknown = ""
    merges = True

    def holds(self, condition: Condition, told: Told) -> bool:
        return told.ask(InDates(condition.any_of)) is True

    def looks(self, condition: Condition) -> Looks:
        return Looks(ranges=frozenset(condition.any_of))

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(map(range_words, condition.any_of)) or "no dates"

    def offered(self, names: Names) -> list[str]:
        return []

    def read(self, text: str, names: Names) -> Reading:
        match = _DATES.match(text)
        if match is None:
            typed = typed_range(text)
            return (Condition(test="dates", any_of=(typed[0],)), typed[1]) if isinstance(typed, tuple) else typed
        span = f"{match.group(1)}/{match.group(2)}" if match.group(2) else match.group(1)
        if read_range(span) is None:
            return f"“{match.group(0)}” are no days in order. Write them as 2026-12-24 to 2026-12-26."
        return Condition(test="dates", any_of=(span,)), match.end()

    def written(self, condition: Condition, names: Names) -> list[str]:
        """Days of one year as ISO 8601 writes them, those of every year by the names of their months."""
        return [
            range_words(part) if is_range(part) and read_range(part) is None else part.replace("/", " to ")
            for part in condition.any_of
        ]
