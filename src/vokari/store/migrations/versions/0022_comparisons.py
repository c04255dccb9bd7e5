"""What changes for callers, between versions of a flow and by changes of hours, people and teams"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0022"
down_revision = "0021"

_INSTANT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "comparisons",
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("asked", sa.String(), nullable=False),
        sa.Column("asked_at", _INSTANT, nullable=True),
        sa.Column("of", sa.String(), nullable=False),
        sa.Column("made_at", _INSTANT, nullable=True),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_comparisons_flow_id")),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_comparisons_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_comparisons_client_id")),
        sa.PrimaryKeyConstraint("flow_id", "what", name=op.f("pk_comparisons")),
    )
    for column in ("agency_id", "client_id"):
        op.create_index(op.f(f"ix_comparisons_{column}"), "comparisons", [column])


def downgrade() -> None:
    op.drop_table("comparisons")
