"""Calls: those in progress with their log and their look-ups, the history by month, and the rollups that reports read."""

import uuid
from datetime import date
from typing import Any, Literal

from sqlalchemy import JSON, BigInteger, ForeignKey, Index, Integer
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT, UUID
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json


class LiveCall(Base):
    """A call in progress. `context` holds what was true when it arrived; `talking_to` a number that is connected now.
    `alive_at` is the wall's time of its latest event, or of the carrier's word that it exists still; `gone`: the caller has
    hung up, and only work of our own is waited for."""

    __tablename__ = "live_calls"
    __table_args__ = (
        Index("uq_live_calls_carrier_id_ref", "carrier_id", "ref", unique=True),
        Index("ix_live_calls_talking_to", "agency_id", "talking_to"),
    )

    id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    carrier_id: Mapped[int] = mapped_column(BigInteger)
    ref: Mapped[str]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    version_id: Mapped[int | None] = mapped_column(BigInteger)
    started_at: Mapped[Instant]
    last_at: Mapped[Instant]
    last_seq: Mapped[int]
    talking_to: Mapped[str | None]
    alive_at: Mapped[Instant]
    gone: Mapped[bool] = mapped_column(default=False)
    context: Mapped[Json]
    state: Mapped[Json]


class LiveEvent(Base):
    """One event of a call in progress, with what was answered; moved to the call's log when it ends. Both are kept as text (json),
    so that a repeated event gets its answer to the byte."""

    __tablename__ = "live_events"

    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    seq: Mapped[int] = mapped_column(primary_key=True)
    entry: Mapped[dict[str, Any]] = mapped_column(JSON)


class Call(Base):
    """A call that is over. `source_id` is the lead source it is credited to; test calls count nowhere. `fail_safe`: the
    carrier took it to the number's fail-safe, "instead" of the flow or "after" a part of it; empty otherwise."""

    __tablename__ = "calls"
    __table_args__ = (
        Index("ix_calls_client_id_started_at", "client_id", "started_at"),
        Index("ix_calls_agency_id_started_at", "agency_id", "started_at"),
        Index("ix_calls_source_id_started_at", "source_id", "started_at"),
        Index("ix_calls_caller_agency_id_started_at", "caller", "agency_id", "started_at"),
        {"postgresql_partition_by": "RANGE (started_at)"},
    )

    id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    started_at: Mapped[Instant] = mapped_column(primary_key=True)
    agency_id: Mapped[int] = mapped_column(BigInteger)
    client_id: Mapped[int] = mapped_column(BigInteger)
    number_id: Mapped[int] = mapped_column(BigInteger)
    caller: Mapped[str]
    flow_id: Mapped[int | None] = mapped_column(BigInteger)
    version_id: Mapped[int | None] = mapped_column(BigInteger)
    source_id: Mapped[int | None] = mapped_column(BigInteger)
    source_by: Mapped[str]
    fate: Mapped[str]
    reason: Mapped[str]
    seconds: Mapped[float]
    talk_seconds: Mapped[float]
    answered_by: Mapped[str]
    labels: Mapped[list[str]] = mapped_column(ARRAY(TEXT))
    test: Mapped[bool]
    fail_safe: Mapped[str] = mapped_column(default="")


class CallLog(Base):
    """The whole log of a call that is over, event by event."""

    __tablename__ = "call_logs"
    __table_args__ = (
        Index("ix_call_logs_carrier_id_ref", "carrier_id", "ref"),
        {"postgresql_partition_by": "RANGE (started_at)"},
    )

    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    started_at: Mapped[Instant] = mapped_column(primary_key=True)
    agency_id: Mapped[int] = mapped_column(BigInteger)
    carrier_id: Mapped[int] = mapped_column(BigInteger)
    ref: Mapped[str]
    entries: Mapped[list[dict[str, Any]]] = mapped_column(JSON)


class VoiceMessage(Base):
    """A message in a mailbox. `file` is empty until the worker has fetched the sound from the carrier."""

    __tablename__ = "voice_messages"
    __table_args__ = (Index("ix_voice_messages_client_id_at", "client_id", "at"),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), index=True)
    at: Mapped[Instant]
    mailbox: Mapped[str]
    seconds: Mapped[float]
    recording: Mapped[str]
    file: Mapped[str] = mapped_column(default="")
    told: Mapped[bool] = mapped_column(default=False)


class CallRecording(Base):
    """The recording of a talk. `file` is empty until the worker has fetched the sound from the carrier."""

    __tablename__ = "call_recordings"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), index=True)
    at: Mapped[Instant]
    seconds: Mapped[float]
    recording: Mapped[str]
    file: Mapped[str] = mapped_column(default="")


class CallDifference(Base):
    """A call that the carrier's list and the history did not agree on: "missing_here", and written down since as `call_id`, or
    "missing_there"."""

    __tablename__ = "call_differences"
    __table_args__ = (Index("uq_call_differences_carrier_id_ref", "carrier_id", "ref", unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    carrier_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("carriers.id"))
    ref: Mapped[str]
    day: Mapped[date]
    kind: Mapped[str]
    call_id: Mapped[uuid.UUID | None] = mapped_column(UUID(as_uuid=True))
    at: Mapped[Instant]


class CallDay(Base):
    """How many calls a client had on a day (of its own time zone), by number, lead source, fate and reason."""

    __tablename__ = "call_days"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    number_id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    source_id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    flow_id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    fate: Mapped[str] = mapped_column(primary_key=True)
    reason: Mapped[str] = mapped_column(primary_key=True)
    agency_id: Mapped[AgencyId]
    calls: Mapped[int] = mapped_column(Integer)
    seconds: Mapped[float]
    talk_seconds: Mapped[float]


class LookUpRow(Base):
    """One asking of a client's own system, for one visit of a step by a call; forgotten when the call is over."""

    __tablename__ = "look_ups"
    __table_args__ = (Index("uq_look_ups_call_id_visit", "call_id", "visit", unique=True),)

    id: Mapped[Id]
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True))
    visit: Mapped[int]
    ref: Mapped[str]
    url: Mapped[str]
    sent: Mapped[dict[str, Any]] = mapped_column(JSONB)
    seconds: Mapped[int]
    state: Mapped[Literal["pending", "found", "not_found", "failed"]] = mapped_column(TEXT, default="pending")
    value: Mapped[str] = mapped_column(default="")
