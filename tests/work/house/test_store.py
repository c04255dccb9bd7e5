"""The schema: migrations and models agree, and the history has its months."""

from datetime import date

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from vokari.settings import Settings
from vokari.store import tables
from vokari.store.database import connect, ensure_months, migrate


def _ours(name: str | None, kind: str) -> bool:
    partition = (
        kind == "table"
        and name is not None
        and name.startswith(("calls_y", "call_logs_y", "calls_other", "call_logs_other"))
    )
    return not partition and not (name or "").startswith(("procrastinate", "alembic"))


def test_migrations_and_models_agree(settings: Settings) -> None:
    engine = connect(settings.database_url)
    with engine.connect() as connection:
        context = MigrationContext.configure(
            connection, opts={"compare_type": True, "include_name": lambda name, kind, _: _ours(name, kind)}
        )
        assert compare_metadata(context, tables.metadata) == []
    engine.dispose()


def test_migrating_twice_and_making_months_twice_changes_nothing(settings: Settings) -> None:
    migrate(settings.database_url)
    engine = connect(settings.database_url)
    with engine.begin() as connection:
        for _ in range(2):
            ensure_months(connection, date(2027, 11, 5), date(2028, 2, 1))
        found = connection.execute(
            text("SELECT count(*) FROM pg_class WHERE relname ~ '^calls_y202(7m1[12]|8m0[12])$'")
        ).scalar()
    assert found == 4
    engine.dispose()
