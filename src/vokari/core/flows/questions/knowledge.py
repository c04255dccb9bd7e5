"""What is known on a way through a flow: for each dimension the cells that are still possible.

A dimension is something that questions look at and that does not change by asking, such as the moment. Its cells are chosen so
that every question about it has one answer in each; a question splits what is known by its answers. A question about nothing
that is kept (whether somebody is free now) leaves it as it is.
"""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any, TypeVar
from zoneinfo import ZoneInfo

from ...hours.timetable import Timetable
from ..model.dates import in_ranges, read_range

TIME = "time"
Said = TypeVar("Said", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Moment:
    """A cell of time: a moment of it, what each set of hours says then (period or "closed", and whether by an exception), and
    the day in the client's time zone."""

    at: datetime
    holds: Mapping[str, tuple[str, bool]]
    day: date


@dataclass(frozen=True, slots=True)
class Knowledge:
    """The cells of every dimension, and of those that were asked about the ones that are left, by index."""

    cells: Mapping[str, tuple[Any, ...]]
    left: tuple[tuple[str, frozenset[int]], ...] = ()

    def __hash__(self) -> int:
        return hash(self.left)

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
            (answer, Knowledge(self.cells, tuple(sorted((*others, (dimension, frozenset(cells)))))))
            for answer, cells in found.items()
        ]


NOTHING = Knowledge({})
"""Where no dimension is kept: questions about one have no answer."""


def moments(
    tables: Mapping[str, Timetable], zone: ZoneInfo, ranges: tuple[str, ...], since: datetime, until: datetime
) -> tuple[Moment, ...]:
    """The cells of time between two instants for some sets of hours and ranges of dates, in order of their first moment: stretches
    in which all of them say the same, each kind of stretch once. `zone` is the client's."""
    days = {
        edge for text in ranges if (pair := read_range(text)) for edge in (pair[0], pair[1] + timedelta(days=1))
    }  # fmt: skip
    edges = {since, *(datetime(day.year, day.month, day.day, tzinfo=zone).astimezone(since.tzinfo) for day in days)}
    for table in tables.values():
        edges |= {stretch.since for stretch in table.stretches(since, until)}
    found: dict[tuple[object, ...], Moment] = {}
    for at in sorted(edge for edge in edges if since <= edge < until):
        holds = {
            key: (standing.period, standing.is_exception) for key, table in tables.items() if (standing := table.at(at))
        }
        day = at.astimezone(zone).date()
        found.setdefault((*holds.items(), *(in_ranges((text,), day) for text in ranges)), Moment(at, holds, day))
    return tuple(found.values())
