"""Prompts: the library of clients and of the agency, takes, which take plays from when to when, and how takes are asked for."""

from datetime import datetime
from typing import Any, Literal

from sqlalchemy import BigInteger, Computed, DateTime, ForeignKey, Index, func, text
from sqlalchemy.dialects.postgresql import JSONB, TEXT
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, Id, Instant, Json, parts_of

How = Literal["read", "browser", "telephone", "link", "uploaded"]


class PromptRow(Base):
    """A prompt of the library as `core.prompts.document.LibraryPrompt`, by the `key` that flows name it by; of the agency as a whole where it
    has no client. `made_at` and `changed_at` tell when it was made, and its words or recording last changed."""

    __tablename__ = "prompts"
    __mapper_args__ = {"eager_defaults": True}
    __table_args__ = (
        Index(
            "uq_prompts_name", "agency_id", func.coalesce(text("client_id"), text("0")), func.lower(text("name")), unique=True,
            postgresql_where=text("removed_at IS NULL"),
        ),
        Index("uq_prompts_key", "agency_id", "key", unique=True),
        parts_of("prompts", "name"),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("clients.id"), index=True)
    key: Mapped[str]
    document: Mapped[Json]
    name: Mapped[str] = mapped_column(Computed("document ->> 'name'", persisted=True))
    revision: Mapped[int] = mapped_column(default=0)
    made_at: Mapped[Instant]
    changed_at: Mapped[Instant]
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class Take(Base):
    """What a prompt sounds like in one language, for good: words that a voice reads (`voice` as `Voice`, None: the flow's own), or a
    recording with its words. Takes of a prompt are numbered; the last one that is ready and was not set aside is what drafts play.

    `words_are` tells of a recording whether its words were typed, proposed by the transcriber and unchecked, or confirmed. `original` is
    the file as it came, `sound` the name of its telephone audio in `speech`; `measured` and `warnings` are of the original, `waveform` of
    the sound. `state` is coming until the worker has made it, then ready, or failed with a `problem`; `heard_at` when somebody of the
    agency heard it first.
    """

    __tablename__ = "takes"
    __table_args__ = (Index("uq_takes_number", "prompt_id", "number", unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    prompt_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("prompts.id"))
    number: Mapped[int]
    language: Mapped[str]
    how: Mapped[How] = mapped_column(TEXT)
    words: Mapped[str]
    words_are: Mapped[Literal["typed", "proposed", "confirmed"]] = mapped_column(TEXT)
    voice: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    original: Mapped[str] = mapped_column(default="")
    original_name: Mapped[str] = mapped_column(default="")
    begins: Mapped[float | None]
    ends: Mapped[float | None]
    sound: Mapped[str] = mapped_column(default="")
    seconds: Mapped[float] = mapped_column(default=0.0)
    measured: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    waveform: Mapped[list[int]] = mapped_column(JSONB, default=list)
    warnings: Mapped[list[str]] = mapped_column(JSONB, default=list)
    state: Mapped[Literal["coming", "ready", "failed"]] = mapped_column(TEXT)
    problem: Mapped[str] = mapped_column(default="")
    made_at: Mapped[Instant]
    made_by: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("users.id"))
    spoken_by: Mapped[str] = mapped_column(default="")
    heard_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    set_aside: Mapped[bool] = mapped_column(default=False)


class PlayedTake(Base):
    """Which take a live version of a flow plays of a prompt in a language, from a moment up to another (None: on). One without a version is
    a season: every version plays it meanwhile, and gives back by itself. One that was taken back counts no more."""

    __tablename__ = "played_takes"
    __table_args__ = (
        Index("ix_played_takes_version", "version_id", "prompt_id"),
        Index("ix_played_takes_season", "prompt_id", postgresql_where=text("version_id IS NULL")),
    )

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    prompt_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("prompts.id"))
    language: Mapped[str]
    take_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("takes.id"))
    version_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("flow_versions.id"))
    since: Mapped[Instant]
    until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    made_at: Mapped[Instant]
    made_by: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    batch: Mapped[str]
    taken_back_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class AskedTake(Base):
    """A take that somebody is asked for: by a call to a phone (`to`, E.164; `ref` is the carrier's), or by a link that opens until `ends_at`
    for this prompt alone. `state` is waiting, ringing, speaking, done, not_answered, refused, ended; `words` say
    more; `recording` is what was recorded last in the call, where the carrier keeps it."""

    __tablename__ = "asked_takes"
    __table_args__ = (Index("ix_asked_takes_prompt", "prompt_id"), Index("ix_asked_takes_ref", "ref"))

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    prompt_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("prompts.id"))
    language: Mapped[str]
    by: Mapped[Literal["telephone", "link"]] = mapped_column(TEXT)
    to: Mapped[str] = mapped_column(default="")
    ref: Mapped[str] = mapped_column(default="")
    spoken_by: Mapped[str] = mapped_column(default="")
    words: Mapped[str] = mapped_column(default="")
    recording: Mapped[str] = mapped_column(default="")
    state: Mapped[str]
    asked_at: Mapped[Instant]
    asked_by: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    ends_at: Mapped[Instant]
    done_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    take_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("takes.id"))
