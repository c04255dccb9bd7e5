"""People and teams, whose turn it is, and people at work"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    extra: dict[str, list[sa.Column[Any]]] = {
        "people": [
            sa.Column("extension", sa.String(), nullable=False),
            sa.Column("link_version", sa.Integer(), nullable=False),
        ],
        "teams": [],
    }
    for table, more in extra.items():
        op.create_table(
            table,
            sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
            sa.Column("agency_id", sa.BigInteger(), nullable=False),
            sa.Column("client_id", sa.BigInteger(), nullable=False),
            sa.Column("key", sa.String(), nullable=False),
            sa.Column("name", sa.String(), nullable=False),
            *more,
            sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
            sa.Column("revision", sa.Integer(), nullable=False),
            sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True),
            sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f(f"fk_{table}_agency_id")),
            sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f(f"fk_{table}_client_id")),
            sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{table}")),
        )
        op.create_index(op.f(f"ix_{table}_agency_id"), table, ["agency_id"], unique=False)
        op.create_index(op.f(f"ix_{table}_client_id"), table, ["client_id"], unique=False)
        op.create_index(f"uq_{table}_client_id_key", table, ["client_id", "key"], unique=True)
        op.create_index(
            f"uq_{table}_client_id_name",
            table,
            ["client_id", sa.literal_column("lower(name)")],
            unique=True,
            postgresql_where=sa.text("removed_at IS NULL"),
        )
    op.create_index(
        "uq_people_client_id_extension",
        "people",
        ["client_id", "extension"],
        unique=True,
        postgresql_where=sa.text("extension <> '' AND removed_at IS NULL"),
    )
    op.create_table(
        "turns",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_turns_client_id")),
        sa.PrimaryKeyConstraint("client_id", "key", name=op.f("pk_turns")),
    )
    op.create_table(
        "duty",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("off", sa.Boolean(), nullable=False),
        sa.Column("taken_on", sa.Date(), nullable=True),
        sa.Column("taken", sa.Integer(), nullable=False),
        sa.Column("idle_since", sa.DateTime(timezone=True), nullable=True),
        sa.Column("missed", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_duty_client_id")),
        sa.PrimaryKeyConstraint("client_id", "person", name=op.f("pk_duty")),
    )
