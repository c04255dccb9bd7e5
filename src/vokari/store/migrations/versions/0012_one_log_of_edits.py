"""One log of edits for sets of hours, people, teams and mailboxes"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.create_table(
        "row_edits",
        sa.Column("of", sa.String(), nullable=False),
        sa.Column("row_id", sa.BigInteger(), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("of_seq", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("before", postgresql.JSONB(), nullable=False),
        sa.Column("after", postgresql.JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_row_edits_agency_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_row_edits_user_id")),
        sa.PrimaryKeyConstraint("of", "row_id", "seq", name=op.f("pk_row_edits")),
    )
    op.create_index(op.f("ix_row_edits_agency_id"), "row_edits", ["agency_id"], unique=False)
    op.execute(
        'INSERT INTO row_edits ("of", row_id, seq, agency_id, user_id, at, kind, of_seq, words, before, after)'
        " SELECT 'hours', hours_id, seq, agency_id, user_id, at, kind, of_seq, words, before, after FROM hours_edits"
    )
    op.drop_table("hours_edits")
