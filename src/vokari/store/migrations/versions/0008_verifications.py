"""Verification calls, and the line by which people switch themselves on and off"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "verifications",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("destination", sa.String(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("asked_by", sa.BigInteger(), nullable=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_verifications_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_verifications_client_id")),
        sa.ForeignKeyConstraint(["asked_by"], ["users.id"], name=op.f("fk_verifications_asked_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_verifications")),
    )
    op.create_index(op.f("ix_verifications_agency_id"), "verifications", ["agency_id"], unique=False)
    op.create_index(
        "ix_verifications_client_id_destination", "verifications", ["client_id", "destination", "id"], unique=False
    )
    op.add_column("clients", sa.Column("duty_number", sa.String(), server_default="", nullable=False))
    op.add_column("people", sa.Column("pin_version", sa.Integer(), server_default="1", nullable=False))
    op.add_column("duty", sa.Column("wrong_pins", sa.Integer(), server_default="0", nullable=False))


def downgrade() -> None:
    op.drop_column("duty", "wrong_pins")
    op.drop_column("people", "pin_version")
    op.drop_column("clients", "duty_number")
    op.drop_table("verifications")
