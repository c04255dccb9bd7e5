"""Look-ups in a client's own system"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "look_ups",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("visit", sa.Integer(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("url", sa.String(), nullable=False),
        sa.Column("sent", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("seconds", sa.Integer(), nullable=False),
        sa.Column("state", sa.TEXT(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_look_ups")),
    )
    op.create_index("uq_look_ups_call_id_visit", "look_ups", ["call_id", "visit"], unique=True)


def downgrade() -> None:
    op.drop_table("look_ups")
