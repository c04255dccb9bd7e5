"""Rehearsals: test calls on a draft, driven by a person at the telephone beside the sheet. They count nowhere."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import delete
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.questions.kinds import LOOKED_UP_LONGEST
from ...core.flows.running import engine, events, set_facts, stored
from ...core.flows.running.flow import Flow
from ...core.numbers import numbering
from ...core.proof.examples import Happening
from ...store.agency import Client
from ...store.flows import CallFlow, Rehearsal
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.problems import Problem, Problems
from ..prompts import playing
from . import ready
from .naming import names_of
from .open_drafts import OpenDraft, own_flow
from .open_rehearsals import OpenRehearsal, show
from .rehearsed import back_to, fits, take, timer_due, usual_seconds
from .versions import own_version
from .within import inner_live

KEPT = timedelta(days=7)


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
        begins = Begins(numbers["called"], numbers["caller"], at, ahead, facts)
        rehearsal = _begun(session, house, actor, client, flow, begins, version_id)
        take(session, house, rehearsal, events.Arrived(), 0.0)
        session.flush()
    return opened(house, actor, client_id, rehearsal.id)


@dataclass(frozen=True, slots=True)
class Begins:
    """How the call of a rehearsal begins: to and from which number (empty: withheld), when, behind how many callers in line, and what is set of
    the caller."""

    called: str
    caller: str
    at: datetime
    ahead: int = 0
    facts: Mapping[str, str] = field(default_factory=dict)


def _begun(
    session: Session, house: House, actor: Actor, client: Client, flow: CallFlow, begins: Begins, version_id: int | None = None
) -> Rehearsal:  # fmt: skip
    """A rehearsal in which nothing has happened yet; those of the user's that are older than a week are forgotten."""
    version = own_version(session, flow, version_id) if version_id is not None else None
    now = house.now()
    raw = version.document if version else flow.draft
    runs = engine.prepare(FlowDocument.model_validate(raw))
    pins = ready.pinned(session, house, client.id, runs.continues_in)
    takes = _takes(session, house, client, runs, version_id, pins, begins.at)
    session.execute(delete(Rehearsal).where(Rehearsal.user_id == actor.user_id, Rehearsal.created_at < now - KEPT))
    rehearsal = Rehearsal(
        id=uuid.uuid4(), agency_id=actor.agency_id, client_id=client.id, flow_id=flow.id, user_id=actor.user_id,
        created_at=now, revision=flow.revision, document=raw, log=[], state={},
        settings={
            "called": begins.called, "caller": begins.caller, "country": client.country, "at": begins.at.isoformat(),
            "time_zone": client.time_zone, "ahead": begins.ahead, "version": version.number if version else None,
            "version_id": version_id, "facts": dict(begins.facts), "pins": pins, "takes": takes,
        },
    )  # fmt: skip
    session.add(rehearsal)
    return rehearsal


def play(
    house: House, actor: Actor, client_id: int, flow_id: int, begins: Begins, happenings: Sequence[Happening],
    version_id: int | None = None,
) -> OpenRehearsal:  # fmt: skip
    """A rehearsal of the draft, or of a version, that has gone as an example call does, as far as that still lets it."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        rehearsal = _begun(session, house, actor, client, flow, begins, version_id)
        before = 0.0
        for one in happenings:
            if rehearsal.log and not fits(session, house, rehearsal, one.event):
                break
            take(session, house, rehearsal, one.event, one.seconds - before, one.answers)
            before = one.seconds
        session.flush()
    return opened(house, actor, client_id, rehearsal.id)


def back(house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, kept: int) -> OpenRehearsal:
    """Takes a rehearsal back to where so many things had happened, so that something else is chosen from there. Raises NotFound for more than
    have happened, or none."""
    with house.begin() as session:
        rehearsal, flow = _own(session, actor, client_id, rehearsal_id, lock=True)
        if not 0 < kept <= len(rehearsal.log):
            raise NotFound
        back_to(session, house, rehearsal, kept)
        session.flush()
    return show(house, rehearsal, flow)


def _takes(
    session: Session, house: House, client: Client, runs: Flow, version_id: int | None, pins: Mapping[str, int], at: datetime
) -> playing.Chosen:  # fmt: skip
    """The takes that a rehearsal plays: of a version those that it plays at that moment, of the draft the newest."""
    zone = ZoneInfo(client.time_zone)
    if version_id is not None:
        return ready.takes_of(session, house, client.agency_id, {"": version_id, **pins}, at, zone)
    return ready.takes_of_draft(session, house, client.agency_id, runs, pins, at, zone)


def fact_lines(draft: OpenDraft, document: FlowDocument) -> list[set_facts.FactLine]:
    """The facts that make a difference to a draft or a version of it, with all that it continues in."""
    return set_facts.lines(Flow(document, inner_live(document, draft.flows)).steps.values(), draft.names)


def opened(house: House, actor: Actor, client_id: int, rehearsal_id: uuid.UUID) -> OpenRehearsal:
    """A rehearsal as it stands."""
    with house.begin() as session:
        rehearsal, flow = _own(session, actor, client_id, rehearsal_id)
    return show(house, rehearsal, flow)


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
            seconds = usual_seconds(session, rehearsal, event) if elapsed is None else max(0.0, min(elapsed, 3600.0))
            due = timer_due(rehearsal.log, stored.load_state(rehearsal.state))
            if due is not None and due[1] <= seconds:
                event, seconds = events.TimerFired(due[0]), due[1]
            take(session, house, rehearsal, event, seconds)
            session.flush()
    return show(house, rehearsal, flow)


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


def _own(
    session: Session, actor: Actor, client_id: int, rehearsal_id: uuid.UUID, *, lock: bool = False
) -> tuple[Rehearsal, CallFlow]:
    allow(session, actor, client_id, "work")
    rehearsal = session.get(Rehearsal, rehearsal_id, with_for_update=lock)
    if rehearsal is None or rehearsal.client_id != client_id:
        raise NotFound
    return rehearsal, own_flow(session, client_id, rehearsal.flow_id)
