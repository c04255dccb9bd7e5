"""Changes that take effect at a moment to come."""

from datetime import datetime
from typing import Any, Literal

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, text
from sqlalchemy.dialects.postgresql import JSONB, TEXT
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant


class DueChange(Base):
    """Something that is to happen at a moment: what (`kind`, to the row `of_id`, with its `detail`), who asked for it and when. `state` is
    waiting, done, taken_back, or refused with its `words`."""

    __tablename__ = "due_changes"
    __table_args__ = (
        Index("ix_due_changes_waiting", "at", postgresql_where=text("state = 'waiting'")),
        Index("ix_due_changes_of", "kind", "of_id"),
    )

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    kind: Mapped[str]
    of_id: Mapped[int] = mapped_column(BigInteger)
    at: Mapped[Instant]
    detail: Mapped[dict[str, Any]] = mapped_column(JSONB)
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    made_at: Mapped[Instant]
    state: Mapped[Literal["waiting", "done", "taken_back", "refused"]] = mapped_column(TEXT, default="waiting")
    done_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    words: Mapped[str] = mapped_column(default="")
