"""Lead sources, tracking numbers, and which number was given to which source, from when to when; orders, ports and documents."""

from datetime import datetime
from decimal import Decimal

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, Numeric, func, text
from sqlalchemy.dialects.postgresql import ARRAY, TEXT, TSTZRANGE, ExcludeConstraint, Range
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, parts_of


class Carrier(Base):
    """A carrier that numbers are taken from. Only a stand-in may let a call's clock differ from the wall's. `asked_after`:
    its number of the latest of those calls, which it took to their fail-safe, that it was asked for."""

    __tablename__ = "carriers"

    id: Mapped[Id]
    name: Mapped[str] = mapped_column(unique=True)
    stand_in: Mapped[bool]
    secret_version: Mapped[int] = mapped_column(default=1)
    asked_after: Mapped[int] = mapped_column(BigInteger, default=0)


class LeadSource(Base):
    """What a number is given to, named by the open campaign tags; `key` is what flows name it by, `extension` the digits
    that a caller dials to state it (empty for none)."""

    __tablename__ = "lead_sources"
    __table_args__ = (
        Index("uq_lead_sources_client_id_key", "client_id", "key", unique=True),
        Index("uq_lead_sources_client_id_name", "client_id", func.lower(text("name")), unique=True),
        Index(
            "uq_lead_sources_client_id_extension", "client_id", "extension", unique=True,
            postgresql_where=text("extension <> ''"),
        ),
        parts_of("lead_sources", "name"), parts_of("lead_sources", "campaign"),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str]
    name: Mapped[str]
    source: Mapped[str] = mapped_column(default="")
    medium: Mapped[str] = mapped_column(default="")
    campaign: Mapped[str] = mapped_column(default="")
    term: Mapped[str] = mapped_column(default="")
    content: Mapped[str] = mapped_column(default="")
    placement: Mapped[str] = mapped_column(default="")
    online: Mapped[bool] = mapped_column(default=False)
    extension: Mapped[str] = mapped_column(default="")


class TrackingNumber(Base):
    """An E.164 number taken from a carrier. `rent` is a month's, `set_up` was paid once, both in US dollars; `name` may
    be empty; `asked_for` are the documents that the carrier waits for. `fail_safe_told` is the destination that the carrier
    has, `fail_safe_said` what it answered when it did not take the latest one."""

    __tablename__ = "tracking_numbers"
    __table_args__ = (
        Index("uq_tracking_numbers_e164", "e164", unique=True, postgresql_where=text("state <> 'released'")),
        Index(
            "uq_tracking_numbers_client_id_name", "client_id", func.lower(text("name")), unique=True,
            postgresql_where=text("name <> '' AND state <> 'released'"),
        ),
        parts_of("tracking_numbers", "e164"),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    carrier_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("carriers.id"))
    e164: Mapped[str]
    place: Mapped[str] = mapped_column(default="")
    kind: Mapped[str] = mapped_column(default="local")
    state: Mapped[str] = mapped_column(default="in_service")
    flow_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("flows.id"), index=True)
    fail_safe: Mapped[str] = mapped_column(default="")
    fail_safe_told: Mapped[str] = mapped_column(default="")
    fail_safe_said: Mapped[str] = mapped_column(default="")
    taken_at: Mapped[Instant]
    name: Mapped[str] = mapped_column(default="")
    whisper: Mapped[str] = mapped_column(default="")
    rent: Mapped[Decimal] = mapped_column(Numeric(10, 2), default=Decimal(0))
    set_up: Mapped[Decimal] = mapped_column(Numeric(10, 2), default=Decimal(0))
    rest_since: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    rest_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended_how: Mapped[str] = mapped_column(default="")
    asked_for: Mapped[list[str]] = mapped_column(ARRAY(TEXT), default=list)


class Assignment(Base):
    """A number given to a lead source from one moment to another. Two of one number cannot overlap."""

    __tablename__ = "assignments"
    __table_args__ = (
        ExcludeConstraint(("number_id", "="), ("during", "&&"), name="ex_assignments_one_at_a_time", using="gist"),
    )

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    number_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("tracking_numbers.id"), index=True)
    source_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("lead_sources.id"), index=True)
    during: Mapped[Range[datetime]] = mapped_column(TSTZRANGE)


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
