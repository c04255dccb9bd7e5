"""What is wrong with what a user gave: values, with words and a place, rather than exceptions."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Problem:
    """What is wrong with what a user gave: the field (empty for the whole) and a sentence."""

    field: str
    sentence: str


Problems = list[Problem]


@dataclass(frozen=True, slots=True)
class Refused:
    """What is wrong, where the use case gives a list when all is well: an empty one means that there was nothing to do."""

    problems: Problems


def refused(field: str, sentence: str) -> Refused:
    """One thing that is wrong."""
    return Refused([Problem(field, sentence)])


class Withdrawn(Exception):
    """A use case found in the middle of its transaction that it cannot be done; nothing of it is kept."""

    def __init__(self, problems: Problems) -> None:
        super().__init__(problems)
        self.problems = problems


Row = dict[str, Any]
