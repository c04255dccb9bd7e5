"""Conditions on times in place: whether it is some time of the week, in the client's time, without hours of a name."""

import re

from ...hours.typed import read_week, write_week
from ..model.condition import Condition
from ..questions.kinds import InTimes
from .base import Looks, Names, Reading, Told

_ENDS = re.compile(r"\s*(?:\b(?:and|or)\b|[),]|$)", re.IGNORECASE)


class Times:
    """Whether now lies in one of some weeks, each typed as hours are: “Tue-Thu 17:00-22:00”, or days alone for all of them."""

    unknown = ""
    merges = True

    def holds(self, condition: Condition, told: Told) -> bool:
        return told.ask(InTimes(condition.any_of)) is True

    def looks(self, condition: Condition) -> Looks:
        return Looks(weeks=frozenset(condition.any_of))

    def words(self, condition: Condition, names: Names) -> str:
        return " or ".join(map(shortened, condition.any_of)) or "no times"

    def offered(self, names: Names) -> list[str]:
        return []

    def read(self, text: str, names: Names) -> Reading:
        """The longest beginning of a text that is a week."""
        for end in sorted({match.start() for match in _ENDS.finditer(text)}, reverse=True):
            typed = text[:end].strip()
            week = read_week(typed)
            if isinstance(week, str):
                week = read_week(f"{typed} 0-24")
            if not isinstance(week, str) and any(week) and not typed.endswith(","):
                return Condition(test="times", any_of=(write_week(week),)), end
        return None

    def written(self, condition: Condition, names: Names) -> list[str]:
        return [shortened(one) for one in condition.any_of]


def shortened(week: str) -> str:
    """A week as it is said on the go: “Mon-Fri 8-12”, and days alone where they are whole; as it was where that would be read as
    another week."""
    short = re.sub(r"\b0?(\d{1,2}):00\b", r"\1", re.sub(r" 00:00-24:00(?=;|$)", "", week)).replace("; ", ", ")
    read = Times().read(short, Names())
    alike = isinstance(read, tuple) and (read[0].any_of, read[1]) == ((week,), len(short))
    return short if alike else week.replace("; ", " or ")
