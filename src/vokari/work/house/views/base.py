"""What a row as it is shown is made of."""

from collections.abc import Iterable
from dataclasses import fields
from functools import cache
from typing import Any, Self

from sqlalchemy import Row as SqlRow

from ....store.base import Base


class View:
    """A row as it is shown."""

    __slots__ = ()

    @classmethod
    def of(cls, row: Base | SqlRow[Any]) -> Self:
        """The view of a row, or of the columns that were asked for, inside the transaction that read it."""
        kind: Any = cls
        return cls(*(getattr(row, name) for name in _columns(kind)))

    @classmethod
    def columns(cls, table: type[Base]) -> tuple[Any, ...]:
        """The columns of a table that the view shows, for a query that reads no others."""
        kind: Any = cls
        return tuple(getattr(table, name) for name in _columns(kind))

    @classmethod
    def maybe(cls, row: Base | None) -> Self | None:
        """The view of a row, if there is one."""
        return None if row is None else cls.of(row)

    @classmethod
    def all(cls, rows: Iterable[Base | SqlRow[Any]]) -> list[Self]:
        """The views of some rows, in their order."""
        return [cls.of(row) for row in rows]


@cache
def _columns(view: Any) -> tuple[str, ...]:
    return tuple(field.name for field in fields(view))
