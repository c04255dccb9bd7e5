"""Rehearsals: test calls on a draft, driven by a person at the telephone beside the sheet. They count nowhere."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import delete, text
from sqlalchemy.orm import Session

from ...core.calls import fates
from ...core.flows.conditions import tests as conditions
from ...core.flows.conditions.base import Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import HoldLine, LookUp
from ...core.flows.questions.facts import Touch
from ...core.flows.questions.kinds import LOOKED_UP_LONGEST, HoldAnswer, HoldTurn, LookedUp, LookedUpAnswer
from ...core.flows.running import engine, events, set_facts, state, stored
from ...core.flows.running.answering import answer_source
from ...core.flows.running.commands import RingLeg
from ...core.flows.running.facts import Caller
from ...core.flows.running.flow import Flow
from ...core.flows.running.inputs import inputs
from ...core.flows.shown.whole import whole
from ...core.holding.line import Served, served, turn
from ...core.numbers import numbering
from ...core.people import uses
from ...core.people.line_up import Unit
from ...formats import call_log
from ...store.agency import Client
from ...store.flows import CallFlow, Rehearsal
from ..agency.access import Actor, NotFound, allow
from ..calls import notifying
from ..calls.known_callers import secret_of, touch_of
from ..holding.turns import mean_talk
from ..hours.ready import Standings
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..house.views import CallFlowView
from ..people.ringers import Ringers, callee_names
from ..places.ready import whereabouts
from ..prompts import fields, playing, speech
from . import ready
from .naming import names_of
from .open_drafts import OpenDraft, own_flow
from .versions import own_version
from .within import inner_live

KEPT = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class Leg:
    """A phone that rings now: its ring command, whom it belongs to, for how long, and whether it was picked up."""

    command: int
    name: str
    number: str
    seconds: int
    picked_up: bool
    accept_key: str
    machine_detection: bool


@dataclass(frozen=True, slots=True)
class OpenRehearsal:
    """A rehearsal as the telephone shows it. `latest` are the commands of the last event, as on the wire; `due` the timer
    that fires next, with the seconds until then; `names` what the client's hours are called."""

    id: uuid.UUID
    flow: CallFlowView
    revision: int
    document: FlowDocument
    settings: Row
    log: list[Row]
    state: state.State
    latest: list[Row]
    legs: list[Leg]
    ending: fates.Ending | None
    seconds: float
    offered: Sequence[events.Event]
    due: tuple[int, float] | None
    names: Names

    @property
    def is_stale(self) -> bool:
        """Whether the draft was edited after a rehearsal of it began."""
        return self.revision != self.flow.revision and not self.settings.get("version")


def begin(
    house: House,
    actor: Actor,
    client_id: int,
    flow_id: int,
    *,
    called: str,
    caller: str,
    at: datetime,
    version_id: int | None = None,
    ahead: int = 0,
    facts: Mapping[str, str] | None = None,
) -> OpenRehearsal | Problems:
    """Starts a rehearsal on the draft, or on a version, as a call to `called` from `caller` (empty: withheld) at `at`;
    `ahead` callers wait already in every hold line, with all its people on a call; `facts` are what is set of the caller and the
    touch, by the keys of `set_facts.lines`."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        problems, numbers = [], {}
        for field, typed in (("called", called), ("caller", caller)):
            read = numbering.parse(typed, client.country) if typed.strip() else ""
            if isinstance(read, numbering.Wrong):
                problems.append(Problem(field, read.sentence))
            else:
                numbers[field] = read
        names = names_of(session, house, client)
        facts = {key: value.strip()[:300] for key, value in (facts or {}).items() if value.strip()}
        problems += [Problem(f"fact {key}", said) for key, said in set_facts.wrong(facts, at, names).items()]
        if problems:
            return problems
        version = own_version(session, flow, version_id) if version_id is not None else None
        now = house.now()
        raw = version.document if version else flow.draft
        runs = engine.prepare(FlowDocument.model_validate(raw))
        pins = ready.pinned(session, house, client_id, runs.continues_in)
        takes = _takes(session, house, client, runs, version_id, pins, at)
        session.execute(delete(Rehearsal).where(Rehearsal.user_id == actor.user_id, Rehearsal.created_at < now - KEPT))
        rehearsal = Rehearsal(
            id=uuid.uuid4(), agency_id=actor.agency_id, client_id=client_id, flow_id=flow_id, user_id=actor.user_id,
            created_at=now, revision=flow.revision, document=raw, log=[], state={},
            settings={
                **numbers, "country": client.country, "at": at.isoformat(), "time_zone": client.time_zone, "ahead": ahead,
                "version": version.number if version else None, "version_id": version_id, "facts": facts, "pins": pins,
                "takes": takes,
            },
        )  # fmt: skip
        session.add(rehearsal)
        _take(session, house, rehearsal, events.Arrived(), 0.0)
        session.flush()
    return opened(house, actor, client_id, rehearsal.id)


def _takes(
    session: Session, house: House, client: Client, runs: Flow, version_id: int | None, pins: Mapping[str, int], at: datetime
) -> playing.Chosen:  # fmt: skip
    """The takes that a rehearsal plays: of a version those that it plays at that moment, of the draft the newest."""
    zone = ZoneInfo(client.time_zone)
    if version_id is not None:
        return ready.takes_of(session, house, client.agency_id, {"": version_id, **pins}, at, zone)
    own = [playing.Played("", playing.DRAFT, runs.prompts)]
    newest = playing.chosen(session, client.agency_id, own, at, at.astimezone(zone).date())
    return {**ready.takes_of(session, house, client.agency_id, pins, at, zone), **newest}


def fact_lines(draft: OpenDraft, document: FlowDocument) -> list[set_facts.FactLine]:
    """The facts that make a difference to a draft or a version of it, with all that it continues in."""
    return set_facts.lines(Flow(document, inner_live(document, draft.flows)).steps.values(), draft.names)


def opened(house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID) -> OpenRehearsal:
    """A rehearsal as it stands."""
    with house.begin() as session:
        rehearsal, flow = _own(session, actor, client_id, rehearsal_id)
    return _show(house, rehearsal, flow)


def happen(
    house: House,
    actor: Actor,
    client_id: int,
    rehearsal_id: uuid.UUID,
    event: events.Event,
    elapsed: float | None,
    after: int | None = None,
) -> OpenRehearsal | Problems:
    """Lets something happen: `elapsed` seconds after the event before, or as long as it would take if None.

    `after` is the number of events the page knew of: a second press on an old page changes nothing.
    """
    with house.begin() as session:
        rehearsal, flow = _own(session, actor, client_id, rehearsal_id, lock=True)
        if after is None or after == len(rehearsal.log):
            seconds = _usual_seconds(session, rehearsal, event) if elapsed is None else max(0.0, min(elapsed, 3600.0))
            due = _timer_due(rehearsal.log, stored.load_state(rehearsal.state))
            if due is not None and due[1] <= seconds:
                event, seconds = events.TimerFired(due[0]), due[1]
            _take(session, house, rehearsal, event, seconds)
            session.flush()
    return _show(house, rehearsal, flow)


def system_answers(
    house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, what: str, value: str, after: int | None
) -> OpenRehearsal | Problems:
    """Lets the client's own system answer the look-up that is waited for: found with a value, not found, or failed."""
    with house.begin() as session:
        rehearsal, _ = _own(session, actor, client_id, rehearsal_id, lock=True)
        value = " ".join(value.split())[:LOOKED_UP_LONGEST]
        if what not in ("found", "not_found", "failed") or (what == "found" and not value):
            return [Problem("value", "Write what the client’s system answers.")]
        visit = str(stored.load_state(rehearsal.state).steps)
        looked = {**rehearsal.settings.get("looked", {}), visit: [what, value]}
        rehearsal.settings = {**rehearsal.settings, "looked": looked}
    return happen(house, actor, client_id, rehearsal_id, events.Poked(), 1.0, after)


def _take(session: Session, house: House, rehearsal: Rehearsal, event: events.Event, elapsed: float) -> None:
    """Folds one event and appends it to the log; the page's state is the log's last. Hours are those of the client, at
    the moment that the rehearsal plays at."""
    flow = _flow(session, house, rehearsal)
    before = stored.load_state(rehearsal.state)
    at = (rehearsal.log[-1]["at"] if rehearsal.log else 0.0) + elapsed
    moment = datetime.fromisoformat(rehearsal.settings["at"]) + timedelta(seconds=at)
    hours = Standings(session, house, rehearsal.client_id, moment)
    zone = ZoneInfo(rehearsal.settings["time_zone"])
    people = Ringers(
        session,
        house,
        rehearsal.client_id,
        moment,
        zone,
        hours.table,
        lambda numbers: (),
        counts=False,
        caller=rehearsal.settings["caller"],
    )
    freed = sum(entry["event"]["kind"] == "poked" for entry in rehearsal.log) + isinstance(event, events.Poked)
    caller = _InLine(rehearsal.settings.get("ahead", 0), freed)

    def look_up(_step: LookUp, question: LookedUp) -> LookedUpAnswer:
        """What whoever rehearses said that the client's system answers; nothing is really asked."""
        what, value = rehearsal.settings.get("looked", {}).get(str(question.visit), ("pending", ""))
        return (what, value)

    def hold_turn(step: HoldLine, question: HoldTurn) -> HoldAnswer:
        line = served(step.team, people.around(), {question.but})
        return turn(step, question, line, replace(caller, mean=mean_talk(session, rehearsal.client_id, step.team)))

    known = _caller(session, house, rehearsal)
    source = answer_source(
        flow,
        moment,
        zone,
        hours.table,
        lambda numbers: (),
        people.staff(rehearsal.flow_id),
        hold_turn,
        look_up=look_up,
        caller=known,
        fields=fields.values(session, rehearsal.client_id, moment, zone, hours, rehearsal.settings["called"], known),
    )
    following, answers = engine.run(flow, before, event, source)
    filled = _fields(session, rehearsal, following, moment, people) if _names_fields(following) else {}
    country = rehearsal.settings.get("country", "US")
    sounds = speech.known_sounds(session, house, following.commands, country)
    entry = call_log.entry(
        len(rehearsal.log) + 1, round(at, 2), event, answers, following, sounds, fields=filled, country=country
    )  # fmt: skip
    rehearsal.log = [*rehearsal.log, entry]
    rehearsal.state = stored.dump_state(following.state)


def _flow(session: Session, house: House, rehearsal: Rehearsal) -> Flow:
    """What a rehearsal runs: its document, the inner flows, and the takes it began with."""
    pins, takes = (rehearsal.settings.get(one) or {} for one in ("pins", "takes"))
    inner = ready.documents(session, house, pins)
    heard = playing.as_heard(session, house, takes)
    return engine.prepare(FlowDocument.model_validate(rehearsal.document), inner, heard)


_DIALED = text(
    "SELECT s.* FROM tracking_numbers n JOIN assignments a ON a.number_id = n.id AND a.during @> CAST(:at AS timestamptz)"
    " JOIN lead_sources s ON s.id = a.source_id WHERE n.client_id = :client AND n.e164 = :called"
)


def _caller(session: Session, house: House, rehearsal: Rehearsal) -> Caller:
    """Whoever calls in a rehearsal: what was set of them, and what is known of the number dialed as it is now."""
    settings, client_id = rehearsal.settings, rehearsal.client_id

    def touch() -> Touch:
        values = {"client": client_id, "called": settings["called"], "at": rehearsal.created_at}
        return touch_of(settings["called"], session.execute(_DIALED, values).first())

    names = names_of(session, house, session.get_one(Client, client_id))
    return set_facts.caller(
        settings.get("facts") or {}, settings["caller"], datetime.fromisoformat(settings["at"]), names, touch,
        lambda: whereabouts(session, house, client_id), secret_of(house, client_id), settings["caller"] or str(rehearsal.id),
    )  # fmt: skip


_SOURCES = text(
    "SELECT s.key, s.id, a.id IS NOT NULL AS has_it FROM lead_sources s LEFT JOIN tracking_numbers n ON n.client_id = s.client_id"
    " AND n.e164 = :called LEFT JOIN assignments a ON a.number_id = n.id AND a.source_id = s.id AND a.during @> CAST(:at AS timestamptz)"
    " WHERE s.client_id = :client"
)


def _names_fields(following: engine.Next) -> bool:
    """Whether words that a person hears first name a field."""
    return any("{" in one.whisper for one in following.commands if isinstance(one, RingLeg))


def _fields(
    session: Session, rehearsal: Rehearsal, following: engine.Next, moment: datetime, people: Ringers
) -> dict[str, str]:
    """What is filled into them, as in a live call: the lead source is that of the number dialed, as it has it now."""
    values = {"client": rehearsal.client_id, "called": rehearsal.settings["called"], "at": rehearsal.created_at}
    rows = session.execute(_SOURCES, values).all()
    context = {
        "sources": {row.key: row.id for row in rows}, "source_id": next((row.id for row in rows if row.has_it), None),
        "time_zone": rehearsal.settings["time_zone"], "caller": rehearsal.settings["caller"],
    }  # fmt: skip
    live = {"client_id": rehearsal.client_id, "started_at": moment, "context": context}
    return notifying.fields(session, live, following.state, dict(people.around().people))


@dataclass(frozen=True, slots=True)
class _InLine:
    """A caller with so many before them when they came: whoever comes free takes the first of those, and then this one."""

    before: int
    freed: int
    mean: float = 0.0

    def length(self) -> int:
        return self.before

    def join(self) -> None:
        return None

    def person(self, line: Served) -> Unit | None:
        return line.free[0] if self.before == 0 or self.freed > self.before else None

    def ahead(self) -> int:
        return max(0, self.before - self.freed)

    def mean_talk(self) -> float:
        return self.mean


def _timer_due(log: list[Row], now: state.State) -> tuple[int, float] | None:
    """The timer that fires next, with the seconds from the last event until it does."""
    running = {now.ring.timer} if now.ring else set()
    if now.phase == "looking":
        running.add(now.awaiting)
    if now.hold:
        running |= {now.hold.limit, now.hold.tell, now.hold.look}
    due = [
        (max(0.0, round(entry["at"] + command["seconds"] - log[-1]["at"], 2)), command["id"])
        for entry in log
        for command in entry["commands"]
        if command["type"] == "timer" and command["id"] in running
    ]
    return (min(due)[1], min(due)[0]) if due else None


def _usual_seconds(session: Session, rehearsal: Rehearsal, event: events.Event) -> float:
    """How long it takes until an event by itself: a prompt's length, a pause's seconds, a phone's ringing."""
    commands: dict[int, Row] = {}
    for entry in rehearsal.log:
        commands |= {one["id"]: one for one in entry["commands"] if one["type"] not in ("drop", "connect")}
    known = commands.get(getattr(event, "command", 0))
    if known is None:
        return 1.0
    if known["type"] == "play":
        return speech.played_seconds(session, known)
    if known["type"] in ("listen", "timer"):
        return float(known["seconds"])
    if known["type"] == "ring":
        return float(known["seconds"]) if getattr(event, "outcome", "") == "rang_out" else 4.0
    return float(getattr(event, "voice", 1.0)) + 1.0


def _own(
    session: Session, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, *, lock: bool = False
) -> tuple[Rehearsal, CallFlow]:
    allow(session, actor, client_id, "work")
    rehearsal = session.get(Rehearsal, rehearsal_id, with_for_update=lock)
    if rehearsal is None or rehearsal.client_id != client_id:
        raise NotFound
    return rehearsal, own_flow(session, client_id, rehearsal.flow_id)


def _show(house: House, rehearsal: Rehearsal, flow: CallFlow) -> OpenRehearsal:
    with house.begin() as session:
        names = names_of(session, house, session.get_one(Client, rehearsal.client_id))
        callees = callee_names(session, rehearsal.client_id)
        prepared = _flow(session, house, rehearsal)
    document = uses.named(conditions.named(whole(prepared.document, prepared.inner), names), callees)
    now = stored.load_state(rehearsal.state)
    seconds = rehearsal.log[-1]["at"] if rehearsal.log else 0.0
    latest = [_with_sound(house, one) for one in _latest(rehearsal.log, now)]
    return OpenRehearsal(
        id=rehearsal.id, flow=CallFlowView.of(flow), revision=rehearsal.revision, document=document, settings=rehearsal.settings,
        log=rehearsal.log, state=now, latest=latest, legs=_legs(prepared, now, rehearsal.log),
        ending=fates.ending(now, seconds) if now.ended else None, seconds=seconds, offered=inputs(prepared, now), due=_timer_due(rehearsal.log, now), names=names,
    )  # fmt: skip


def _latest(log: list[Row], now: state.State) -> list[Row]:
    """The commands of the last event; where it gave none, what is still heard or waited for, as after a key during a notice."""
    if not log or log[-1]["commands"] or now.ended:
        return log[-1]["commands"] if log else []
    return [
        one
        for entry in log
        for one in entry["commands"]
        if one["id"] == now.awaiting and one["type"] in ("play", "listen", "record")
    ]


def _with_sound(house: House, command: Row) -> Row:
    """A command whose sounds are made by now, with their true length."""
    return speech.with_sounds(house, command) if command["type"] == "play" else command


def _legs(flow: Flow, now: state.State, log: list[Row]) -> list[Leg]:
    here: Any = flow.steps.get(now.at)
    if now.ring is None or here is None:
        return []
    rings = {one["id"]: one for entry in log for one in entry["commands"] if one["type"] == "ring"}
    return [
        Leg(
            leg.command, leg.rung.name if leg.rung else here.to[leg.destination].name, rings[leg.command]["number"], rings[leg.command]["seconds"],
            leg.status == "picked_up", here.accept.key if here.accept else "", here.machine_detection,
        )
        for leg in now.ring.legs
    ]  # fmt: skip
