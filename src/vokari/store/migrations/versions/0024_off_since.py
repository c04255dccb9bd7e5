"""Since when people are switched off"""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    op.add_column("duty", sa.Column("off_since", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("duty", "off_since")
