"""What large agencies need: rollups by day and by month, indexes for long periods and for names, visits and exports"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0013"
down_revision = "0012"


def _counted() -> tuple[sa.Column[Any], ...]:
    return (
        sa.Column("calls", sa.Integer(), nullable=False),
        sa.Column("talk_seconds", sa.Float(), nullable=False),
        sa.Column("unconfirmed", sa.Integer(), nullable=False),
    )


UNCONFIRMED = "COALESCE(sum(calls) FILTER (WHERE reason = 'unconfirmed'), 0)"
DAYS_KEY = ["client_id", "day", "number_id", "source_id", "flow_id", "fate", "reason"]
NAMES = (
    ("clients", "name"), ("flows", "name"), ("lead_sources", "name"), ("lead_sources", "campaign"), ("tracking_numbers", "e164"),
)  # fmt: skip
"""Columns that are searched for a part of a name or number."""


def upgrade() -> None:
    op.execute("CREATE EXTENSION IF NOT EXISTS pg_trgm")
    op.create_table(
        "day_totals",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("fate", sa.String(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        *_counted(),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_day_totals_client_id")),
        sa.PrimaryKeyConstraint("client_id", "day", "fate", name=op.f("pk_day_totals")),
    )
    op.create_index("ix_day_totals_agency_id_day", "day_totals", ["agency_id", "day"])
    op.create_table(
        "source_months",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("month", sa.Date(), nullable=False),
        sa.Column("source_id", sa.BigInteger(), nullable=False),
        sa.Column("fate", sa.String(), nullable=False),
        *_counted(),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_source_months_client_id")),
        sa.PrimaryKeyConstraint(
            "client_id",
            "month",
            "source_id",
            "fate",
            name=op.f("pk_source_months"),
            postgresql_include=["calls", "talk_seconds", "unconfirmed"],
        ),
    )
    op.execute(
        "INSERT INTO day_totals (client_id, day, fate, agency_id, calls, talk_seconds, unconfirmed) SELECT client_id, day, fate,"
        f" agency_id, sum(calls), sum(talk_seconds), {UNCONFIRMED} FROM call_days GROUP BY client_id, day, fate, agency_id"
    )
    op.execute(
        "INSERT INTO source_months (client_id, month, source_id, fate, calls, talk_seconds, unconfirmed) SELECT client_id,"
        f" date_trunc('month', day)::date, source_id, fate, sum(calls), sum(talk_seconds), {UNCONFIRMED} FROM call_days"
        " GROUP BY client_id, date_trunc('month', day), source_id, fate"
    )
    op.drop_constraint("pk_call_days", "call_days")
    op.execute(
        f"ALTER TABLE call_days ADD CONSTRAINT pk_call_days PRIMARY KEY ({', '.join(DAYS_KEY)}) INCLUDE (calls, talk_seconds)"
    )
    op.create_index("ix_calls_number_id_started_at", "calls", ["number_id", "started_at"])
    op.drop_index("ix_calls_client_id_started_at", "calls")
    op.create_index(
        "ix_calls_client_id_started_at",
        "calls",
        ["client_id", "started_at"],
        postgresql_include=["caller", "test", "id"],
    )
    op.create_index("ix_draft_edits_flow_id_user_id_seq", "draft_edits", ["flow_id", "user_id", "seq"])
    for table, column in NAMES:
        op.create_index(
            f"ix_{table}_{column}_parts",
            table,
            [column],
            postgresql_using="gin",
            postgresql_ops={column: "gin_trgm_ops"},
        )
    op.create_table(
        "client_visits",
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_client_visits_user_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_client_visits_client_id")),
        sa.PrimaryKeyConstraint("user_id", "client_id", name=op.f("pk_client_visits")),
    )
    op.create_index("ix_client_visits_user_id_at", "client_visits", ["user_id", "at"])
    op.create_table(
        "exports",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("wanted", postgresql.JSONB(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_exports_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_exports_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_exports_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exports")),
    )
    op.create_index(op.f("ix_exports_agency_id"), "exports", ["agency_id"])
    op.create_index(op.f("ix_exports_client_id"), "exports", ["client_id"])


def downgrade() -> None:
    op.drop_table("exports")
    op.drop_table("client_visits")
    for table, column in NAMES:
        op.drop_index(f"ix_{table}_{column}_parts", table)
    op.drop_index("ix_draft_edits_flow_id_user_id_seq", "draft_edits")
    op.drop_constraint("pk_call_days", "call_days")
    op.create_primary_key("pk_call_days", "call_days", DAYS_KEY)
    op.drop_index("ix_calls_client_id_started_at", "calls")
    op.create_index("ix_calls_client_id_started_at", "calls", ["client_id", "started_at"])
    op.drop_index("ix_calls_number_id_started_at", "calls")
    op.drop_table("source_months")
    op.drop_table("day_totals")
