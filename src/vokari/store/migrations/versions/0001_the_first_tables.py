"""The first tables"""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.execute("CREATE EXTENSION IF NOT EXISTS btree_gist")
    op.get_bind().connection.driver_connection.execute(SchemaManager.get_schema())  # type: ignore[union-attr]
    op.create_table(
        "agencies",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_agencies")),
    )
    op.create_table(
        "call_logs",
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("carrier_id", sa.BigInteger(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("entries", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.PrimaryKeyConstraint("call_id", "started_at", name=op.f("pk_call_logs")),
        postgresql_partition_by="RANGE (started_at)",
    )
    op.create_index("ix_call_logs_carrier_id_ref", "call_logs", ["carrier_id", "ref"], unique=False)
    op.create_table(
        "calls",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=False),
        sa.Column("caller", sa.String(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=True),
        sa.Column("version_id", sa.BigInteger(), nullable=True),
        sa.Column("source_id", sa.BigInteger(), nullable=True),
        sa.Column("source_by", sa.String(), nullable=False),
        sa.Column("fate", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("talk_seconds", sa.Double(), nullable=False),
        sa.Column("answered_by", sa.String(), nullable=False),
        sa.Column("labels", postgresql.ARRAY(sa.TEXT()), nullable=False),
        sa.Column("test", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", "started_at", name=op.f("pk_calls")),
        postgresql_partition_by="RANGE (started_at)",
    )
    op.create_index("ix_calls_agency_id_started_at", "calls", ["agency_id", "started_at"], unique=False)
    op.create_index("ix_calls_client_id_started_at", "calls", ["client_id", "started_at"], unique=False)
    op.create_index("ix_calls_source_id_started_at", "calls", ["source_id", "started_at"], unique=False)
    op.create_index(
        "ix_calls_caller_agency_id_started_at", "calls", ["caller", "agency_id", "started_at"], unique=False
    )
    op.create_table(
        "carriers",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("stand_in", sa.Boolean(), nullable=False),
        sa.Column("secret_version", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_carriers")),
        sa.UniqueConstraint("name", name=op.f("uq_carriers_name")),
    )
    op.create_table(
        "live_events",
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("entry", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.PrimaryKeyConstraint("call_id", "seq", name=op.f("pk_live_events")),
    )
    op.create_table(
        "sign_in_attempts",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_in_attempts")),
    )
    op.create_index("ix_sign_in_attempts_email_at", "sign_in_attempts", ["email", "at"], unique=False)
    op.create_table(
        "speech",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_speech")),
    )
    op.create_table(
        "clients",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("country", sa.String(), nullable=False),
        sa.Column("time_zone", sa.String(), nullable=False),
        sa.Column("city", sa.String(), nullable=False),
        sa.Column("fail_safe", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_clients_agency_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_clients")),
    )
    op.create_index(op.f("ix_clients_agency_id"), "clients", ["agency_id"], unique=False)
    op.create_index(
        "uq_clients_agency_id_name", "clients", ["agency_id", sa.literal_column("lower(name)")], unique=True
    )
    op.create_table(
        "test_phones",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("e164", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_test_phones_agency_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_test_phones")),
    )
    op.create_index(op.f("ix_test_phones_agency_id"), "test_phones", ["agency_id"], unique=False)
    op.create_index("uq_test_phones_agency_id_e164", "test_phones", ["agency_id", "e164"], unique=True)
    op.create_table(
        "call_days",
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=False),
        sa.Column("source_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("fate", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("calls", sa.Integer(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("talk_seconds", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_call_days_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_call_days_client_id")),
        sa.PrimaryKeyConstraint(
            "client_id", "day", "number_id", "source_id", "flow_id", "fate", "reason", name=op.f("pk_call_days")
        ),
    )
    op.create_index(op.f("ix_call_days_agency_id"), "call_days", ["agency_id"], unique=False)
    op.create_table(
        "flows",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("mark", sa.String(), nullable=False),
        sa.Column("draft", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("live_version_id", sa.BigInteger(), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_flows_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_flows_client_id")),
        sa.ForeignKeyConstraint(
            ["live_version_id"], ["flow_versions.id"], name="fk_flows_live_version_id", use_alter=True
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_flows")),
    )
    op.create_index(op.f("ix_flows_agency_id"), "flows", ["agency_id"], unique=False)
    op.create_index(op.f("ix_flows_client_id"), "flows", ["client_id"], unique=False)
    op.create_index("uq_flows_client_id_name", "flows", ["client_id", sa.literal_column("lower(name)")], unique=True)
    op.create_table(
        "lead_sources",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("medium", sa.String(), nullable=False),
        sa.Column("campaign", sa.String(), nullable=False),
        sa.Column("term", sa.String(), nullable=False),
        sa.Column("content", sa.String(), nullable=False),
        sa.Column("placement", sa.String(), nullable=False),
        sa.Column("online", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_lead_sources_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_lead_sources_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lead_sources")),
    )
    op.create_index(op.f("ix_lead_sources_agency_id"), "lead_sources", ["agency_id"], unique=False)
    op.create_index(op.f("ix_lead_sources_client_id"), "lead_sources", ["client_id"], unique=False)
    op.create_index("uq_lead_sources_client_id_key", "lead_sources", ["client_id", "key"], unique=True)
    op.create_index(
        "uq_lead_sources_client_id_name", "lead_sources", ["client_id", sa.literal_column("lower(name)")], unique=True
    )
    op.create_table(
        "live_calls",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("carrier_id", sa.BigInteger(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("version_id", sa.BigInteger(), nullable=True),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("last_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("last_seq", sa.Integer(), nullable=False),
        sa.Column("talking_to", sa.String(), nullable=True),
        sa.Column("context", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("state", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_live_calls_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_live_calls_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_live_calls")),
    )
    op.create_index(op.f("ix_live_calls_agency_id"), "live_calls", ["agency_id"], unique=False)
    op.create_index(op.f("ix_live_calls_client_id"), "live_calls", ["client_id"], unique=False)
    op.create_index("ix_live_calls_talking_to", "live_calls", ["agency_id", "talking_to"], unique=False)
    op.create_index("uq_live_calls_carrier_id_ref", "live_calls", ["carrier_id", "ref"], unique=True)
    op.create_table(
        "mailboxes",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("tell", postgresql.ARRAY(sa.TEXT()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_mailboxes_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_mailboxes_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mailboxes")),
    )
    op.create_index(op.f("ix_mailboxes_agency_id"), "mailboxes", ["agency_id"], unique=False)
    op.create_index(op.f("ix_mailboxes_client_id"), "mailboxes", ["client_id"], unique=False)
    op.create_index("uq_mailboxes_client_id_key", "mailboxes", ["client_id", "key"], unique=True)
    op.create_index(
        "uq_mailboxes_client_id_name", "mailboxes", ["client_id", sa.literal_column("lower(name)")], unique=True
    )
    op.create_table(
        "users",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=True),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_users_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_users_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_users")),
        sa.UniqueConstraint("email", name=op.f("uq_users_email")),
    )
    op.create_index(op.f("ix_users_agency_id"), "users", ["agency_id"], unique=False)
    op.create_table(
        "voice_messages",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("call_id", sa.UUID(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("mailbox", sa.String(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("recording", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("told", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_voice_messages_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_voice_messages_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_voice_messages")),
    )
    op.create_index(op.f("ix_voice_messages_agency_id"), "voice_messages", ["agency_id"], unique=False)
    op.create_index(op.f("ix_voice_messages_call_id"), "voice_messages", ["call_id"], unique=False)
    op.create_index("ix_voice_messages_client_id_at", "voice_messages", ["client_id", "at"], unique=False)
    op.create_table(
        "audit_entries",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=True),
        sa.Column("user_id", sa.BigInteger(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("detail", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_audit_entries_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_audit_entries_client_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_audit_entries_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_entries")),
    )
    op.create_index(op.f("ix_audit_entries_agency_id"), "audit_entries", ["agency_id"], unique=False)
    op.create_index("ix_audit_entries_client_id_at", "audit_entries", ["client_id", "at"], unique=False)
    op.create_table(
        "draft_edits",
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("of_seq", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("rows", postgresql.ARRAY(sa.TEXT()), nullable=False),
        sa.Column("changes", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_draft_edits_agency_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_draft_edits_flow_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_draft_edits_user_id")),
        sa.PrimaryKeyConstraint("flow_id", "seq", name=op.f("pk_draft_edits")),
    )
    op.create_index(op.f("ix_draft_edits_agency_id"), "draft_edits", ["agency_id"], unique=False)
    op.create_index("ix_draft_edits_rows", "draft_edits", ["rows"], unique=False, postgresql_using="gin")
    op.create_table(
        "flow_versions",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("made_by", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_flow_versions_agency_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_flow_versions_flow_id")),
        sa.ForeignKeyConstraint(["made_by"], ["users.id"], name=op.f("fk_flow_versions_made_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_flow_versions")),
    )
    op.create_index(op.f("ix_flow_versions_agency_id"), "flow_versions", ["agency_id"], unique=False)
    op.create_index(op.f("ix_flow_versions_flow_id"), "flow_versions", ["flow_id"], unique=False)
    op.create_index("uq_flow_versions_flow_id_number", "flow_versions", ["flow_id", "number"], unique=True)
    op.create_table(
        "rehearsals",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("log", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("state", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_rehearsals_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_rehearsals_client_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_rehearsals_flow_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_rehearsals_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_rehearsals")),
    )
    op.create_index(op.f("ix_rehearsals_agency_id"), "rehearsals", ["agency_id"], unique=False)
    op.create_index(op.f("ix_rehearsals_client_id"), "rehearsals", ["client_id"], unique=False)
    op.create_index(op.f("ix_rehearsals_flow_id"), "rehearsals", ["flow_id"], unique=False)
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("form_token", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_sign_ins_user_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_ins")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_sign_ins_token_hash")),
    )
    op.create_index(op.f("ix_sign_ins_user_id"), "sign_ins", ["user_id"], unique=False)
    op.create_table(
        "tracking_numbers",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("carrier_id", sa.BigInteger(), nullable=False),
        sa.Column("e164", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=True),
        sa.Column("fail_safe", sa.String(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_tracking_numbers_agency_id")),
        sa.ForeignKeyConstraint(["carrier_id"], ["carriers.id"], name=op.f("fk_tracking_numbers_carrier_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_tracking_numbers_client_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_tracking_numbers_flow_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tracking_numbers")),
    )
    op.create_index(op.f("ix_tracking_numbers_agency_id"), "tracking_numbers", ["agency_id"], unique=False)
    op.create_index(op.f("ix_tracking_numbers_client_id"), "tracking_numbers", ["client_id"], unique=False)
    op.create_index(op.f("ix_tracking_numbers_flow_id"), "tracking_numbers", ["flow_id"], unique=False)
    op.create_index(
        "uq_tracking_numbers_e164",
        "tracking_numbers",
        ["e164"],
        unique=True,
        postgresql_where=sa.text("state <> 'released'"),
    )
    op.create_table(
        "assignments",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=False),
        sa.Column("number_id", sa.BigInteger(), nullable=False),
        sa.Column("source_id", sa.BigInteger(), nullable=False),
        sa.Column("during", postgresql.TSTZRANGE(), nullable=False),
        postgresql.ExcludeConstraint(
            (sa.column("number_id"), "="),
            (sa.column("during"), "&&"),
            using="gist",
            name="ex_assignments_one_at_a_time",
        ),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_assignments_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_assignments_client_id")),
        sa.ForeignKeyConstraint(["number_id"], ["tracking_numbers.id"], name=op.f("fk_assignments_number_id")),
        sa.ForeignKeyConstraint(["source_id"], ["lead_sources.id"], name=op.f("fk_assignments_source_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_assignments")),
    )
    op.create_index(op.f("ix_assignments_agency_id"), "assignments", ["agency_id"], unique=False)
    op.create_index(op.f("ix_assignments_client_id"), "assignments", ["client_id"], unique=False)
    op.create_index(op.f("ix_assignments_number_id"), "assignments", ["number_id"], unique=False)
    op.create_index(op.f("ix_assignments_source_id"), "assignments", ["source_id"], unique=False)
    op.create_table(
        "put_lives",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("flow_id", sa.BigInteger(), nullable=False),
        sa.Column("version_id", sa.BigInteger(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_put_lives_agency_id")),
        sa.ForeignKeyConstraint(["flow_id"], ["flows.id"], name=op.f("fk_put_lives_flow_id")),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_put_lives_user_id")),
        sa.ForeignKeyConstraint(["version_id"], ["flow_versions.id"], name=op.f("fk_put_lives_version_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_put_lives")),
    )
    op.create_index(op.f("ix_put_lives_agency_id"), "put_lives", ["agency_id"], unique=False)
    op.create_index(op.f("ix_put_lives_flow_id"), "put_lives", ["flow_id"], unique=False)
    op.create_index(op.f("ix_put_lives_version_id"), "put_lives", ["version_id"], unique=False)
    op.create_foreign_key("fk_flows_live_version_id", "flows", "flow_versions", ["live_version_id"], ["id"])
    for table in ("calls", "call_logs"):
        op.execute(f"CREATE TABLE {table}_other PARTITION OF {table} DEFAULT")
