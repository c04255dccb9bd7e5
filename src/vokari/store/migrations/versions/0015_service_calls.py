"""Calls that an answering service took, open until somebody dealt with them; flows that were removed"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "service_calls",
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("dealt_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("user_id", sa.BigInteger(), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_service_calls_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_service_calls_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_service_calls_user_id")),
        sa.PrimaryKeyConstraint("call_id", name=op.f("pk_service_calls")),
    )
    op.create_index(op.f("ix_service_calls_client_id"), "service_calls", ["client_id"])
    op.create_index(
        "ix_service_calls_open",
        "service_calls",
        ["agency_id", "client_id"],
        postgresql_where=sa.text("dealt_at IS NULL"),
    )
    op.add_column("flows", sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True))
    op.drop_index("uq_flows_client_id_name", "flows")
    op.create_index(
        "uq_flows_client_id_name", "flows", ["client_id", sa.text("lower(name)")], unique=True,
        postgresql_where=sa.text("removed_at IS NULL"),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_index("uq_flows_client_id_name", "flows")
    op.drop_column("flows", "removed_at")
    op.create_index("uq_flows_client_id_name", "flows", ["client_id", sa.text("lower(name)")], unique=True)
    op.drop_table("service_calls")
