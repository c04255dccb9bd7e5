"""Runs the migrations on the database that the application names."""

from alembic import context
from sqlalchemy import create_engine

from vokari.store import tables

config = context.config
engine = create_engine(config.get_main_option("sqlalchemy.url") or "")
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=tables.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
