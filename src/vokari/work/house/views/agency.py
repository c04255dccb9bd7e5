"""Rows of agencies, clients and those who work for them, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from .base import View


@dataclass(frozen=True, slots=True)
class ClientView(View):
    """One business served; `country` is ISO 3166, `time_zone` an IANA name, `city` what people call its place."""

    id: int
    agency_id: int
    name: str
    country: str
    time_zone: str
    city: str
    fail_safe: str
    duty_number: str
    created_at: datetime
    naming_pattern: str
    same_area: bool
    likeness: str
    rest_days: int
    rest_words: str
    rest_to: str
    extension_pattern: dict[str, Any]


@dataclass(frozen=True, slots=True)
class ClientNameView(View):
    """A client where it is only named, with what numbers and moments are written by."""

    id: int
    name: str
    country: str
    time_zone: str


@dataclass(frozen=True, slots=True)
class UserView(View):
    """Who signs in."""

    id: int
    agency_id: int
    client_id: int | None
    email: str
    name: str
    role: str
    password_hash: str
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class AuditEntryView(View):
    """Who changed what, in words."""

    id: int
    agency_id: int
    client_id: int | None
    user_id: int | None
    at: datetime
    words: str
    detail: dict[str, Any]


@dataclass(frozen=True, slots=True)
class MailboxView(View):
    """Where voicemail lands, and the email addresses that are told."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    tell: list[str]


@dataclass(frozen=True, slots=True)
class TestPhoneView(View):
    """A phone whose calls count nowhere."""

    id: int
    agency_id: int
    e164: str
    name: str


@dataclass(frozen=True, slots=True)
class ApiTokenView(View):
    """A token by which a program reads the API, as the user who made it and within its scopes; known by its hash."""

    id: int
    agency_id: int
    user_id: int
    name: str
    scopes: list[str]
    token_hash: str
    created_at: datetime
    last_used_at: datetime | None


@dataclass(frozen=True, slots=True)
class PartRunView(View):
    """One process of a part, from its start on."""

    id: int
    part: str
    host: str
    pid: int
    started_at: datetime
    beat_at: datetime
    why: str
    free_bytes: int
