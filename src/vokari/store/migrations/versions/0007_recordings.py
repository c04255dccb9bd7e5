"""Recordings of talks"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "call_recordings",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=False),
        sa.Column("recording", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_call_recordings_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_call_recordings_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_call_recordings")),
    )
    for column in ("agency_id", "client_id", "call_id"):
        op.create_index(op.f(f"ix_call_recordings_{column}"), "call_recordings", [column], unique=False)


def downgrade() -> None:
    op.drop_table("call_recordings")
