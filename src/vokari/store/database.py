"""The connection to PostgreSQL, and bringing its schema up to date."""

from datetime import date
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, text


def connect(url: str, *, pool: int = 10) -> Engine:
    """An engine with a pool; every session speaks UTC."""
    return create_engine(
        url, pool_size=pool, max_overflow=pool, pool_pre_ping=False, connect_args={"options": "-c timezone=UTC"}
    )


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
    """Makes the monthly partitions of the history from the month of `first` to that of `last`, both included."""
    year, month = first.year, first.month
    while (year, month) <= (last.year, last.month):
        following = (year + month // 12, month % 12 + 1)
        for table in PARTITIONED:
            connection.execute(
                text(
                    f"CREATE TABLE IF NOT EXISTS {table}_y{year}m{month:02d} PARTITION OF {table} "
                    f"FOR VALUES FROM ('{year}-{month:02d}-01') TO ('{following[0]}-{following[1]:02d}-01')"
                )
            )
        year, month = following
