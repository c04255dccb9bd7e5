"""Ports in, and the documents that carriers ask for"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column(
        "tracking_numbers", sa.Column("asked_for", postgresql.ARRAY(sa.TEXT()), nullable=False, server_default="{}")
    )
    op.alter_column("tracking_numbers", "asked_for", server_default=None)
    op.create_table(
        "number_documents",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_number_documents_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_number_documents_client_id")),
        sa.ForeignKeyConstraint(["number_id"], ["tracking_numbers.id"], name=op.f("fk_number_documents_number_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_number_documents")),
    )
    op.create_index(op.f("ix_number_documents_agency_id"), "number_documents", ["agency_id"], unique=False)
    op.create_index(op.f("ix_number_documents_client_id"), "number_documents", ["client_id"], unique=False)
    op.create_index(op.f("ix_number_documents_number_id"), "number_documents", ["number_id"], unique=False)
    op.create_table(
        "ports",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=False),
        sa.Column("source_id", sa.BigInteger(), nullable=True),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("losing_carrier", sa.String(), nullable=False),
        sa.Column("account", sa.String(), nullable=False),
        sa.Column("stage", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("moves_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("requested_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_ports_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_ports_client_id")),
        sa.ForeignKeyConstraint(["number_id"], ["tracking_numbers.id"], name=op.f("fk_ports_number_id")),
        sa.ForeignKeyConstraint(["source_id"], ["lead_sources.id"], name=op.f("fk_ports_source_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_ports")),
    )
    op.create_index(op.f("ix_ports_agency_id"), "ports", ["agency_id"], unique=False)
    op.create_index(op.f("ix_ports_client_id"), "ports", ["client_id"], unique=False)
    op.create_index(op.f("ix_ports_number_id"), "ports", ["number_id"], unique=False)
