"""Sets of hours, shared exceptions, temporary switches, and tokens of the API"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "exception_lists",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("exceptions", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_exception_lists_agency_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exception_lists")),
    )
    op.create_index(op.f("ix_exception_lists_agency_id"), "exception_lists", ["agency_id"], unique=False)
    op.create_index(
        "uq_exception_lists_agency_id_name",
        "exception_lists",
        ["agency_id", sa.literal_column("lower(name)")],
        unique=True,
    )
    op.create_table(
        "hours_sets",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("is_main", sa.Boolean(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("lists", postgresql.ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("feed_version", sa.Integer(), nullable=False),
        sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_hours_sets_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_hours_sets_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_hours_sets")),
    )
    op.create_index(op.f("ix_hours_sets_agency_id"), "hours_sets", ["agency_id"], unique=False)
    op.create_index(op.f("ix_hours_sets_client_id"), "hours_sets", ["client_id"], unique=False)
    op.create_index("uq_hours_sets_client_id_key", "hours_sets", ["client_id", "key"], unique=True)
    op.create_index(
        "uq_hours_sets_client_id_main",
        "hours_sets",
        ["client_id"],
        unique=True,
        postgresql_where=sa.text("is_main AND removed_at IS NULL"),
    )
    op.create_index(
        "uq_hours_sets_client_id_name",
        "hours_sets",
        ["client_id", sa.literal_column("lower(name)")],
        unique=True,
        postgresql_where=sa.text("removed_at IS NULL"),
    )
    op.create_table(
        "api_tokens",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("scopes", postgresql.ARRAY(sa.TEXT()), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("last_used_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_api_tokens_agency_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_api_tokens_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_api_tokens")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_api_tokens_token_hash")),
    )
    op.create_index(op.f("ix_api_tokens_agency_id"), "api_tokens", ["agency_id"], unique=False)
    op.create_table(
        "hours_edits",
        sa.Column("hours_id", sa.BigInteger(), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("of_seq", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("before", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("after", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_hours_edits_agency_id")),
        sa.ForeignKeyConstraint(["hours_id"], ["hours_sets.id"], name=op.f("fk_hours_edits_hours_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_hours_edits_user_id")),
        sa.PrimaryKeyConstraint("hours_id", "seq", name=op.f("pk_hours_edits")),
    )
    op.create_index(op.f("ix_hours_edits_agency_id"), "hours_edits", ["agency_id"], unique=False)
    op.create_table(
        "hours_switches",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("hours_id", sa.BigInteger(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("period", sa.String(), nullable=False),
        sa.Column("phone", sa.String(), nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_hours_switches_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_hours_switches_client_id")),
        sa.ForeignKeyConstraint(["hours_id"], ["hours_sets.id"], name=op.f("fk_hours_switches_hours_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_hours_switches_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_hours_switches")),
    )
    op.create_index(op.f("ix_hours_switches_agency_id"), "hours_switches", ["agency_id"], unique=False)
    op.create_index("ix_hours_switches_client_id_until", "hours_switches", ["client_id", "until"], unique=False)
