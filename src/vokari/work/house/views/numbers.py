"""Rows of lead sources, numbers and orders, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from .base import View


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
