"""What was spent on a client's campaigns, by day, and the entries by which it came in."""

from datetime import date
from decimal import Decimal
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Numeric
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant


class Spend(Base):
    """What was spent on a campaign (as lead sources name it, in small letters) on a day, in the client's currency."""

    __tablename__ = "spends"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    campaign: Mapped[str] = mapped_column(primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    agency_id: Mapped[AgencyId]
    amount: Mapped[Decimal] = mapped_column(Numeric(12, 2))


class SpendEntry(Base):
    """Spend that somebody typed or brought in: what in words, and what stood there `before`, so that it can be taken back."""

    __tablename__ = "spend_entries"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]
    words: Mapped[str]
    before: Mapped[list[list[Any]]] = mapped_column(JSONB)
    undone: Mapped[bool] = mapped_column(default=False)
