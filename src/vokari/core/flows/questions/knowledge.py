"""What is known on a way through a flow: of the moment and of the number dialed the cells that are still possible, and what was told.

A dimension is something that questions look at and that does not change by asking: the moment of the call, the number that was
dialed. Its cells are chosen so that every question about it has one answer in each; a question splits what is known by its answers. A
question about nothing that is kept (whether somebody is free now) leaves it as it is. What is fixed within a call and has no cells
(what is known of the caller) is told once, and then known.
"""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any, NamedTuple, TypeVar, cast

Said = TypeVar("Said", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Moment:
    """A cell of time: a moment of it, what each set of hours says then (period or "closed", and whether by an exception), the day in
    the client's time zone, the weeks typed in place that it lies in, and by set the name of the exception that holds."""

    at: datetime
    holds: Mapping[str, tuple[str, bool]]
    day: date
    weeks: frozenset[str] = frozenset()
    exceptions: Mapping[str, str] = field(default_factory=dict)


class Cells:
    """The cells of a dimension, in which sets of them are written as bits: the lowest bit is the first cell. What a question says of
    each is worked out once."""

    def __init__(self, cells: Sequence[Any] = ()) -> None:
        self.each = tuple(cells)
        self.all = (1 << len(self.each)) - 1
        self._said: dict[Hashable, tuple[tuple[Any, int], ...]] = {}

    def split(self, question: Hashable, say: Callable[[Any], Said]) -> tuple[tuple[Said, int], ...]:
        """What a question can be answered, each with the cells in which it is; `say` answers it for one cell."""
        found = self._said.get(question)
        if found is None:
            masks: dict[Said, int] = {}
            for index, cell in enumerate(self.each):
                answer = say(cell)
                masks[answer] = masks.get(answer, 0) | 1 << index
            found = self._said[question] = tuple(masks.items())
        return found


class Knowledge(NamedTuple):
    """The cells of time and of numbers that are left, as bits, and what else was `told`, as questions and their answers."""

    moments: Cells
    numbers: Cells
    time: int
    number: int
    told: frozenset[tuple[Hashable, Hashable]] = frozenset()

    @classmethod
    def of(cls, moments: Sequence[Moment] = (), numbers: Sequence[Any] = ()) -> "Knowledge":
        """Where every cell is possible."""
        time, number = Cells(moments), Cells(numbers)
        return cls(time, number, time.all, number.all)

    def by_time(self, question: Hashable, say: Callable[[Moment], Said]) -> "list[tuple[Said, Knowledge]]":
        """What a question about the moment can be answered, each with what is known then; `say` answers it for one moment."""
        parts = self.moments.split(question, say)
        return [(answer, self._replace(time=left)) for answer, mask in parts if (left := self.time & mask)]

    def by_number(self, question: Hashable, say: Callable[[Any], Said]) -> "list[tuple[Said, Knowledge]]":
        """The same of a question about the number dialed."""
        parts = self.numbers.split(question, say)
        return [(answer, self._replace(number=left)) for answer, mask in parts if (left := self.number & mask)]

    def settle(self, question: Hashable, answers: Sequence[Said]) -> "list[tuple[Said, Knowledge]]":
        """What a question about something that stays as it is can be answered, each with what is known then: any of some answers, and
        once it was asked the same again."""
        for asked, answer in self.told:
            if asked == question:
                return [(cast(Said, answer), self)]
        return [(answer, self._replace(told=self.told | {(question, answer)})) for answer in answers]


NOTHING = Knowledge.of()
"""Where no cells are kept: questions about the moment have no answer."""
