"""Numbers for every lead source: names, rests, whispers, prices, rules of a client, orders of many numbers"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"

NEW_COLUMNS = (
    ("clients", "naming_pattern", sa.String(), "''"),
    ("clients", "same_area", sa.Boolean(), "true"),
    ("clients", "likeness", sa.String(), "'unlike'"),
    ("clients", "rest_days", sa.Integer(), "90"),
    ("clients", "rest_words", sa.String(), "''"),
    ("clients", "rest_to", sa.String(), "''"),
    ("clients", "extension_pattern", postgresql.JSONB(), "'{}'"),
    ("flows", "stated", postgresql.ARRAY(sa.TEXT()), "'{}'"),
    ("lead_sources", "extension", sa.String(), "''"),
    ("tracking_numbers", "name", sa.String(), "''"),
    ("tracking_numbers", "whisper", sa.String(), "''"),
    ("tracking_numbers", "rent", sa.Numeric(10, 2), "0"),
    ("tracking_numbers", "set_up", sa.Numeric(10, 2), "0"),
    ("tracking_numbers", "ended_how", sa.String(), "''"),
)
"""Table, column, type, and the value that rows get which are there already."""


def upgrade() -> None:
    for table, column, kind, value in NEW_COLUMNS:
        op.add_column(table, sa.Column(column, kind, nullable=False, server_default=sa.text(value)))
        op.alter_column(table, column, server_default=None)
    for column in ("rest_since", "rest_until", "ended_at"):
        op.add_column("tracking_numbers", sa.Column(column, sa.DateTime(timezone=True), nullable=True))
    op.create_index(
        "uq_tracking_numbers_client_id_name", "tracking_numbers", ["client_id", sa.literal_column("lower(name)")],
        unique=True, postgresql_where=sa.text("name <> '' AND state <> 'released'"),
    )  # fmt: skip
    op.create_index(
        "uq_lead_sources_client_id_extension", "lead_sources", ["client_id", "extension"],
        unique=True, postgresql_where=sa.text("extension <> ''"),
    )  # fmt: skip
    op.create_table(
        "number_orders",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("made_by", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_number_orders_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_number_orders_client_id")),
        sa.ForeignKeyConstraint(["made_by"], ["users.id"], name=op.f("fk_number_orders_made_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_number_orders")),
    )
    op.create_index(op.f("ix_number_orders_agency_id"), "number_orders", ["agency_id"], unique=False)
    op.create_index(op.f("ix_number_orders_client_id"), "number_orders", ["client_id"], unique=False)
    op.create_table(
        "number_order_lines",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("order_id", sa.BigInteger(), nullable=False),
        sa.Column("source_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=True),
        sa.Column("e164", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_number_order_lines_agency_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_number_order_lines_flow_id")),
        sa.ForeignKeyConstraint(["number_id"], ["tracking_numbers.id"], name=op.f("fk_number_order_lines_number_id")),
        sa.ForeignKeyConstraint(["order_id"], ["number_orders.id"], name=op.f("fk_number_order_lines_order_id")),
        sa.ForeignKeyConstraint(["source_id"], ["lead_sources.id"], name=op.f("fk_number_order_lines_source_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_number_order_lines")),
    )
    op.create_index(op.f("ix_number_order_lines_agency_id"), "number_order_lines", ["agency_id"], unique=False)
    op.create_index(op.f("ix_number_order_lines_order_id"), "number_order_lines", ["order_id"], unique=False)
