"""One event of a rehearsal: folded with the answers of the client's hours, people and numbers, of what was set, and of what happened before."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import HoldLine, LookUp
from ...core.flows.questions import stored as questions
from ...core.flows.questions.facts import Fact, Touch
from ...core.flows.questions.kinds import (
    Answer,
    AnswerSource,
    HoldAnswer,
    HoldTurn,
    LookedUp,
    LookedUpAnswer,
    Question,
    SpokenFields,
)
from ...core.flows.running import engine, events, set_facts, state, stored
from ...core.flows.running.answering import answer_source
from ...core.flows.running.canonical import commands_of
from ...core.flows.running.commands import RingLeg
from ...core.flows.running.facts import Caller
from ...core.flows.running.flow import Flow
from ...core.holding.line import Served, served, turn
from ...core.people.line_up import Unit
from ...formats import call_log
from ...store.agency import Client
from ...store.flows import Rehearsal
from ..calls import notifying
from ..calls.known_callers import secret_of, touch_of
from ..holding.turns import mean_talk
from ..hours.ready import Standings
from ..house.house import House
from ..house.problems import Row
from ..people.ringers import Ringers
from ..places.ready import whereabouts
from ..prompts import fields, speech
from . import ready
from .naming import names_of

Answers = Sequence[tuple[Question, Answer]]


def take(
    session: Session, house: House, rehearsal: Rehearsal, event: events.Event, elapsed: float, given: Answers = ()
) -> None:
    """Folds one event and appends it to the log; the page's state is the log's last. Hours are those of the client, at
    the moment that the rehearsal plays at; `given` are answers that an example call fixed before."""
    flow = flow_of(session, house, rehearsal)
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
    following, answers = engine.run(flow, before, event, _with(source, rehearsal.log, given))
    filled = _fields(session, rehearsal, following, moment, people) if _names_fields(following) else {}
    country = rehearsal.settings.get("country", "US")
    sounds = speech.known_sounds(session, house, following.commands, country)
    entry = call_log.entry(
        len(rehearsal.log) + 1, round(at, 2), event, answers, following, sounds, fields=filled, country=country
    )  # fmt: skip
    rehearsal.log = [*rehearsal.log, entry]
    rehearsal.state = stored.dump_state(following.state)


def flow_of(session: Session, house: House, rehearsal: Rehearsal) -> Flow:
    """What a rehearsal runs: its document, the inner flows, and the takes it began with."""
    pins, takes = (rehearsal.settings.get(one) or {} for one in ("pins", "takes"))
    return ready.draft(session, house, FlowDocument.model_validate(rehearsal.document), pins, takes)


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


def _with(source: AnswerSource, log: Sequence[Row], given: Answers) -> AnswerSource:
    """Answers that were fixed for an event, then what was told of the caller before, then those of the source."""
    known: dict[Question, Answer] = {
        question: answer
        for entry in log
        for question, answer in questions.load(entry["answers"]).items()
        if isinstance(question, Fact)
    }
    known |= {question: answer for question, answer in given if not isinstance(question, SpokenFields)}

    def answer(question: Question) -> Answer:
        return known[question] if question in known else source(question)

    return answer


def fits(session: Session, house: House, rehearsal: Rehearsal, event: events.Event) -> bool:
    """Whether a call still waits for an event."""
    now = stored.load_state(rehearsal.state)
    command = getattr(event, "command", None)
    return not now.ended and (command is None or command in commands_of(now).values())


def back_to(session: Session, house: House, rehearsal: Rehearsal, events_kept: int) -> None:
    """Takes back what happened after so many events; the call stands as it stood then."""
    flow = flow_of(session, house, rehearsal)
    now = state.State()
    for entry in rehearsal.log[:events_kept]:
        answers = questions.load(entry["answers"])
        now = engine.run(flow, now, stored.load_event(entry["event"]), answers.__getitem__)[0].state
    rehearsal.log = rehearsal.log[:events_kept]
    rehearsal.state = stored.dump_state(now)


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


def timer_due(log: list[Row], now: state.State) -> tuple[int, float] | None:
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


def usual_seconds(session: Session, rehearsal: Rehearsal, event: events.Event) -> float:
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
