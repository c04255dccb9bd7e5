"""Calls that nothing fails: signs of life, calls that went to the fail-safe, what the carrier was told, runs of the parts"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("live_calls", sa.Column("alive_at", sa.DateTime(timezone=True), nullable=True))
    op.execute("UPDATE live_calls SET alive_at = last_at")
    op.alter_column("live_calls", "alive_at", nullable=False)
    op.add_column("live_calls", sa.Column("gone", sa.Boolean(), server_default=sa.text("false"), nullable=False))
    op.alter_column("live_calls", "gone", server_default=None)
    op.add_column("calls", sa.Column("fail_safe", sa.String(), server_default="", nullable=False))
    op.alter_column("calls", "fail_safe", server_default=None)
    for column in ("fail_safe_told", "fail_safe_said"):
        op.add_column("tracking_numbers", sa.Column(column, sa.String(), server_default="", nullable=False))
        op.alter_column("tracking_numbers", column, server_default=None)
    op.execute(
        "UPDATE tracking_numbers n SET fail_safe_told = COALESCE(NULLIF(n.fail_safe, ''), c.fail_safe)"
        " FROM clients c WHERE c.id = n.client_id"
    )
    op.add_column("carriers", sa.Column("asked_after", sa.BigInteger(), server_default="0", nullable=False))
    op.alter_column("carriers", "asked_after", server_default=None)
    op.create_table(
        "part_runs",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("host", sa.String(), nullable=False),
        sa.Column("pid", sa.Integer(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("beat_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("free_bytes", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part_runs")),
    )
    op.create_index("ix_part_runs_started_at", "part_runs", ["started_at"])
    op.create_table(
        "call_differences",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("carrier_id", sa.BigInteger(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_call_differences_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_call_differences_client_id")),
        sa.ForeignKeyConstraint(["carrier_id"], ["carriers.id"], name=op.f("fk_call_differences_carrier_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_call_differences")),
    )
    op.create_index("ix_call_differences_agency_id", "call_differences", ["agency_id"])
    op.create_index("ix_call_differences_client_id", "call_differences", ["client_id"])
    op.create_index("uq_call_differences_carrier_id_ref", "call_differences", ["carrier_id", "ref"], unique=True)


def downgrade() -> None:
    op.drop_table("call_differences")
    op.drop_table("part_runs")
    op.drop_column("carriers", "asked_after")
    op.drop_column("tracking_numbers", "fail_safe_said")
    op.drop_column("tracking_numbers", "fail_safe_told")
    op.drop_column("calls", "fail_safe")
    op.drop_column("live_calls", "gone")
    op.drop_column("live_calls", "alive_at")
