"""Call flows: the draft with the log of its edits, the live versions, rehearsals, and the sound of prompts."""

import secrets
import uuid
from typing import Any

from sqlalchemy import BigInteger, ColumnElement, Computed, ForeignKey, Index, and_, func, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT, UUID
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json, parts_of


class CallFlow(Base):
    """A call flow, by the `key` that others name it by, which never changes: its draft as it stands (`revision` counts edits), whose
    name and mark the database reads out of it, and the version that is live, with the keys of the lead sources that its branches
    state; `worse` says in a few words that what is live loses more callers than what was before. Until `draft_until` calls of test phones
    run on the draft. One that was removed can be brought back."""

    __tablename__ = "flows"
    __mapper_args__ = {"eager_defaults": True}
    __table_args__ = (
        Index(
            "uq_flows_client_id_name", "client_id", func.lower(text("name")), unique=True,
            postgresql_where=text("removed_at IS NULL"),
        ),
        Index("uq_flows_client_id_key", "client_id", "key", unique=True),
        parts_of("flows", "name"),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str] = mapped_column(default=lambda: f"fl_{secrets.token_hex(4)}")
    name: Mapped[str] = mapped_column(Computed("draft ->> 'name'", persisted=True))
    mark: Mapped[str] = mapped_column(Computed("draft ->> 'mark'", persisted=True))
    draft: Mapped[Json]
    revision: Mapped[int] = mapped_column(default=0)
    live_version_id: Mapped[int | None] = mapped_column(
        BigInteger, ForeignKey("flow_versions.id", use_alter=True, name="fk_flows_live_version_id")
    )
    stated: Mapped[list[str]] = mapped_column(ARRAY(TEXT), default=list)
    worse: Mapped[str] = mapped_column(default="", server_default="")
    draft_until: Mapped[Instant | None]
    removed_at: Mapped[Instant | None]

    @classmethod
    def of(cls, client_id: int) -> ColumnElement[bool]:
        """Whether a flow is one of a client's that was not removed."""
        return and_(cls.client_id == client_id, cls.removed_at.is_(None))


class DraftEdit(Base):
    """One edit of a draft: who, when, in words, the rows it changed; an undo names the edit it takes back."""

    __tablename__ = "draft_edits"
    __table_args__ = (
        Index("ix_draft_edits_rows", "rows", postgresql_using="gin"),
        Index("ix_draft_edits_flow_id_user_id_seq", "flow_id", "user_id", "seq"),
    )

    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), primary_key=True)
    seq: Mapped[int] = mapped_column(primary_key=True)
    agency_id: Mapped[AgencyId]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]
    kind: Mapped[str]
    of_seq: Mapped[int | None]
    words: Mapped[str]
    rows: Mapped[list[str]] = mapped_column(ARRAY(TEXT))
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)


class FlowVersion(Base):
    """A live version: a document that never changes, with the `consents` that were given for what was found of it."""

    __tablename__ = "flow_versions"
    __table_args__ = (Index("uq_flow_versions_flow_id_number", "flow_id", "number", unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), index=True)
    number: Mapped[int]
    document: Mapped[Json]
    revision: Mapped[int]
    made_by: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    made_at: Mapped[Instant]
    consents: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)


class PutLive(Base):
    """A moment at which a version went live, and why, in the words of whoever put it live; the latest of a flow is the one callers
    meet."""

    __tablename__ = "put_lives"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), index=True)
    version_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flow_versions.id"), index=True)
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]
    why: Mapped[str] = mapped_column(default="")


class FlowPassage(Base):
    """How many calls passed a step of a version, or one of its exits (empty: the step as a whole), and how many callers gave up there."""

    __tablename__ = "flow_passages"

    version_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flow_versions.id"), primary_key=True)
    step: Mapped[str] = mapped_column(primary_key=True)
    exit: Mapped[str] = mapped_column(primary_key=True)
    calls: Mapped[int]
    gave_up: Mapped[int]


class Rehearsal(Base):
    """A test call on a draft or version: the document it runs, its settings, and its log."""

    __tablename__ = "rehearsals"

    id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), index=True)
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    created_at: Mapped[Instant]
    revision: Mapped[int]
    document: Mapped[Json]
    settings: Mapped[Json]
    log: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
    state: Mapped[Json]


class Speech(Base):
    """A sound that calls play, made once, by its name: of a text in a language and `voice` (as `Voice`), or of a recording; where it is
    stored (empty: nobody asked for it yet) and its length in seconds."""

    __tablename__ = "speech"

    name: Mapped[str] = mapped_column(primary_key=True)
    language: Mapped[str]
    words: Mapped[str]
    voice: Mapped[Json] = mapped_column(default=dict)
    file: Mapped[str]
    seconds: Mapped[float]
