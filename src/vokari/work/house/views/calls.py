"""Rows of calls, and what is kept of them, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from ..problems import Row
from .base import View


@dataclass(frozen=True, slots=True)
class LiveCallView(View):
    """A call in progress."""

    id: UUID
    carrier_id: int
    ref: str
    agency_id: int
    client_id: int
    version_id: int | None
    started_at: datetime
    last_at: datetime
    last_seq: int
    talking_to: str | None
    alive_at: datetime
    gone: bool
    context: Row
    state: Row


@dataclass(frozen=True, slots=True)
class CallView(View):
    """A call that is over."""

    id: UUID
    started_at: datetime
    agency_id: int
    client_id: int
    number_id: int
    caller: str
    flow_id: int | None
    version_id: int | None
    source_id: int | None
    source_by: str
    fate: str
    reason: str
    seconds: float
    talk_seconds: float
    answered_by: str
    labels: list[str]
    lead_status: str
    test: bool
    fail_safe: str


@dataclass(frozen=True, slots=True)
class ExportView(View):
    """A file of calls that the worker makes: how many of how many are done, and the file once it is."""

    id: int
    client_id: int
    made_at: datetime
    rows: int
    done: int
    state: str
    file: str


@dataclass(frozen=True, slots=True)
class VoiceMessageView(View):
    """A message in a mailbox."""

    id: int
    agency_id: int
    client_id: int
    call_id: UUID
    at: datetime
    mailbox: str
    seconds: float
    recording: str
    file: str
    told: bool


@dataclass(frozen=True, slots=True)
class CallRecordingView(View):
    """The recording of a talk."""

    id: int
    agency_id: int
    client_id: int
    call_id: UUID
    at: datetime
    seconds: float
    recording: str
    file: str
