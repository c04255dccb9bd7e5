"""The workspace: agencies, who signs in, the clients, and the trail of who changed what."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, func, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT
from sqlalchemy.orm import Mapped, mapped_column

from ..core.agency import defaults
from ..core.prompts.consent import ALL_PARTIES
from .base import AgencyId, Base, ClientId, Id, Instant, parts_of


class Agency(Base):
    """The workspace; `consent_places` are those where everybody on the line must agree to being recorded (ISO 3166-2)."""

    __tablename__ = "agencies"

    id: Mapped[Id]
    name: Mapped[str]
    consent_places: Mapped[list[str]] = mapped_column(JSONB, default=lambda: list(ALL_PARTIES))


class Client(Base):
    """One business served; `country` is ISO 3166, `time_zone` an IANA name, `city` what people call its place."""

    __tablename__ = "clients"
    __table_args__ = (
        Index("uq_clients_agency_id_name", "agency_id", func.lower(text("name")), unique=True), parts_of("clients", "name"),
    )  # fmt: skip

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    name: Mapped[str]
    country: Mapped[str]
    time_zone: Mapped[str]
    city: Mapped[str] = mapped_column(default="")
    fail_safe: Mapped[str] = mapped_column(default="")
    duty_number: Mapped[str] = mapped_column(default="")
    created_at: Mapped[Instant]
    naming_pattern: Mapped[str] = mapped_column(default="")
    same_area: Mapped[bool] = mapped_column(default=defaults.SAME_AREA)
    likeness: Mapped[str] = mapped_column(default=defaults.LIKENESS)
    rest_days: Mapped[int] = mapped_column(default=defaults.REST_DAYS)
    rest_words: Mapped[str] = mapped_column(default="")
    rest_to: Mapped[str] = mapped_column(default="")
    extension_pattern: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class User(Base):
    """Who signs in. Viewers and editors have one client; owners and specialists have all of the agency's. Somebody who was
    removed signs in no more, and stays named in what they did."""

    __tablename__ = "users"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("clients.id"))
    email: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class ClientVisit(Base):
    """When somebody last worked at a client."""

    __tablename__ = "client_visits"
    __table_args__ = (Index("ix_client_visits_user_id_at", "user_id", "at"),)

    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"), primary_key=True)
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    at: Mapped[Instant]


class SignIn(Base):
    """A signed-in browser, known by the hash of its cookie; revocable."""

    __tablename__ = "sign_ins"

    id: Mapped[Id]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"), index=True)
    token_hash: Mapped[str] = mapped_column(unique=True)
    form_token: Mapped[str]
    created_at: Mapped[Instant]
    expires_at: Mapped[Instant]


class KnownBrowser(Base):
    """A browser in which somebody has signed in before, known by the hash of its cookie."""

    __tablename__ = "known_browsers"

    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"), primary_key=True)
    token_hash: Mapped[str] = mapped_column(primary_key=True)
    used_at: Mapped[Instant]


class SignInAttempt(Base):
    """An attempt to sign in that did not, or not yet, succeed, kept to slow down guessing: from which source, by which known
    browser (empty: a stranger's), and when it is answered."""

    __tablename__ = "sign_in_attempts"
    __table_args__ = (
        Index("ix_sign_in_attempts_email_at", "email", "at"), Index("ix_sign_in_attempts_source_at", "source", "at")
    )  # fmt: skip

    id: Mapped[Id]
    email: Mapped[str]
    at: Mapped[Instant]
    source: Mapped[str] = mapped_column(default="")
    browser: Mapped[str] = mapped_column(default="")
    answered_at: Mapped[Instant]


class AuditEntry(Base):
    """Who changed what, in words."""

    __tablename__ = "audit_entries"
    __table_args__ = (Index("ix_audit_entries_client_id_at", "client_id", "at"),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("clients.id"))
    user_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]
    words: Mapped[str]
    detail: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class Mailbox(Base):
    """Where voicemail lands, and the email addresses that are told. `key` is what flows name it by."""

    __tablename__ = "mailboxes"
    __table_args__ = (
        Index("uq_mailboxes_client_id_key", "client_id", "key", unique=True),
        Index("uq_mailboxes_client_id_name", "client_id", func.lower(text("name")), unique=True),
    )

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    key: Mapped[str]
    name: Mapped[str]
    tell: Mapped[list[str]] = mapped_column(ARRAY(TEXT), default=list)


class TestPhone(Base):
    """A phone whose calls count nowhere."""

    __tablename__ = "test_phones"
    __table_args__ = (Index("uq_test_phones_agency_id_e164", "agency_id", "e164", unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    e164: Mapped[str]
    name: Mapped[str]


class ApiToken(Base):
    """A token by which a program reads the API, as the user who made it and within its scopes; known by its hash."""

    __tablename__ = "api_tokens"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    name: Mapped[str]
    scopes: Mapped[list[str]] = mapped_column(ARRAY(TEXT), default=list)
    token_hash: Mapped[str] = mapped_column(unique=True)
    created_at: Mapped[Instant]
    last_used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
