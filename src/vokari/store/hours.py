"""Sets of hours with the log of their changes, exceptions shared by clients, and temporary switches."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Computed, DateTime, ForeignKey, Index, func, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json


class HoursSet(Base):
    """A set of hours. `key` is what flows name it by, `purpose` client (in flows) or own (of a person or a phone),
    `lists` the shared lists of exceptions that hold here too, `feed_version` renews its subscription address. `name` is read
    out of the document by the database."""

    __tablename__ = "hours_sets"
    __mapper_args__ = {"eager_defaults": True}
    __table_args__ = (
        Index("uq_hours_sets_client_id_key", "client_id", "key", unique=True),
        Index(
            "uq_hours_sets_client_id_name", "client_id", func.lower(text("name")), unique=True,
            postgresql_where=text("removed_at IS NULL"),
        ),
        Index(
            "uq_hours_sets_client_id_main", "client_id", unique=True,
            postgresql_where=text("is_main AND removed_at IS NULL"),
        ),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str]
    name: Mapped[str] = mapped_column(Computed("document ->> 'name'", persisted=True))
    purpose: Mapped[str] = mapped_column(default="client")
    is_main: Mapped[bool] = mapped_column(default=False)
    document: Mapped[Json]
    lists: Mapped[list[int]] = mapped_column(ARRAY(BigInteger), default=list)
    revision: Mapped[int] = mapped_column(default=0)
    feed_version: Mapped[int] = mapped_column(default=1)
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class ExceptionList(Base):
    """Exceptions kept at the agency, which many sets of hours share."""

    __tablename__ = "exception_lists"
    __table_args__ = (Index("uq_exception_lists_agency_id_name", "agency_id", func.lower(text("name")), unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    name: Mapped[str]
    exceptions: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)
    revision: Mapped[int] = mapped_column(default=0)


class HoursSwitch(Base):
    """A temporary switch of a client: `closed` or `open` (a period) for one set or, with no set, for all of them; or
    `divert`, which sends all its calls to a phone. It ends at `until`, or before by hand at `ended_at`."""

    __tablename__ = "hours_switches"
    __table_args__ = (Index("ix_hours_switches_client_id_until", "client_id", "until"),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    hours_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("hours_sets.id"))
    kind: Mapped[str]
    period: Mapped[str] = mapped_column(default="")
    phone: Mapped[str] = mapped_column(default="")
    since: Mapped[Instant]
    until: Mapped[Instant]
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
