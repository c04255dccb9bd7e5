"""People and teams of a client, whose turn it is, what is known of each at work, and calls that verify phones."""

from datetime import date, datetime

from sqlalchemy import BigInteger, Computed, DateTime, ForeignKey, Index, Integer, func, text
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json


class PersonRow(Base):
    """Somebody who can be rung. `key` is what flows and teams name them by; it never changes. `name` and `extension` are read
    out of the document by the database. `link_version` renews the private address of their own page, `pin_version` their PIN
    for the duty line."""

    __tablename__ = "people"
    __mapper_args__ = {"eager_defaults": True}
    __table_args__ = (
        Index("uq_people_client_id_key", "client_id", "key", unique=True),
        Index(
            "uq_people_client_id_name", "client_id", func.lower(text("name")), unique=True,
            postgresql_where=text("removed_at IS NULL"),
        ),
        Index(
            "uq_people_client_id_extension", "client_id", "extension", unique=True,
            postgresql_where=text("extension <> '' AND removed_at IS NULL"),
        ),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str]
    name: Mapped[str] = mapped_column(Computed("document ->> 'name'", persisted=True))
    extension: Mapped[str] = mapped_column(Computed("COALESCE(document ->> 'extension', '')", persisted=True))
    link_version: Mapped[int] = mapped_column(default=1)
    pin_version: Mapped[int] = mapped_column(default=1)
    document: Mapped[Json]
    revision: Mapped[int] = mapped_column(default=0)
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class TeamRow(Base):
    """A team. `key` is what flows and other teams name it by; it never changes. `name` is read out of the document."""

    __tablename__ = "teams"
    __mapper_args__ = {"eager_defaults": True}
    __table_args__ = (
        Index("uq_teams_client_id_key", "client_id", "key", unique=True),
        Index(
            "uq_teams_client_id_name", "client_id", func.lower(text("name")), unique=True,
            postgresql_where=text("removed_at IS NULL"),
        ),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str]
    name: Mapped[str] = mapped_column(Computed("document ->> 'name'", persisted=True))
    document: Mapped[Json]
    revision: Mapped[int] = mapped_column(default=0)
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class TurnRow(Base):
    """Whose turn it was in a team, or in a step of a flow that rings people by turns; read and written under its lock."""

    __tablename__ = "turns"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    document: Mapped[Json]


class DutyRow(Base):
    """A person at work: switched off since when, calls taken on a day of the client's, idle since, how many rings in a row nobody
    answered, and until when hold lines leave them alone because they did not take a caller; and how many wrong
    PINs in a row came from their phone."""

    __tablename__ = "duty"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    person: Mapped[str] = mapped_column(primary_key=True)
    off: Mapped[bool] = mapped_column(default=False)
    off_since: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    taken_on: Mapped[date | None]
    taken: Mapped[int] = mapped_column(Integer, default=0)
    idle_since: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    rests_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    missed: Mapped[int] = mapped_column(Integer, default=0)
    wrong_pins: Mapped[int] = mapped_column(Integer, default=0)


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
