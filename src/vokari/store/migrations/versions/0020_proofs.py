"""What proofs of flows showed, and the consents that versions went live with"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"

_INSTANT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "proofs",
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.Column("made_at", _INSTANT, nullable=True),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("asked", sa.String(), nullable=False),
        sa.Column("asked_at", _INSTANT, nullable=True),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_proofs_flow_id")),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_proofs_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_proofs_client_id")),
        sa.PrimaryKeyConstraint("flow_id", name=op.f("pk_proofs")),
    )
    op.create_index(op.f("ix_proofs_agency_id"), "proofs", ["agency_id"])
    op.create_index(op.f("ix_proofs_client_id"), "proofs", ["client_id"])
    op.add_column(
        "flow_versions",
        sa.Column("consents", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default=sa.text("'[]'")),
    )
    op.alter_column("flow_versions", "consents", server_default=None)


def downgrade() -> None:
    op.drop_column("flow_versions", "consents")
    op.drop_table("proofs")
