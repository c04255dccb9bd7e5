"""Until when test phones hear the draft of a flow"""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.add_column("flows", sa.Column("draft_until", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("flows", "draft_until")
