"""Names that the database reads out of their documents; logs of calls kept as text; known browsers, and users who were removed"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"

READ = {
    "people": {"name": "document ->> 'name'", "extension": "COALESCE(document ->> 'extension', '')"},
    "teams": {"name": "document ->> 'name'"},
    "hours_sets": {"name": "document ->> 'name'"},
    "flows": {"name": "draft ->> 'name'", "mark": "draft ->> 'mark'"},
}
"""Columns by table, each with where it is read."""


def upgrade() -> None:
    for table, columns in READ.items():
        document = "draft" if table == "flows" else "document"
        for column, read in columns.items():
            # What a list showed is what people know it by; where the two differ the document follows.
            op.execute(
                f"UPDATE {table} SET {document} = jsonb_set({document}, '{{{column}}}', to_jsonb({column}))"
                f" WHERE {column} <> {read}"
            )
            op.drop_column(table, column)
            op.add_column(table, sa.Column(column, sa.String(), sa.Computed(read, persisted=True), nullable=False))
    for table in ("people", "teams", "hours_sets"):
        op.create_index(
            f"uq_{table}_client_id_name", table, ["client_id", sa.text("lower(name)")], unique=True,
            postgresql_where=sa.text("removed_at IS NULL"),
        )  # fmt: skip
    op.create_index("uq_flows_client_id_name", "flows", ["client_id", sa.text("lower(name)")], unique=True)
    op.create_index(
        "uq_people_client_id_extension", "people", ["client_id", "extension"], unique=True,
        postgresql_where=sa.text("extension <> '' AND removed_at IS NULL"),
    )  # fmt: skip
    op.add_column("users", sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True))
    op.execute("DELETE FROM sign_in_attempts")
    for column in ("source", "browser"):
        op.add_column("sign_in_attempts", sa.Column(column, sa.String(), nullable=False))
    op.add_column("sign_in_attempts", sa.Column("answered_at", sa.DateTime(timezone=True), nullable=False))
    op.create_index("ix_sign_in_attempts_source_at", "sign_in_attempts", ["source", "at"])
    op.create_table(
        "known_browsers",
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_known_browsers_user_id")),
        sa.PrimaryKeyConstraint("user_id", "token_hash", name=op.f("pk_known_browsers")),
    )
    # Calls of duty lines that are under way held the PIN: whoever is on one calls again.
    op.execute("DELETE FROM live_events WHERE call_id IN (SELECT id FROM live_calls WHERE context ? 'duty')")
    op.execute("DELETE FROM live_calls WHERE context ? 'duty'")
    for table, column in (("live_events", "entry"), ("call_logs", "entries")):
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} TYPE json USING {column}::json")


def downgrade() -> None:
    op.drop_table("known_browsers")
    op.drop_index("ix_sign_in_attempts_source_at", "sign_in_attempts")
    for column in ("source", "browser", "answered_at"):
        op.drop_column("sign_in_attempts", column)
    op.drop_column("users", "removed_at")
    for table, column in (("live_events", "entry"), ("call_logs", "entries")):
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} TYPE jsonb USING {column}::jsonb")
    for table, columns in READ.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} DROP EXPRESSION")
