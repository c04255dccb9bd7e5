"""Rehearsals to keep that were proposed for a draft"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    proposal = sa.Column(
        "proposal", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default=sa.text("'{}'")
    )
    op.add_column("proofs", proposal)


def downgrade() -> None:
    op.drop_column("proofs", "proposal")
