"""Orders: many numbers taken in one go."""

from sqlalchemy import BigInteger, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant


class NumberOrder(Base):
    """Numbers to be taken in one go; `state` is running, stopped or done."""

    __tablename__ = "number_orders"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    made_by: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    made_at: Mapped[Instant]
    state: Mapped[str] = mapped_column(default="running")


class NumberOrderLine(Base):
    """One number of an order: for which source, at which flow; `state` is waiting, taken or refused, with the reason."""

    __tablename__ = "number_order_lines"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    order_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("number_orders.id"), index=True)
    source_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("lead_sources.id"))
    flow_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("flows.id"))
    e164: Mapped[str]
    state: Mapped[str] = mapped_column(default="waiting")
    reason: Mapped[str] = mapped_column(default="")
    number_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("tracking_numbers.id"))
