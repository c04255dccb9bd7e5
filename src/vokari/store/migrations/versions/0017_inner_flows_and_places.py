"""Flows by key, places of clients, what is known of callers, changes that take effect at a moment, and why a version went live"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.create_table(
        "client_places",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_client_places_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_client_places_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_client_places")),
    )
    op.create_index(op.f("ix_client_places_agency_id"), "client_places", ["agency_id"])
    op.create_index(op.f("ix_client_places_client_id"), "client_places", ["client_id"])
    op.create_index("uq_client_places_client_id", "client_places", ["client_id"], unique=True)
    op.add_column("flows", sa.Column("key", sa.String(), nullable=True))
    op.execute("UPDATE flows SET key = 'fl_' || id")
    op.alter_column("flows", "key", nullable=False)
    op.create_index("uq_flows_client_id_key", "flows", ["client_id", "key"], unique=True)
    op.add_column("callers", sa.Column("postal_code", sa.String(), nullable=False, server_default=""))
    op.add_column("callers", sa.Column("past", postgresql.JSONB(), nullable=False, server_default="[]"))
    op.execute(
        "UPDATE callers c SET past = p.past FROM (SELECT client_id, caller, jsonb_agg(jsonb_build_array(extract(epoch FROM started_at),"
        " seconds, fate, answered_by) ORDER BY started_at) AS past FROM (SELECT client_id, caller, started_at, seconds, fate, answered_by,"
        " row_number() OVER (PARTITION BY client_id, caller ORDER BY started_at DESC) AS n FROM calls WHERE NOT test AND caller <> '') k"
        " WHERE n <= 100 GROUP BY client_id, caller) p WHERE p.client_id = c.client_id AND p.caller = c.caller"
    )
    op.add_column("calls", sa.Column("lead_status", sa.String(), nullable=False, server_default=""))
    op.add_column("put_lives", sa.Column("why", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "due_changes",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("of_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("detail", postgresql.JSONB(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("state", sa.TEXT(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("words", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_due_changes_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_due_changes_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_due_changes_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_due_changes")),
    )
    op.create_index(op.f("ix_due_changes_agency_id"), "due_changes", ["agency_id"])
    op.create_index(op.f("ix_due_changes_client_id"), "due_changes", ["client_id"])
    op.create_index("ix_due_changes_waiting", "due_changes", ["at"], postgresql_where=sa.text("state = 'waiting'"))
    op.create_index("ix_due_changes_of", "due_changes", ["kind", "of_id"])


def downgrade() -> None:
    op.drop_table("due_changes")
    op.drop_column("put_lives", "why")
    op.drop_column("calls", "lead_status")
    op.drop_column("callers", "past")
    op.drop_column("callers", "postal_code")
    op.drop_index("uq_flows_client_id_key", "flows")
    op.drop_column("flows", "key")
    op.drop_table("client_places")
