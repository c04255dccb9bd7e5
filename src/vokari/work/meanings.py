"""What a team, or a Ring step of a flow, means for a caller now, and how busy its people are at the client's own load."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.flows.document import FlowDocument
from ..core.flows.steps import Ring
from ..core.flows.values import TeamDestination
from ..core.ringing import uses
from ..core.ringing.meaning import MOST_ROUNDS, Hour, Meaning, hours_of, meaning, proposal
from ..store.agency import Client
from ..store.calls import Call
from ..store.flows import CallFlow
from ..store.people import TeamRow
from .access import Actor, NotFound, allow
from .house import House
from .ringers import Ringers
from .standing import Standings

LOOKED_AT = timedelta(days=28)
FEWEST_CALLS = 20


@dataclass(frozen=True, slots=True)
class Means:
    """What it means now, the hours of a working day by load, the mean talk in seconds they are worked out with, and what
    would help; no hours while there are too few calls to tell."""

    now: Meaning
    hours: list[Hour]
    mean_seconds: float
    proposal: str


def of_team(house: House, actor: Actor, client_id: int, team_id: int) -> Means:
    """A team as if a flow rang it alone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        row = session.get(TeamRow, team_id)
        if row is None or row.client_id != client_id or row.removed_at is not None:
            raise NotFound
        flows, guarded = [], False
        for flow in session.scalars(select(CallFlow).where(CallFlow.client_id == client_id)):
            for use in uses.uses(FlowDocument.model_validate(flow.draft)):
                if use.key == row.key and isinstance(use.step, Ring):
                    flows.append(flow.id)
                    guarded = guarded or use.step.accept is not None or use.step.machine_detection
        step = Ring(id="team", to=(TeamDestination(id="team", team=row.key),))
        return _means(session, house, client, step, flows, guarded=guarded)


def of_step(house: House, actor: Actor, client_id: int, flow_id: int, step_id: str) -> Means | None:
    """A Ring step of a draft; None for a step of another kind."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = session.get(CallFlow, flow_id)
        if flow is None or flow.client_id != client_id:
            raise NotFound
        step = FlowDocument.model_validate(flow.draft).step(step_id)
        if not isinstance(step, Ring) or not step.to:
            return None
        guarded = step.accept is not None or step.machine_detection
        return _means(session, house, client, step, [flow_id], guarded=guarded)


def _means(session: Session, house: House, client: Client, step: Ring, flows: list[int], *, guarded: bool) -> Means:
    now, zone = house.now(), ZoneInfo(client.time_zone)
    tables = Standings(session, house, client.id, now).tables()

    def ringers(at: datetime) -> Ringers:
        return Ringers(session, house, client.id, at, zone, tables.get, lambda numbers: (), counts=False)

    here = ringers(now)
    rounds = []
    for round_ in range(1, MOST_ROUNDS + 1):
        rounds.append(here.line_up(None, step, round_))
        if not rounds[-1][2] or not rounds[-1][0]:
            break
    means = meaning(rounds, step.limit, here.around().people, client.country, guarded=guarded)
    calls, seconds = _load(session, client, flows, now, zone)
    if sum(calls.values()) * LOOKED_AT.days * 5 / 7 < FEWEST_CALLS:
        return Means(means, [], seconds, "")
    day = now.astimezone(zone).replace(hour=0, minute=30, second=0, microsecond=0) + timedelta(days=1)
    while day.weekday() > 4:
        day += timedelta(days=1)
    people = {}
    for hour in calls:
        around = ringers(day.replace(hour=hour)).line_up(None, step, 1)
        people[hour] = len({rung.who for wave in around[0] for rung in wave})
    hours = hours_of(calls, seconds, people)
    return Means(means, hours, seconds, proposal(hours))


def _load(
    session: Session, client: Client, flows: list[int], now: datetime, zone: ZoneInfo
) -> tuple[dict[int, float], float]:
    """The mean count of calls in each hour of a working day, and the mean talk: of the latest four weeks."""
    query = select(Call.started_at, Call.talk_seconds, Call.fate).where(
        Call.client_id == client.id, Call.started_at > now - LOOKED_AT, Call.flow_id.in_(flows), Call.test.is_(False),
        Call.fate.in_(("answered", "message_left", "lost")),
    )  # fmt: skip
    counts: Counter[int] = Counter()
    talks = []
    for started, talked, fate in session.execute(query):
        local = started.astimezone(zone)
        if local.weekday() < 5:
            counts[local.hour] += 1
        if fate == "answered":
            talks.append(talked)
    days = LOOKED_AT.days * 5 / 7
    return {hour: count / days for hour, count in counts.items()}, sum(talks) / len(talks) if talks else 0.0
