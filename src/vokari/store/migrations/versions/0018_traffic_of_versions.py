"""How callers passed through versions of flows, and whether one loses more of them"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.create_table(
        "flow_passages",
        sa.Column("version_id", sa.BigInteger(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("exit", sa.String(), nullable=False),
        sa.Column("calls", sa.Integer(), nullable=False),
        sa.Column("gave_up", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["version_id"], ["flow_versions.id"], name=op.f("fk_flow_passages_version_id")),
        sa.PrimaryKeyConstraint("version_id", "step", "exit", name=op.f("pk_flow_passages")),
    )
    op.add_column("flows", sa.Column("worse", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("flows", "worse")
    op.drop_table("flow_passages")
