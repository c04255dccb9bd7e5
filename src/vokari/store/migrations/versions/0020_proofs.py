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
        sa.Column("live", sa.Boolean(), nullable=False),
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
        sa.PrimaryKeyConstraint("flow_id", "live", name=op.f("pk_proofs")),
    )
    op.create_index(op.f("ix_proofs_agency_id"), "proofs", ["agency_id"])
    op.create_index(op.f("ix_proofs_client_id"), "proofs", ["client_id"])
    op.add_column(
        "flow_versions",
        sa.Column("consents", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default=sa.text("'[]'")),
    )
    op.alter_column("flow_versions", "consents", server_default=None)

    op.create_table(
        "live_findings",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("version_id", sa.BigInteger(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("weight", sa.String(), nullable=False),
        sa.Column("sentence", sa.String(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("example", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("since", _INSTANT, nullable=False),
        sa.Column("told_at", _INSTANT, nullable=True),
        sa.Column("mended_at", _INSTANT, nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_live_findings_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_live_findings_client_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_live_findings_flow_id")),
        sa.ForeignKeyConstraint(["version_id"], ["flow_versions.id"], name=op.f("fk_live_findings_version_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_live_findings")),
    )
    for column in ("agency_id", "client_id", "flow_id"):
        op.create_index(op.f(f"ix_live_findings_{column}"), "live_findings", [column])
    op.create_index(
        "uq_live_findings_open", "live_findings", ["flow_id", "kind", "step"], unique=True,
        postgresql_where=sa.text("mended_at IS NULL"),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("live_findings")
    op.drop_column("flow_versions", "consents")
    op.drop_table("proofs")
