"""Rows of flows, drafts and versions, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ..problems import Row
from .base import View


@dataclass(frozen=True, slots=True)
class CallFlowView(View):
    """A call flow, with its draft as it stands."""

    id: int
    agency_id: int
    client_id: int
    key: str
    name: str
    mark: str
    draft: Row
    revision: int
    live_version_id: int | None
    stated: list[str]
    worse: str


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
    """A live version: a document that never changes, with the consents that were given for what was found of it."""

    id: int
    agency_id: int
    flow_id: int
    number: int
    document: Row
    revision: int
    made_by: int
    made_at: datetime
    consents: list[Row]


@dataclass(frozen=True, slots=True)
class LiveFindingView(View):
    """What was found of a flow as it is live, with an example call if one shows it."""

    id: int
    kind: str
    weight: str
    sentence: str
    step: str
    example: Row | None
    since: datetime
