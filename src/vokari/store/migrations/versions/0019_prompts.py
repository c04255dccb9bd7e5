"""Prompts of the library, their takes, and which take plays from when to when"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0019"
down_revision = "0018"

_INSTANT = sa.DateTime(timezone=True)
_JSON = postgresql.JSONB(astext_type=sa.Text())


_ALL_PARTIES = (
    '["US-CA", "US-CT", "US-DE", "US-FL", "US-IL", "US-MD", "US-MA", "US-MT", "US-NV", "US-NH", "US-PA", "US-WA"]'
)


def upgrade() -> None:
    op.create_table(
        "prompts",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("client_id", sa.BigInteger(), nullable=True),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("document", _JSON, nullable=False),
        sa.Column("name", sa.String(), sa.Computed("document ->> 'name'", persisted=True), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("made_at", _INSTANT, nullable=False),
        sa.Column("changed_at", _INSTANT, nullable=False),
        sa.Column("removed_at", _INSTANT, nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_prompts_agency_id")),
        sa.ForeignKeyConstraint(["client_id"], ["clients.id"], name=op.f("fk_prompts_client_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_prompts")),
    )
    op.create_index(op.f("ix_prompts_agency_id"), "prompts", ["agency_id"])
    op.create_index(op.f("ix_prompts_client_id"), "prompts", ["client_id"])
    op.create_index("uq_prompts_key", "prompts", ["agency_id", "key"], unique=True)
    op.create_index(
        "uq_prompts_name", "prompts", ["agency_id", sa.text("coalesce(client_id, 0)"), sa.text("lower(name)")],
        unique=True, postgresql_where=sa.text("removed_at IS NULL"),
    )  # fmt: skip
    op.create_index(
        "ix_prompts_name_parts", "prompts", ["name"], postgresql_using="gin", postgresql_ops={"name": "gin_trgm_ops"}
    )
    op.create_table(
        "takes",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("prompt_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("how", sa.TEXT(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("words_are", sa.TEXT(), nullable=False),
        sa.Column("voice", _JSON, nullable=True),
        sa.Column("original", sa.String(), nullable=False),
        sa.Column("original_name", sa.String(), nullable=False),
        sa.Column("begins", sa.Float(), nullable=True),
        sa.Column("ends", sa.Float(), nullable=True),
        sa.Column("sound", sa.String(), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=False),
        sa.Column("measured", _JSON, nullable=True),
        sa.Column("waveform", _JSON, nullable=False),
        sa.Column("warnings", _JSON, nullable=False),
        sa.Column("state", sa.TEXT(), nullable=False),
        sa.Column("problem", sa.String(), nullable=False),
        sa.Column("made_at", _INSTANT, nullable=False),
        sa.Column("made_by", sa.BigInteger(), nullable=True),
        sa.Column("spoken_by", sa.String(), nullable=False),
        sa.Column("heard_at", _INSTANT, nullable=True),
        sa.Column("set_aside", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_takes_agency_id")),
        sa.ForeignKeyConstraint(["prompt_id"], ["prompts.id"], name=op.f("fk_takes_prompt_id")),
        sa.ForeignKeyConstraint(["made_by"], ["users.id"], name=op.f("fk_takes_made_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_takes")),
    )
    op.create_index(op.f("ix_takes_agency_id"), "takes", ["agency_id"])
    op.create_index("uq_takes_number", "takes", ["prompt_id", "number"], unique=True)
    op.create_table(
        "played_takes",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("prompt_id", sa.BigInteger(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("version_id", sa.BigInteger(), nullable=True),
        sa.Column("since", _INSTANT, nullable=False),
        sa.Column("until", _INSTANT, nullable=True),
        sa.Column("made_at", _INSTANT, nullable=False),
        sa.Column("made_by", sa.BigInteger(), nullable=False),
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("taken_back_at", _INSTANT, nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_played_takes_agency_id")),
        sa.ForeignKeyConstraint(["prompt_id"], ["prompts.id"], name=op.f("fk_played_takes_prompt_id")),
        sa.ForeignKeyConstraint(["take_id"], ["takes.id"], name=op.f("fk_played_takes_take_id")),
        sa.ForeignKeyConstraint(["version_id"], ["flow_versions.id"], name=op.f("fk_played_takes_version_id")),
        sa.ForeignKeyConstraint(["made_by"], ["users.id"], name=op.f("fk_played_takes_made_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_played_takes")),
    )
    op.create_index(op.f("ix_played_takes_agency_id"), "played_takes", ["agency_id"])
    op.create_index("ix_played_takes_version", "played_takes", ["version_id", "prompt_id"])
    op.create_index(
        "ix_played_takes_season", "played_takes", ["prompt_id"], postgresql_where=sa.text("version_id IS NULL")
    )
    op.create_table(
        "asked_takes",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("agency_id", sa.BigInteger(), nullable=False),
        sa.Column("prompt_id", sa.BigInteger(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("by", sa.TEXT(), nullable=False),
        sa.Column("to", sa.String(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("spoken_by", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("recording", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("asked_at", _INSTANT, nullable=False),
        sa.Column("asked_by", sa.BigInteger(), nullable=False),
        sa.Column("ends_at", _INSTANT, nullable=False),
        sa.Column("done_at", _INSTANT, nullable=True),
        sa.Column("take_id", sa.BigInteger(), nullable=True),
        sa.ForeignKeyConstraint(["agency_id"], ["agencies.id"], name=op.f("fk_asked_takes_agency_id")),
        sa.ForeignKeyConstraint(["prompt_id"], ["prompts.id"], name=op.f("fk_asked_takes_prompt_id")),
        sa.ForeignKeyConstraint(["asked_by"], ["users.id"], name=op.f("fk_asked_takes_asked_by")),
        sa.ForeignKeyConstraint(["take_id"], ["takes.id"], name=op.f("fk_asked_takes_take_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_asked_takes")),
    )
    op.create_index(op.f("ix_asked_takes_agency_id"), "asked_takes", ["agency_id"])
    op.create_index("ix_asked_takes_prompt", "asked_takes", ["prompt_id"])
    op.create_index("ix_asked_takes_ref", "asked_takes", ["ref"])
    op.alter_column("live_calls", "client_id", nullable=True)
    op.add_column("agencies", sa.Column("consent_places", _JSON, nullable=False, server_default=_ALL_PARTIES))
    op.add_column("speech", sa.Column("voice", _JSON, nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("speech", "voice")
    op.drop_column("agencies", "consent_places")
    op.alter_column("live_calls", "client_id", nullable=False)
    for table in ("asked_takes", "played_takes", "takes", "prompts"):
        op.drop_table(table)
