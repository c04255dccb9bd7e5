"""Reports by hour, person and key, first calls of callers, and what was spent on campaigns"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0016"
down_revision = "0015"

FIRST = "count(*) FILTER (WHERE f.call_id = k.id)"
FROM_CALLS = " FROM calls k JOIN clients c ON c.id = k.client_id LEFT JOIN callers f ON f.client_id = k.client_id AND f.caller = k.caller"


def upgrade() -> None:
    op.create_table(
        "callers",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("caller", sa.String(), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_callers_client_id")),
        sa.PrimaryKeyConstraint("client_id", "caller", name=op.f("pk_callers")),
    )
    op.create_table(
        "call_parts",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.Column("fate", sa.String(), nullable=False),
        sa.Column("calls", sa.Integer(), nullable=False),
        sa.Column("talk_seconds", sa.Float(), nullable=False),
        sa.Column("unconfirmed", sa.Integer(), nullable=False),
        sa.Column("new_callers", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_call_parts_client_id")),
        sa.PrimaryKeyConstraint("client_id", "kind", "day", "value", "fate", name=op.f("pk_call_parts")),
    )
    for table in ("call_days", "source_months"):
        op.add_column(table, sa.Column("new_callers", sa.Integer(), nullable=False, server_default="0"))
        op.alter_column(table, "new_callers", server_default=None)
    op.execute(
        "INSERT INTO callers (client_id, caller, call_id) SELECT DISTINCT ON (client_id, caller) client_id, caller, id FROM calls"
        " WHERE NOT test AND caller <> '' ORDER BY client_id, caller, started_at, id"
    )
    op.execute(
        "INSERT INTO call_parts (client_id, day, kind, value, fate, calls, talk_seconds, unconfirmed, new_callers) SELECT k.client_id, (k.started_at AT TIME ZONE c.time_zone)::date, p.kind, p.value, k.fate,"
        f" count(*), sum(k.talk_seconds), count(*) FILTER (WHERE k.reason = 'unconfirmed'), {FIRST} {FROM_CALLS}"
        " CROSS JOIN LATERAL (VALUES ('hour', extract(hour FROM k.started_at AT TIME ZONE c.time_zone)::int::text),"
        " ('key', CASE WHEN k.source_by = 'key' THEN k.source_id::text ELSE '' END), ('person', k.answered_by)) p (kind, value)"
        " WHERE NOT k.test GROUP BY 1, 2, 3, 4, 5"
    )
    op.execute(
        "UPDATE call_days d SET new_callers = n.found FROM (SELECT k.client_id, (k.started_at AT TIME ZONE c.time_zone)::date AS day,"
        " k.number_id, COALESCE(k.source_id, 0) AS source_id, COALESCE(k.flow_id, 0) AS flow_id, k.fate, k.reason,"
        f" {FIRST} AS found {FROM_CALLS} WHERE NOT k.test GROUP BY 1, 2, 3, 4, 5, 6, 7) n"
        " WHERE (d.client_id, d.day, d.number_id, d.source_id, d.flow_id, d.fate, d.reason)"
        " = (n.client_id, n.day, n.number_id, n.source_id, n.flow_id, n.fate, n.reason) AND n.found > 0"
    )
    op.execute(
        "UPDATE source_months m SET new_callers = n.found FROM (SELECT client_id, date_trunc('month', day)::date AS month, source_id,"
        " fate, sum(new_callers) AS found FROM call_days GROUP BY 1, 2, 3, 4) n WHERE (m.client_id, m.month, m.source_id, m.fate)"
        " = (n.client_id, n.month, n.source_id, n.fate) AND n.found > 0"
    )
    op.create_table(
        "spends",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("campaign", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("amount", sa.Numeric(12, 2), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_spends_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_spends_client_id")),
        sa.PrimaryKeyConstraint("client_id", "campaign", "day", name=op.f("pk_spends")),
    )
    op.create_table(
        "spend_entries",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("before", postgresql.JSONB(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_spend_entries_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_spend_entries_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_spend_entries_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_spend_entries")),
    )
    op.create_index(op.f("ix_spend_entries_agency_id"), "spend_entries", ["agency_id"])
    op.create_index(op.f("ix_spend_entries_client_id"), "spend_entries", ["client_id"])
    op.create_index(op.f("ix_spends_agency_id"), "spends", ["agency_id"])


def downgrade() -> None:
    for table in ("spend_entries", "spends", "call_parts", "callers"):
        op.drop_table(table)
    for table in ("call_days", "source_months"):
        op.drop_column(table, "new_callers")
