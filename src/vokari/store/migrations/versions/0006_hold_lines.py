"""Hold lines: who waits in them, and how long the people who serve them talk"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "hold_lines",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("team", sa.String(), nullable=False),
        sa.Column("mean_seconds", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_hold_lines_client_id")),
        sa.PrimaryKeyConstraint("client_id", "team", name=op.f("pk_hold_lines")),
    )
    op.create_table(
        "holds",
        sa.Column("place", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("team", sa.String(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("caller", sa.String(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=True),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("joined_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("offered", sa.String(), nullable=False),
        sa.Column("answered_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_holds_client_id")),
        sa.PrimaryKeyConstraint("place", name=op.f("pk_holds")),
    )
    op.create_index("uq_holds_call_id", "holds", ["call_id"], unique=True)
    op.create_index(
        "ix_holds_waiting", "holds", ["client_id", "team", "place"], postgresql_where=sa.text("answered_at IS NULL")
    )
    op.add_column("duty", sa.Column("rests_until", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("duty", "rests_until")
    op.drop_table("holds")
    op.drop_table("hold_lines")
