"""Queries whose shape never changes, written out once: to build them and to compare them with those known already takes longer
than the database takes to answer."""

from typing import Any

from sqlalchemy import CursorResult, Select
from sqlalchemy.dialects.postgresql import psycopg
from sqlalchemy.orm import Session


class Fixed:
    """A query as SQL, with what it leaves open as named parameters (`bindparam`). Its rows hold what psycopg reads."""

    def __init__(self, query: Select[*tuple[Any, ...]]) -> None:
        dialect = psycopg.dialect()  # type: ignore[no-untyped-call]
        compiled = query.compile(dialect=dialect, compile_kwargs={"render_postcompile": True})
        self.sql = str(compiled)
        self.values = {name: value for name, value in compiled.params.items() if value is not None}

    def rows(self, session: Session, **values: Any) -> CursorResult[*tuple[Any, ...]]:
        """The rows for these values of the parameters."""
        return session.connection().exec_driver_sql(self.sql, {**self.values, **values})
