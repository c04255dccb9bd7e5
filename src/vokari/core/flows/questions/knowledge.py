"""What is known on a way through a flow: for each dimension the cells that are still possible.

A dimension is something that questions look at and that does not change by asking, such as the moment. Its cells are chosen so
that every question about it has one answer in each; a question splits what is known by its answers. A question about nothing
that is kept (whether somebody is free now) leaves it as it is. What is fixed within a call and has no cells (what is known of the
caller) is told once, and then known.
"""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from typing import Any, TypeVar, cast
from zoneinfo import ZoneInfo

from ...hours.in_place import week_table
from ...hours.timetable import Timetable
from ..model.dates import in_ranges, spans

TIME = "time"
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


@dataclass(frozen=True, slots=True)
class Knowledge:
    """The cells of every dimension, and of those that were asked about the ones that are left, by index; and what else was `told`, as
    questions and their answers."""

    cells: Mapping[str, tuple[Any, ...]]
    left: tuple[tuple[str, frozenset[int]], ...] = ()
    told: frozenset[tuple[Hashable, Hashable]] = frozenset()

    def __hash__(self) -> int:
        return hash((self.left, self.told))

    def possible(self, dimension: str) -> frozenset[int]:
        """The cells of a dimension that are left."""
        return dict(self.left).get(dimension, frozenset(range(len(self.cells.get(dimension, ())))))

    def split(self, dimension: str, say: Callable[[Any], Said]) -> "list[tuple[Said, Knowledge]]":
        """What a question about a dimension can be answered, each with what is known then; `say` answers it for one cell."""
        found: dict[Said, set[int]] = {}
        for index in sorted(self.possible(dimension)):
            found.setdefault(say(self.cells[dimension][index]), set()).add(index)
        others = tuple(pair for pair in self.left if pair[0] != dimension)
        return [
            (answer, replace(self, left=tuple(sorted((*others, (dimension, frozenset(cells)))))))
            for answer, cells in found.items()
        ]

    def settle(self, question: Hashable, answers: Sequence[Said]) -> "list[tuple[Said, Knowledge]]":
        """What a question about something that stays as it is can be answered, each with what is known then: any of some answers, and
        once it was asked the same again."""
        for asked, answer in self.told:
            if asked == question:
                return [(cast(Said, answer), self)]
        return [(answer, replace(self, told=self.told | {(question, answer)})) for answer in answers]


NOTHING = Knowledge({})
"""Where no dimension is kept: questions about one have no answer."""


def moments(
    tables: Mapping[str, Timetable], zone: ZoneInfo, ranges: tuple[str, ...], since: datetime, until: datetime, weeks: tuple[str, ...] = ()
) -> tuple[Moment, ...]:  # fmt: skip
    """The cells of time between two instants for some sets of hours, ranges of dates and weeks typed in place, in order of their first
    moment: stretches in which all of them say the same, each kind of stretch once. `zone` is the client's."""
    first, last = since.astimezone(zone).date(), until.astimezone(zone).date()
    days = {
        edge for text in ranges for begins, ends in spans(text, first, last) for edge in (begins, ends + timedelta(days=1))
    }  # fmt: skip
    edges = {since, *(datetime(day.year, day.month, day.day, tzinfo=zone).astimezone(since.tzinfo) for day in days)}
    typed = {text: table for text in weeks if (table := week_table(text, zone)) is not None}
    for table in (*tables.values(), *typed.values()):
        edges |= {stretch.since for stretch in table.stretches(since, until)}
    found: dict[tuple[object, ...], Moment] = {}
    for at in sorted(edge for edge in edges if since <= edge < until):
        standing = {key: table.at(at) for key, table in tables.items()}
        holds = {key: (one.period, one.is_exception) for key, one in standing.items()}
        exceptions = {key: one.name for key, one in standing.items() if one.is_exception}
        day = at.astimezone(zone).date()
        inside = frozenset(text for text, table in typed.items() if table.at(at).is_open)
        said = (*holds.items(), *exceptions.items(), *(in_ranges((text,), day) for text in ranges), inside)
        found.setdefault(said, Moment(at, holds, day, inside, exceptions))
    return tuple(found.values())
