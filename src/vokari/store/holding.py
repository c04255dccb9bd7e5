"""Hold lines: who waits in them, and how long a talk with those who serve them lasts."""

import uuid
from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey, Identity, Index, text
from sqlalchemy.dialects.postgresql import UUID
from sqlalchemy.orm import Mapped, mapped_column

from .base import Base, Instant


class HoldLineRow(Base):
    """The line of a team: the mean seconds of a talk with somebody who serves it, a running mean; 0 before the first."""

    __tablename__ = "hold_lines"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    team: Mapped[str] = mapped_column(primary_key=True)
    mean_seconds: Mapped[float] = mapped_column(default=0.0)


class Hold(Base):
    """A caller in a line; `place` counts up in order of arrival. `offered` is the person whose phone rings for them,
    `answered_at` when somebody took them: the row stays until that talk is over."""

    __tablename__ = "holds"
    __table_args__ = (
        Index("uq_holds_call_id", "call_id", unique=True),
        Index("ix_holds_waiting", "client_id", "team", "place", postgresql_where=text("answered_at IS NULL")),
    )

    place: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True))
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    team: Mapped[str]
    ref: Mapped[str]
    caller: Mapped[str] = mapped_column(default="")
    flow_id: Mapped[int | None] = mapped_column(BigInteger)
    step: Mapped[str]
    joined_at: Mapped[Instant]
    offered: Mapped[str] = mapped_column(default="")
    answered_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
