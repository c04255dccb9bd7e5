"""Numbers that come across from other carriers, and the documents that carriers ask for."""

from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant


class NumberDocument(Base):
    """A document that was given to the carrier for a number."""

    __tablename__ = "number_documents"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    number_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("tracking_numbers.id"), index=True)
    kind: Mapped[str]
    name: Mapped[str]
    file: Mapped[str]
    at: Mapped[Instant]


class Port(Base):
    """A number that comes across from another carrier. `stage` is requested, documents, accepted, rejected, done or
    withdrawn; `words` say why; `moves_at` is the moment of the transfer, from which `source_id` has the number."""

    __tablename__ = "ports"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    number_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("tracking_numbers.id"), index=True)
    source_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("lead_sources.id"))
    ref: Mapped[str]
    losing_carrier: Mapped[str]
    account: Mapped[str]
    stage: Mapped[str] = mapped_column(default="requested")
    words: Mapped[str] = mapped_column(default="")
    moves_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    requested_at: Mapped[Instant]
