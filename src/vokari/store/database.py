"""The connection to PostgreSQL, and bringing its schema up to date."""

from datetime import date
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, text


def connect(url: str, *, pool: int = 10, outlives: bool = False) -> Engine:
    """An engine with a pool; every session speaks UTC, and
    compiles no query, which takes longer than these short ones run. `outlives`: connections are tried before they are used."""
    return create_engine(
        url, pool_size=pool, max_overflow=pool, pool_pre_ping=outlives,
        connect_args={"options": "-c timezone=UTC -c jit=off", "connect_timeout": 3},
    )  # fmt: skip


def alembic_config(url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """Brings the schema to the newest version."""
    command.upgrade(alembic_config(url), "head")


PARTITIONED = ("calls", "call_logs")


def ensure_months(connection: Connection, first: date, last: date) -> None:
    """Makes the monthly partitions of the history from the month of `first` to that of `last`, both included. Calls of such a
    month that came before its partition was made lie in the one for all others, and are moved. One process at a time."""
    connection.execute(text("SELECT pg_advisory_xact_lock(hashtext('months'))"))
    year, month = first.year, first.month
    while (year, month) <= (last.year, last.month):
        following = (year + month // 12, month % 12 + 1)
        for table in PARTITIONED:
            begins, ends = f"{year}-{month:02d}-01", f"{following[0]}-{following[1]:02d}-01"
            _ensure_month(connection, table, f"{table}_y{year}m{month:02d}", begins, ends)
        year, month = following


def _ensure_month(connection: Connection, table: str, name: str, begins: str, ends: str) -> None:
    if connection.execute(text("SELECT to_regclass(:name)"), {"name": name}).scalar() is not None:
        return
    within = f"started_at >= '{begins} 00:00+00' AND started_at < '{ends} 00:00+00'"
    moved = connection.execute(text(f"SELECT EXISTS (SELECT 1 FROM {table}_other WHERE {within})")).scalar()
    connection.execute(text(f"CREATE TABLE {name} (LIKE {table} INCLUDING DEFAULTS INCLUDING CONSTRAINTS)"))
    if moved:
        connection.execute(
            text(
                f"WITH old AS (DELETE FROM {table}_other WHERE {within} RETURNING *) INSERT INTO {name} SELECT * FROM old"
            )
        )
    connection.execute(
        text(
            f"ALTER TABLE {table} ATTACH PARTITION {name} FOR VALUES FROM ('{begins} 00:00+00') TO ('{ends} 00:00+00')"
        )
    )
