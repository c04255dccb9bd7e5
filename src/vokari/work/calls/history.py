"""The calls of a client: the log, those in progress, and one call with the way it took."""

import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, and_, exists, func, or_, select
from sqlalchemy.orm import Session, aliased

from ...core import asked
from ...core.calls.fates import FATES, SERVICE, UNCONFIRMED
from ...core.flows.conditions.base import Names
from ...core.flows.conditions.tests import named
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Label
from ...core.flows.ready.fallback import fallback_flow, with_divert
from ...core.flows.shown.whole import whole
from ...core.numbers import numbering
from ...core.people import uses
from ...store.agency import Client, User
from ...store.calls import (
    Call,
    CallBack,
    Caller,
    CallLog,
    CallRecording,
    LiveCall,
    LiveEvent,
    ServiceCall,
    VoiceMessage,
)
from ...store.flows import CallFlow, FlowVersion
from ...store.numbers import LeadSource, TrackingNumber
from ..agency.access import Actor, NotFound, allow
from ..flows import ready
from ..flows.naming import names_of
from ..house.house import House
from ..house.problems import Row
from ..house.views import (
    CallRecordingView,
    CallView,
    ClientView,
    FlowNameView,
    FlowVersionView,
    LeadSourceView,
    LiveCallView,
    VoiceMessageView,
)
from ..numbers.numbers import flow_names
from ..numbers.sources import sources_of
from ..people.ringers import callee_names
from .messages import SOUNDS, SoundKind

PAGE = 50
SHORTEST_E164 = 7
"""Digits that every whole number with its country code has more of."""
CALL_BACK_WITHIN = timedelta(hours=24)
NONE, NOBODY = "none", "nobody"
"""Stand for calls that have nothing of what is asked for."""


@dataclass(frozen=True, slots=True)
class CallFilter:
    """Which calls are wanted; empty fields want all. `source_id` 0 is calls without a source; `waiting` wants lost
    callers who should be called back; `medium` and `campaign` are in small letters, `key` is the id of the lead source that a key
    stated, `person` the number that answered, `weekday` (0 is Monday) and `hour` of the client's own time; `new` wants first calls of callers. NONE wants calls that
    have none of these."""

    since: datetime | None = None
    until: datetime | None = None
    fate: str = ""
    source_id: int | None = None
    flow_id: int | None = None
    label: str = ""
    number_id: int | None = None
    caller: str = ""
    with_tests: bool = False
    waiting: bool = False
    medium: str = ""
    campaign: str = ""
    key: str = ""
    person: str = ""
    weekday: int | None = None
    hour: int | None = None
    new: bool = False


@dataclass(frozen=True, slots=True)
class CallLine:
    """A call with the names a list shows; `is_open`: a service took it, and nobody has dealt with it."""

    call: CallView
    number: str
    source: str
    flow: str
    mark: str
    is_open: bool


@dataclass(frozen=True, slots=True)
class LiveLine:
    """A call in progress: where it stands, in the words of its flow."""

    id: uuid.UUID
    caller: str
    called: str
    since: datetime
    step: str
    source: str
    test: bool


@dataclass(frozen=True, slots=True)
class Back:
    """Whether somebody should ring the caller back, or deal with what a service took, and who has, when."""

    waits: bool = False
    by: str = ""
    at: datetime | None = None


@dataclass(frozen=True, slots=True)
class CallPage:
    """One call whole: the document of the version it ran on, its log event by event, and what the client's hours are called
    now."""

    client: ClientView
    call: CallView | None
    back: Back
    live: LiveCallView | None
    document: FlowDocument
    names: Names
    version: FlowVersionView | None
    flow: FlowNameView | None
    number: str
    source: LeadSourceView | None
    entries: list[Row]
    messages: list[VoiceMessageView]
    recordings: list[CallRecordingView]


def waiting(since: datetime | ColumnElement[datetime]) -> tuple[ColumnElement[bool], ...]:
    """What makes a call one that someone should ring back: lost since then (CALL_BACK_WITHIN before now) after more than a
    moment, from a number that was shown, and the caller has neither got through since nor been rung back."""
    later = aliased(Call)
    through = exists().where(
        later.agency_id == Call.agency_id, later.client_id == Call.client_id, later.caller == Call.caller,
        later.started_at > Call.started_at, later.started_at > since, later.fate.in_(("answered", "message_left")),
    )  # fmt: skip
    rung_back = exists().where(
        CallBack.client_id == Call.client_id, CallBack.caller == Call.caller, CallBack.at > Call.started_at
    )
    return (
        Call.started_at > since, Call.fate == "lost", Call.reason != "quick", Call.caller != "", Call.test.is_(False),
        ~through, ~rung_back,
    )  # fmt: skip


def log(
    house: House, actor: Actor, client_id: int, wanted: CallFilter, *, before: datetime | None = None, limit: int = PAGE
) -> list[CallLine]:
    """Calls that fit, newest first, from before an instant; one more than `limit` tells that there are more."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        query = (
            select(
                *CallView.columns(Call),
                TrackingNumber.e164,
                LeadSource.name,
                CallFlow.name,
                CallFlow.mark,
                ServiceCall.call_id,
            )
            .outerjoin(TrackingNumber, TrackingNumber.id == Call.number_id)
            .outerjoin(LeadSource, LeadSource.id == Call.source_id)
            .outerjoin(CallFlow, CallFlow.id == Call.flow_id)
            .outerjoin(ServiceCall, and_(ServiceCall.call_id == Call.id, ServiceCall.dealt_at.is_(None)))
            .order_by(Call.started_at.desc(), Call.id.desc())
        )
        fitting = [Call.client_id == client_id, *fits(client, wanted, house.now())]
        if before:
            fitting.append(Call.started_at < before)
        if _is_part(client, wanted.caller):
            # Few calls may fit of very many: they are found in the index alone, and only those that fit are read.
            found = select(Call.id, Call.started_at).where(*fitting).order_by(Call.started_at.desc(), Call.id.desc())
            few = found.limit(limit).subquery()
            query = query.join(few, and_(few.c.id == Call.id, few.c.started_at == Call.started_at))
        else:
            query = query.where(*fitting).limit(limit)
        return [_line(tuple(row)) for row in session.execute(query)]


def _line(row: tuple[Any, ...]) -> CallLine:
    number, source, flow, mark, open_id = row[-5:]
    return CallLine(CallView(*row[:-5]), number or "", source or "", flow or "", mark or "", open_id is not None)


def choices(house: House, actor: Actor, client_id: int) -> dict[str, list[Any]]:
    """What the log can be narrowed by beside its lead sources: the client's `flows`, and the `labels` that its live flows give."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        live = ready.live(session, house, client_id)
        labels = {
            label for flow in live for step in flow.steps.values() if isinstance(step, Label) for label in step.labels
        }
        return {"flows": list(flow_names(session, client_id).values()), "labels": sorted(labels)}


def fits(client: Client, wanted: CallFilter, now: datetime) -> Iterator[ColumnElement[bool]]:
    """What makes a call of a client one that is wanted."""
    if wanted.since:
        yield Call.started_at >= wanted.since
    if wanted.until:
        yield Call.started_at < wanted.until
    if wanted.fate in FATES:
        yield Call.fate == wanted.fate
    if wanted.fate in (UNCONFIRMED, SERVICE):
        yield and_(Call.fate == "answered", Call.reason == wanted.fate)
    if wanted.source_id is not None:
        yield Call.source_id == wanted.source_id if wanted.source_id else Call.source_id.is_(None)
    if wanted.flow_id is not None:
        yield Call.flow_id == wanted.flow_id if wanted.flow_id else Call.flow_id.is_(None)
    yield from _as_reported(client, wanted)
    if wanted.label:
        yield Call.labels.contains([wanted.label])
    if wanted.number_id is not None:
        yield Call.number_id == wanted.number_id
    if wanted.caller:
        whole, digits = _caller(client, wanted.caller)
        if whole:
            yield and_(Call.caller == whole, Call.agency_id == client.agency_id)
        elif digits:
            yield Call.caller.contains(digits)
    if wanted.waiting:
        yield and_(*waiting(now - CALL_BACK_WITHIN))
    if not wanted.with_tests:
        yield Call.test.is_(False)


def _as_reported(client: Client, wanted: CallFilter) -> Iterator[ColumnElement[bool]]:
    """What reports are grouped by."""
    for column, value in ((LeadSource.medium, wanted.medium), (LeadSource.campaign, wanted.campaign)):
        if value:
            own = select(LeadSource.id).where(LeadSource.client_id == client.id)
            alike = own.where(func.lower(func.btrim(column)) == ("" if value == NONE else value.lower()))
            found = Call.source_id.in_(alike)
            yield or_(found, Call.source_id.is_(None)) if value == NONE else found
    if wanted.key == NONE:
        yield Call.source_by != "key"
    elif wanted.key:
        yield and_(Call.source_by == "key", Call.source_id == (asked.whole(wanted.key) or 0))
    if wanted.person:
        yield Call.answered_by == ("" if wanted.person == NOBODY else wanted.person)
    local = func.timezone(client.time_zone, Call.started_at)
    if wanted.weekday is not None:
        yield func.extract("isodow", local) == wanted.weekday + 1
    if wanted.hour is not None:
        yield func.extract("hour", local) == wanted.hour
    if wanted.new:
        yield exists().where(
            Caller.client_id == Call.client_id, Caller.caller == Call.caller, Caller.call_id == Call.id
        )


def _caller(client: Client, typed: str) -> tuple[str, str]:
    """What is typed of a caller: the whole number, or else the digits of a part of one."""
    digits = "".join(one for one in typed if one.isdigit())
    if typed.lstrip().startswith("+") and len(digits) > SHORTEST_E164:
        return f"+{digits}", ""
    whole = numbering.parse(typed, client.country)
    return (whole, "") if isinstance(whole, str) else ("", digits)


def _is_part(client: Client, typed: str) -> bool:
    return bool(_caller(client, typed)[1])


def in_progress(house: House, actor: Actor, client_id: int) -> list[LiveLine]:
    """The client's calls of this moment, oldest first."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        query = select(LiveCall).where(
            LiveCall.client_id == client_id, ~LiveCall.gone, ~LiveCall.context.has_key("duty")
        )
        lives = session.scalars(query.order_by(LiveCall.started_at)).all()
        names = {one.id: one.name for one in sources_of(session, client_id)} if lives else {}
        return [_live_line(session, house, live, names) for live in lives]


def _live_line(session: Session, house: House, live: LiveCall, sources: dict[int, str]) -> LiveLine:
    document = document_of(session, live.version_id, live.context["fallback"], live.context.get("divert", ""))
    document = whole(document, ready.documents(session, house, live.context.get("pins") or {}))
    step = document.step(str(live.state.get("at", "")))
    stated = live.context["sources"].get(live.state.get("source", ""))
    return LiveLine(
        live.id, live.context["caller"], live.context["called"], live.started_at, step.name if step else "",
        sources.get(stated or live.context["source_id"] or 0, ""), live.context["test"],
    )  # fmt: skip


def one(house: House, actor: Actor, client_id: int, call_id: uuid.UUID) -> CallPage:
    """A call, over or in progress."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        call = session.scalar(select(Call).where(Call.id == call_id, Call.client_id == client_id, *month_of(call_id)))
        live = None if call else session.get(LiveCall, call_id)
        if call is None and (live is None or live.client_id != client_id or "duty" in live.context):
            raise NotFound
        version_id = call.version_id if call else live.version_id if live else None
        version = session.get(FlowVersion, version_id) if version_id else None
        if call:
            written = session.get(CallLog, (call.id, call.started_at))
            entries = written.entries if written else []
            number = session.get(TrackingNumber, call.number_id)
            source = session.get(LeadSource, call.source_id) if call.source_id else None
        else:
            query = select(LiveEvent.entry).where(LiveEvent.call_id == call_id).order_by(LiveEvent.seq)
            entries = list(session.scalars(query))
            number = session.get(TrackingNumber, live.context["number_id"]) if live else None
            source = _source_of(session, client_id, live) if live else None
        kept = live.context if live else entries[0] if entries else {}
        names = names_of(session, house, client)
        document = document_of(session, version_id, kept.get("fallback"), kept.get("divert", ""))
        document = named(whole(document, ready.documents(session, house, kept.get("pins") or {})), names)
        document = uses.named(document, callee_names(session, client_id))
        return CallPage(
            client=ClientView.of(client), call=CallView.maybe(call), live=LiveCallView.maybe(live), document=document, names=names,
            back=_back(session, house, call) if call else Back(), version=FlowVersionView.maybe(version),
            flow=_flow_of(session, version), number=number.e164 if number else "",
            source=LeadSourceView.maybe(source), entries=entries,
            messages=VoiceMessageView.all(session.execute(select(*VoiceMessageView.columns(VoiceMessage)).where(VoiceMessage.call_id == call_id).order_by(VoiceMessage.id))),
            recordings=CallRecordingView.all(session.execute(select(*CallRecordingView.columns(CallRecording)).where(CallRecording.call_id == call_id).order_by(CallRecording.id))),
        )  # fmt: skip


def _flow_of(session: Session, version: FlowVersion | None) -> FlowNameView | None:
    """The flow of a version, also one that was removed since."""
    if version is None:
        return None
    flow = session.execute(select(*FlowNameView.columns(CallFlow)).where(CallFlow.id == version.flow_id)).first()
    return FlowNameView.of(flow) if flow else None


def _back(session: Session, house: House, call: Call) -> Back:
    if call.reason == SERVICE:
        taken = session.get(ServiceCall, call.id)
        by = session.get(User, taken.user_id) if taken and taken.user_id else None
        return Back(
            waits=taken is not None and taken.dealt_at is None,
            by=by.name if by else "",
            at=taken.dealt_at if taken else None,
        )
    if call.fate != "lost" or not call.caller:
        return Back()
    query = select(User.name, CallBack.at).join(CallBack, CallBack.user_id == User.id)
    done = session.execute(
        query.where(
            CallBack.client_id == call.client_id, CallBack.caller == call.caller, CallBack.at > call.started_at
        ).order_by(CallBack.at)
    ).first()  # fmt: skip
    if done:
        return Back(by=done[0], at=done[1])
    waits = select(Call.id).where(Call.id == call.id, Call.started_at == call.started_at)
    return Back(waits=session.scalar(waits.where(*waiting(house.now() - CALL_BACK_WITHIN))) is not None)


def _source_of(session: Session, client_id: int, live: LiveCall) -> LeadSource | None:
    stated = live.context["sources"].get(live.state.get("source", ""))
    source_id = stated or live.context["source_id"]
    return session.get(LeadSource, source_id) if source_id else None


def month_of(call_id: uuid.UUID) -> Sequence[ColumnElement[bool]]:
    """The id of a call holds its moment (UUID version 7), which names the partition it lies in. Raises NotFound for a moment at
    which no call can have come."""
    if call_id.version != 7:
        return ()
    try:
        at = datetime.fromtimestamp(0, UTC) + timedelta(milliseconds=call_id.int >> 80)
    except OverflowError as error:
        raise NotFound from error
    if not asked.within(at):
        raise NotFound
    return (Call.started_at >= at - timedelta(seconds=2), Call.started_at <= at + timedelta(seconds=2))


def document_of(session: Session, version_id: int | None, fallback: Row | None, divert: str) -> FlowDocument:
    """The document that a call runs or ran on: the fallback that its log kept where there was no version, and before
    either the phone that it was diverted to."""
    version = session.get(FlowVersion, version_id) if version_id else None
    raw = version.document if version else fallback
    document = FlowDocument.model_validate(raw) if raw else fallback_flow("")
    return with_divert(document, divert) if divert else document


def sound_of(house: House, actor: Actor, client_id: int, kind: SoundKind, row_id: int) -> bytes | None:
    """The sound of a voice message or of a talk, for those who may hear the client's calls; None while it is still on its
    way."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        row = session.get(SOUNDS[kind], row_id)
        if row is None or row.client_id != client_id:
            raise NotFound
    return house.files.get(row.file) if row.file else None
