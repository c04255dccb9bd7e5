"""Calls: those in progress with their log and their look-ups, the history by month, and the rollups that reports read."""

import uuid
from datetime import date
from typing import Any, Literal

from sqlalchemy import JSON, BigInteger, ForeignKey, Index, Integer, PrimaryKeyConstraint, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TEXT, UUID
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json


class LiveCall(Base):
    """A call in progress. `context` holds what was true when it arrived; `talking_to` a number that is connected now.
    A call of somebody who speaks a prompt of the agency has no client.
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
    client_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("clients.id"), index=True)
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
        Index("ix_calls_client_id_started_at", "client_id", "started_at", postgresql_include=["caller", "test", "id"]),
        Index("ix_calls_agency_id_started_at", "agency_id", "started_at"),
        Index("ix_calls_source_id_started_at", "source_id", "started_at"),
        Index("ix_calls_number_id_started_at", "number_id", "started_at"),
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
    lead_status: Mapped[str] = mapped_column(default="", server_default="")
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


class CallBack(Base):
    """Somebody rang a lost caller back: all that this caller was lost with before is settled."""

    __tablename__ = "call_backs"
    __table_args__ = (Index("ix_call_backs_client_id_caller_at", "client_id", "caller", "at"),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), index=True)
    caller: Mapped[str]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]


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


class ServiceCall(Base):
    """A call that only an answering service took: open until somebody of the client dealt with it."""

    __tablename__ = "service_calls"
    __table_args__ = (
        Index("ix_service_calls_open", "agency_id", "client_id", postgresql_where=text("dealt_at IS NULL")),
    )

    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    agency_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("agencies.id"))
    client_id: Mapped[ClientId]
    at: Mapped[Instant]
    dealt_at: Mapped[Instant | None]
    user_id: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("users.id"))


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
    __table_args__ = (
        PrimaryKeyConstraint(
            "client_id", "day", "number_id", "source_id", "flow_id", "fate", "reason",
            postgresql_include=["calls", "talk_seconds"],
        ),
    )  # fmt: skip

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    day: Mapped[date]
    number_id: Mapped[int] = mapped_column(BigInteger)
    source_id: Mapped[int] = mapped_column(BigInteger)
    flow_id: Mapped[int] = mapped_column(BigInteger)
    fate: Mapped[str]
    reason: Mapped[str]
    agency_id: Mapped[AgencyId]
    calls: Mapped[int] = mapped_column(Integer)
    seconds: Mapped[float]
    talk_seconds: Mapped[float]
    new_callers: Mapped[int] = mapped_column(Integer)


class Caller(Base):
    """Who has called a client, by which call first, the postal code that they typed last, and what came of their latest calls (`past`, the
    latest last: when it began in seconds since 1970, how long it took, its fate, the number that answered). Test calls and withheld
    numbers are left out. So the history, which lies in a part for each month, is not looked through while a caller waits."""

    __tablename__ = "callers"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    caller: Mapped[str] = mapped_column(primary_key=True)
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True))
    postal_code: Mapped[str] = mapped_column(default="", server_default="")
    past: Mapped[list[list[Any]]] = mapped_column(JSONB, default=list, server_default="[]")


class CallPart(Base):
    """How many calls a client had on a day (of its own time zone) by one thing (`kind`) that `call_days` does not tell: the
    `hour` of the day, the `key` (the lead source that one stated, by id), the `person` (the number that answered)."""

    __tablename__ = "call_parts"

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    value: Mapped[str] = mapped_column(primary_key=True)
    fate: Mapped[str] = mapped_column(primary_key=True)
    calls: Mapped[int] = mapped_column(Integer)
    talk_seconds: Mapped[float]
    unconfirmed: Mapped[int] = mapped_column(Integer)
    new_callers: Mapped[int] = mapped_column(Integer)


class Export(Base):
    """A file of calls that the worker makes: for whom, which calls are `wanted` (as `history.CallFilter`), how many of how many
    `rows` are done, and the file once `state` is done; "making" until then, "failed" if it could not be made, "stopped" if
    nobody wants it any more."""

    __tablename__ = "exports"

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    made_at: Mapped[Instant]
    wanted: Mapped[dict[str, Any]] = mapped_column(JSONB)
    rows: Mapped[int]
    done: Mapped[int] = mapped_column(default=0)
    state: Mapped[Literal["making", "done", "failed", "stopped"]] = mapped_column(TEXT, default="making")
    file: Mapped[str] = mapped_column(default="")


class DayTotal(Base):
    """How many calls a client had on a day, by fate: `call_days` added up, for pages that look at many days or clients.
    `unconfirmed` are those of the answered that nothing confirmed."""

    __tablename__ = "day_totals"
    __table_args__ = (Index("ix_day_totals_agency_id_day", "agency_id", "day"),)

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"), primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    fate: Mapped[str] = mapped_column(primary_key=True)
    agency_id: Mapped[int] = mapped_column(BigInteger)
    calls: Mapped[int] = mapped_column(Integer)
    talk_seconds: Mapped[float]
    unconfirmed: Mapped[int] = mapped_column(Integer)


class SourceMonth(Base):
    """How many calls a lead source (0: none) had in a month, named by its first day, by fate: `call_days` added up, for
    reports over long periods."""

    __tablename__ = "source_months"
    __table_args__ = (
        PrimaryKeyConstraint(
            "client_id", "month", "source_id", "fate", postgresql_include=["calls", "talk_seconds", "unconfirmed"]
        ),
    )

    client_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("clients.id"))
    month: Mapped[date]
    source_id: Mapped[int] = mapped_column(BigInteger)
    fate: Mapped[str]
    calls: Mapped[int] = mapped_column(Integer)
    talk_seconds: Mapped[float]
    unconfirmed: Mapped[int] = mapped_column(Integer)
    new_callers: Mapped[int] = mapped_column(Integer)


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
