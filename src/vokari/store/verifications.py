"""Verification calls to phones that are rung."""

from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, Id, Instant


class Verification(Base):
    """A call that asked whoever picked up to press a key. `state` is waiting, ringing, pressed, not_answered, not_pressed or refused
    (by the carrier, with its `words`)."""

    __tablename__ = "verifications"
    __table_args__ = (Index("ix_verifications_client_id_destination", "client_id", "destination", "id"),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    destination: Mapped[str]
    ref: Mapped[str]
    asked_at: Mapped[Instant]
    asked_by: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("users.id"))
    state: Mapped[str] = mapped_column(default="ringing")
    words: Mapped[str] = mapped_column(default="")
    done_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
