"""Folding one event into a call in progress: the engine, what it asks, and all that follows, in one transaction."""

import json
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

import structlog
from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import LookUp
from ...core.flows.questions import kinds as questions
from ...core.flows.ready.fallback import diverted
from ...core.flows.running import engine, events, state, stored
from ...core.flows.running.answering import answer_source
from ...core.flows.running.commands import Connect, RingLeg
from ...core.flows.running.flow import Flow
from ...core.flows.running.steps.voicemail import MESSAGE_SECONDS
from ...formats import call_log
from ...formats.call_control.messages import CallerGone, LegChanged, RecordingFinished, Talked
from ..flows import ready as versions
from ..holding import turns
from ..hours import ready
from ..house import jobs, open_pages, sealed
from ..house.house import House
from ..house.problems import Row
from ..people import duty_line
from ..people.ringers import Ringers, dialed, note_work, on_call, people_of
from ..prompts import by_telephone, fields
from ..prompts.speech import known_sounds
from . import closing, known_callers, learning, look_ups, notifying

log = structlog.get_logger()

_GO_ON = text(
    "WITH event AS (INSERT INTO live_events (call_id, seq, entry) VALUES (:call, :seq, CAST(:entry AS json))),"
    " now AS (UPDATE live_calls SET last_at = :at, last_seq = :seq, talking_to = :talking, alive_at = :alive, gone = :gone,"
    f" state = CAST(:state AS jsonb) WHERE id = :call) {open_pages.NOTIFY}"
)
"""The event's entry, where the call stands now, and the notice to open pages, in one round trip."""
_LOCKED = text("SELECT * FROM live_calls WHERE id = :call FOR UPDATE")

Live = Row | RowMapping


@dataclass(frozen=True, slots=True)
class Happened:
    """One event of a call: its number, its moment, what the engine hears, what came on the wire (None for an event of our
    own), and what tells a repetition from another event."""

    seq: int
    at: datetime
    event: events.Event
    message: Any = None
    digest: str = ""


@dataclass(frozen=True, slots=True)
class Answered:
    """The commands for an event, as they were given the first time and are given for every repetition; `ended`: the carrier
    has nothing more to tell."""

    commands: list[Row]
    ended: bool


def go_on(house: House, call_id: Any, event: events.Event) -> bool:
    """Folds an event of our own into a call whose caller has gone, as its next number; whether there was such a call. The
    call's clock stands still meanwhile."""
    with house.begin() as session:
        live = session.execute(_LOCKED, {"call": call_id}).mappings().first()
        if live is None or not live["gone"]:
            return False
        fold(session, house, live, Happened(live["last_seq"] + 1, live["last_at"], event))
        return True


def fold(session: Session, house: House, live: Live, what: Happened) -> Answered:
    """Folds an event into a locked call and writes down all that follows from it."""
    context = live["context"]
    flow = flow_of(session, house, live)
    if context.get("divert"):
        flow = diverted(flow, context["divert"])
    before = state_of(house, live)
    ringers = partial(_ringers, session, house, live, what.at)
    lines = turns.HoldLines(session, live, what.at, ringers)
    held = turns.has_lines(flow) or (before.phase == "talking" and turns.any_lines(session, live["client_id"]))
    if held:
        lines.gate()
    following, answers = engine.run(
        flow, before, what.event, _source(session, house, live, flow, what.at, lines, before)
    )
    if following.defect is not None:
        log.error("an answer fits no question", call=str(live["id"]), question=repr(following.defect))
    entry = _entry(session, house, live, what, answers, following)
    _follow(session, house, live, what, flow, before, following)
    somebody_free = held and lines.follow(before, what.event, following.state)
    if following.state.ended:
        if any(isinstance(step, LookUp) for step in flow.steps.values()):
            look_ups.forget(session, live)
        closing.close(session, live, what.at, following.state, entry)
        open_pages.notify(session, live["agency_id"], live["client_id"], live["id"])
    else:
        kept, now_at = entry, stored.dump_state(following.state)
        if "duty" in context:
            kept, now_at = duty_line.without_keys(entry), sealed.seal(house, now_at)
        gone = following.state.gone
        session.execute(
            _GO_ON,
            {
                "call": live["id"], "seq": what.seq, "entry": json.dumps(kept), "state": json.dumps(now_at), "at": what.at,
                "alive": house.now(), "talking": _talking_to(before, following, flow, live["talking_to"]), "gone": gone,
                **open_pages.notice(live["agency_id"], live["client_id"], live["id"]),
            },
        )  # fmt: skip
        if gone and before.phase == "looking":
            look_ups.again(session, live)
    if somebody_free:
        lines.tell()
    return Answered(entry["commands"], entry["ended"])


def _entry(
    session: Session, house: House, live: Live, what: Happened, answers: questions.Answers, following: engine.Next
) -> Row:
    """The event's entry in the call's log."""
    country = live["context"].get("country", "US")
    sounds, whisper = known_sounds(session, house, following.commands, country), live["context"]["whisper"]
    filled_in = _fields(session, house, live, following)
    made = call_log.entry(
        what.seq, what.at.isoformat(), what.event, answers, following, sounds, what.digest, whisper, filled_in,
        origin="carrier" if what.message is not None else "house", country=country,
    )  # fmt: skip
    for name in ("fallback", "divert", "pins", "takes"):
        if what.seq == 1 and live["context"].get(name):
            made[name] = live["context"][name]
    return made


def _follow(
    session: Session, house: House, live: Live, what: Happened, flow: Flow, before: state.State,
    following: engine.Next,
) -> None:  # fmt: skip
    """What an event means beyond its call: for people, mailboxes, those who are told."""
    context = live["context"]
    if not context["test"] and "duty" not in context:
        zone = ZoneInfo(context["time_zone"])
        note_work(session, live["client_id"], zone, what.at, before, what.event, following)
    if isinstance(what.message, LegChanged | CallerGone) and what.message.recording:
        keep_recording(session, live, what.at, what.message)
    if "speaker" in context:
        by_telephone.follow(session, house, live, what.message, following.way, gone=following.state.gone)
        return
    if isinstance(what.message, RecordingFinished) and _is_message(before, what.event):
        keep_message(session, live, what.at, what.message, getattr(flow.steps.get(before.at), "mailbox", None) or "")
    if "duty" in context:
        duty_line.follow(session, house, live, following.way)
    if not context["test"]:
        notifying.follow(session, house, live, what.seq, flow, following)


def _is_message(before: state.State, event: events.Event) -> bool:
    """Whether a recording is a message: one at a voicemail, long enough. A call may leave several."""
    return (
        isinstance(event, events.Recorded)
        and before.phase == "recording"
        and event.command == before.awaiting
        and event.voice >= MESSAGE_SECONDS
    )


def _source(
    session: Session,
    house: House,
    live: Live,
    flow: Flow,
    at: datetime,
    lines: turns.HoldLines,
    before: state.State,
) -> questions.AnswerSource:
    """The client's hours at the call's own clock; a phone that is connected in another call of the agency is on a call."""
    people, caller = _ringers(session, house, live, at), known_callers.of_call(session, house, live)
    hours = ready.Standings(session, house, live["client_id"], at)
    return answer_source(
        flow,
        at,
        people.zone,
        people.tables,
        people.busy,
        people.staff(live["context"]["flow_id"]),
        lines.turn,
        lambda step, asked: learning.recorded(session, live, at, people.zone, people.around(), step, asked),
        look_ups.LookUps(session, house, live, before).answer,
        caller,
        fields.values(session, live["client_id"], at, people.zone, hours, live["context"]["called"], caller),
    )


def _ringers(session: Session, house: House, live: Live, at: datetime) -> Ringers:
    """The client's people as they are for this call."""
    busy = on_call(session, house, live["agency_id"])
    hours = ready.Standings(session, house, live["client_id"], at)
    zone = ZoneInfo(live["context"]["time_zone"])
    counts = not live["context"]["test"]
    return Ringers(
        session, house, live["client_id"], at, zone, hours.table, busy, counts=counts, caller=live["context"]["caller"]
    )


def _talking_to(before: state.State, after: engine.Next, flow: Flow, known: str | None) -> str | None:
    """The number that is connected after this event."""
    if after.state.phase != "talking":
        return None
    winner = next((one.id for one in after.commands if isinstance(one, Connect)), None)
    legs = before.ring.legs if before.ring else ()
    leg = next((one for one in legs if one.command == winner), None)
    step = flow.steps.get(after.state.at)
    if leg is None or step is None:
        return known
    return dialed(leg, step) or known


def keep_message(session: Session, live: Live, at: datetime, event: RecordingFinished, mailbox: str) -> None:
    """Writes down a message and queues fetching its sound and telling those whom the mailbox names."""
    message_id = session.scalar(
        text(
            "INSERT INTO voice_messages (agency_id, client_id, call_id, at, mailbox, seconds, recording, file, told)"
            " VALUES (:agency, :client, :call, :at, :mailbox, :seconds, :recording, '', false) RETURNING id"
        ),
        {
            "agency": live["agency_id"], "client": live["client_id"], "call": live["id"], "at": at,
            "mailbox": mailbox, "seconds": event.voice_seconds, "recording": event.recording,
        },
    )  # fmt: skip
    if not live["context"]["test"]:
        jobs.defer(session, "tell_of_message", message_id=int(message_id or 0))
    jobs.defer(session, "fetch_message", message_id=int(message_id or 0))


def keep_recording(session: Session, live: Live, at: datetime, event: Talked) -> None:
    """Writes down the recording of a talk and queues fetching its sound."""
    recording_id = session.scalar(
        text(
            "INSERT INTO call_recordings (agency_id, client_id, call_id, at, seconds, recording, file)"
            " VALUES (:agency, :client, :call, :at, :seconds, :recording, '') RETURNING id"
        ),
        {
            "agency": live["agency_id"], "client": live["client_id"], "call": live["id"], "at": at,
            "seconds": event.recorded_seconds, "recording": event.recording,
        },
    )  # fmt: skip
    jobs.defer(session, "fetch_recording", recording_id=int(recording_id or 0))


def _fields(session: Session, house: House, live: Live, after: engine.Next) -> dict[str, str]:
    """What a whisper can name; looked up only where one does."""
    if not any("{" in one.whisper for one in after.commands if isinstance(one, RingLeg)):
        return {}
    return notifying.fields(session, live, after.state, people_of(session, house, live["client_id"]))


def state_of(house: House, live: Live) -> state.State:
    """Where a call in progress stands."""
    return stored.load_state(sealed.opened(house, live["state"]))


def flow_of(session: Session, house: House, live: Live) -> Flow:
    """The version of a call made ready to run, or the small flow of a number that has none, or of the duty line."""
    version_id, context = live["version_id"], live["context"]
    if "duty" in context:
        return engine.prepare(duty_line.document(house, context["duty"], context["language"]))
    if version_id is None:
        document = FlowDocument.model_validate(context["fallback"])
        return versions.draft(session, house, document, context.get("pins") or {}, context.get("takes") or {})
    return versions.version(session, house, version_id, context.get("pins"), context.get("takes"))
