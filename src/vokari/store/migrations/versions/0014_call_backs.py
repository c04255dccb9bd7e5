"""Lost callers whom somebody rang back"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.create_table(
        "call_backs",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("caller", sa.String(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_call_backs_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_call_backs_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_call_backs_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_call_backs")),
    )
    op.create_index(op.f("ix_call_backs_agency_id"), "call_backs", ["agency_id"])
    op.create_index(op.f("ix_call_backs_call_id"), "call_backs", ["call_id"])
    op.create_index("ix_call_backs_client_id_caller_at", "call_backs", ["client_id", "caller", "at"])


def downgrade() -> None:
    op.drop_table("call_backs")
