"""Names that the database reads out of their documents, so that the two cannot differ; logs of calls kept as text"""

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
    # Calls of duty lines that are under way held the PIN: whoever is on one calls again.
    op.execute("DELETE FROM live_events WHERE call_id IN (SELECT id FROM live_calls WHERE context ? 'duty')")
    op.execute("DELETE FROM live_calls WHERE context ? 'duty'")
    for table, column in (("live_events", "entry"), ("call_logs", "entries")):
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} TYPE json USING {column}::json")


def downgrade() -> None:
    for table, column in (("live_events", "entry"), ("call_logs", "entries")):
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} TYPE jsonb USING {column}::jsonb")
    for table, columns in READ.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} DROP EXPRESSION")
