"""Rows as they are shown: frozen values that leave a transaction in the place of the mapped rows, which never do.

Each has the columns of its table. What they mean stands with the tables, in `store`.
"""

from collections.abc import Iterable
from dataclasses import dataclass, fields
from datetime import date, datetime
from decimal import Decimal
from functools import cache
from typing import Any, Self
from uuid import UUID

from sqlalchemy import Row as SqlRow
from sqlalchemy.dialects.postgresql import Range

from ...store.base import Base
from .problems import Row


class View:
    """A row as it is shown."""

    __slots__ = ()

    @classmethod
    def of(cls, row: Base | SqlRow[Any]) -> Self:
        """The view of a row, or of the columns that were asked for, inside the transaction that read it."""
        kind: Any = cls
        return cls(*(getattr(row, name) for name in _columns(kind)))

    @classmethod
    def columns(cls, table: type[Base]) -> tuple[Any, ...]:
        """The columns of a table that the view shows, for a query that reads no others."""
        kind: Any = cls
        return tuple(getattr(table, name) for name in _columns(kind))

    @classmethod
    def maybe(cls, row: Base | None) -> Self | None:
        """The view of a row, if there is one."""
        return None if row is None else cls.of(row)

    @classmethod
    def all(cls, rows: Iterable[Base | SqlRow[Any]]) -> list[Self]:
        """The views of some rows, in their order."""
        return [cls.of(row) for row in rows]


@cache
def _columns(view: Any) -> tuple[str, ...]:
    return tuple(field.name for field in fields(view))


@dataclass(frozen=True, slots=True)
class AgencyView(View):
    """An agency."""

    id: int
    name: str


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
class CallFlowView(View):
    """A call flow, with its draft as it stands."""

    id: int
    agency_id: int
    client_id: int
    name: str
    mark: str
    draft: Row
    revision: int
    live_version_id: int | None
    stated: list[str]


@dataclass(frozen=True, slots=True)
class FlowNameView(View):
    """A flow where it is only named."""

    id: int
    name: str
    mark: str
    live_version_id: int | None


@dataclass(frozen=True, slots=True)
class DraftEditView(View):
    """One edit of a draft: who, when, in words, the rows it changed; an undo names the edit it takes back."""

    flow_id: int
    seq: int
    agency_id: int
    user_id: int
    at: datetime
    kind: str
    of_seq: int | None
    words: str
    rows: list[str]
    changes: list[dict[str, Any]]


@dataclass(frozen=True, slots=True)
class FlowVersionView(View):
    """A live version: a document that never changes."""

    id: int
    agency_id: int
    flow_id: int
    number: int
    document: Row
    revision: int
    made_by: int
    made_at: datetime


@dataclass(frozen=True, slots=True)
class PutLiveView(View):
    """A moment at which a version went live; the latest of a flow is the one callers meet."""

    id: int
    agency_id: int
    flow_id: int
    version_id: int
    user_id: int
    at: datetime


@dataclass(frozen=True, slots=True)
class RehearsalView(View):
    """A test call on a draft or version: the document it runs, its settings, and its log."""

    id: UUID
    agency_id: int
    client_id: int
    flow_id: int
    user_id: int
    created_at: datetime
    revision: int
    document: Row
    settings: Row
    log: list[dict[str, Any]]
    state: Row


@dataclass(frozen=True, slots=True)
class HoursSetView(View):
    """A set of hours."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    purpose: str
    is_main: bool
    document: Row
    lists: list[int]
    revision: int
    feed_version: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class ExceptionListView(View):
    """Exceptions kept at the agency, which many sets of hours share."""

    id: int
    agency_id: int
    name: str
    exceptions: list[dict[str, Any]]
    revision: int


@dataclass(frozen=True, slots=True)
class HoursSwitchView(View):
    """A temporary switch of a client."""

    id: int
    agency_id: int
    client_id: int
    hours_id: int | None
    kind: str
    period: str
    phone: str
    since: datetime
    until: datetime
    ended_at: datetime | None
    user_id: int


@dataclass(frozen=True, slots=True)
class LeadSourceView(View):
    """What a number is given to."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    source: str
    medium: str
    campaign: str
    term: str
    content: str
    placement: str
    online: bool
    extension: str


@dataclass(frozen=True, slots=True)
class TrackingNumberView(View):
    """An E.164 number taken from a carrier."""

    id: int
    agency_id: int
    client_id: int
    carrier_id: int
    e164: str
    place: str
    kind: str
    state: str
    flow_id: int | None
    fail_safe: str
    fail_safe_told: str
    fail_safe_said: str
    taken_at: datetime
    name: str
    whisper: str
    rent: Decimal
    set_up: Decimal
    rest_since: datetime | None
    rest_until: datetime | None
    ended_at: datetime | None
    ended_how: str
    asked_for: list[str]


@dataclass(frozen=True, slots=True)
class AssignmentView(View):
    """A number given to a lead source from one moment to another."""

    id: int
    agency_id: int
    client_id: int
    number_id: int
    source_id: int
    during: Range[datetime]


@dataclass(frozen=True, slots=True)
class NumberOrderView(View):
    """Numbers to be taken in one go; `state` is running, stopped or done."""

    id: int
    agency_id: int
    client_id: int
    made_by: int
    made_at: datetime
    state: str


@dataclass(frozen=True, slots=True)
class NumberOrderLineView(View):
    """One number of an order: for which source, at which flow; `state` is waiting, taken or refused, with the reason."""

    id: int
    agency_id: int
    order_id: int
    source_id: int
    flow_id: int | None
    e164: str
    state: str
    reason: str
    number_id: int | None


@dataclass(frozen=True, slots=True)
class NumberDocumentView(View):
    """A document that was given to the carrier for a number."""

    id: int
    agency_id: int
    client_id: int
    number_id: int
    kind: str
    name: str
    file: str
    at: datetime


@dataclass(frozen=True, slots=True)
class PortView(View):
    """A number that comes across from another carrier."""

    id: int
    agency_id: int
    client_id: int
    number_id: int
    source_id: int | None
    ref: str
    losing_carrier: str
    account: str
    stage: str
    words: str
    moves_at: datetime | None
    requested_at: datetime


@dataclass(frozen=True, slots=True)
class PersonView(View):
    """Somebody who can be rung."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    extension: str
    link_version: int
    pin_version: int
    document: Row
    revision: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class TeamView(View):
    """A team."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    document: Row
    revision: int
    removed_at: datetime | None


@dataclass(frozen=True, slots=True)
class DutyView(View):
    """A person at work."""

    client_id: int
    person: str
    off: bool
    taken_on: date | None
    taken: int
    idle_since: datetime | None
    rests_until: datetime | None
    missed: int
    wrong_pins: int


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
