"""What a team, or a Ring step of a flow, means for a caller now, and how busy its people are at the client's own load."""

import json
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import HoldLine, Ring
from ...core.flows.model.values import TeamDestination
from ...core.flows.shown.outline import numbers
from ...core.flows.shown.words import target_words
from ...core.holding import meaning as heldmeaning
from ...core.holding.line import served
from ...core.holding.meaning import Held, WaitHour
from ...core.people import uses
from ...core.people.line_up import rung_now
from ...core.people.meaning import MOST_ROUNDS, Hour, Meaning, hours_of, meaning, proposal
from ...store.agency import Client
from ...store.flows import CallFlow
from ...store.people import TeamRow
from ..agency.access import Actor, NotFound, allow
from ..hours.ready import Standings
from ..house.house import House
from .ringers import Ringers, of_client

LOOKED_AT = timedelta(days=28)
FEWEST_CALLS = 20

_CAME = text(
    "SELECT c.started_at, c.talk_seconds, c.fate FROM calls c JOIN call_logs l ON l.call_id = c.id AND l.started_at = c.started_at"
    " WHERE c.client_id = :client AND c.flow_id = :flow AND c.started_at > :since AND NOT c.test"
    " AND jsonb_path_exists(CAST(l.entries AS jsonb), '$[*].way[*][1] ? (@ == $s[*])', CAST(:steps AS jsonb))"
)


@dataclass(frozen=True, slots=True)
class Means:
    """What it means now, the hours of a working day by load, the mean talk in seconds they are worked out with, and what
    would help; no hours while there are too few calls to tell."""

    now: Meaning
    hours: list[Hour]
    mean_seconds: float
    proposal: str


@dataclass(frozen=True, slots=True)
class HeldMeans:
    """The same of a Hold line."""

    now: Held
    hours: list[WaitHour]
    mean_seconds: float
    proposal: str


Steps = dict[int, list[str]]
"""The ids of steps by that of their flow."""


def of_team(house: House, actor: Actor, client_id: int, team_id: int) -> Means:
    """A team as if a flow rang it alone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        row = session.get(TeamRow, team_id)
        if row is None or row.client_id != client_id or row.removed_at is not None:
            raise NotFound
        steps: Steps = {}
        guarded = False
        for flow in session.scalars(select(CallFlow).where(CallFlow.of(client_id))):
            for use in uses.uses(FlowDocument.model_validate(flow.draft)):
                if use.key == row.key and isinstance(use.step, Ring | HoldLine):
                    steps.setdefault(flow.id, []).append(use.step.id)
                    guarded = guarded or use.step.accept is not None or use.step.machine_detection
        step = Ring(id="team", to=(TeamDestination(id="team", team=row.key),))
        return _of_ring(_Asked(session, house, client, steps), step, guarded=guarded)


def of_step(house: House, actor: Actor, client_id: int, flow_id: int, step_id: str) -> Means | HeldMeans | None:
    """A Ring or Hold line step of a draft; None for a step of another kind."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        flow = session.get(CallFlow, flow_id)
        if flow is None or flow.client_id != client_id:
            raise NotFound
        document = FlowDocument.model_validate(flow.draft)
        step = document.step(step_id)
        asked = _Asked(session, house, client, {flow_id: [step_id]})
        if isinstance(step, HoldLine) and step.team:
            places = numbers(document)
            known = {way.id: document.step(str(way.target)) for way in step.exits}
            words = {
                way.id: target_words(way.target, known[way.id], places.get(str(way.target), 0)) for way in step.exits
            }
            return _of_hold(asked, step, words)
        if not isinstance(step, Ring) or not step.to:
            return None
        return _of_ring(asked, step, guarded=step.accept is not None or step.machine_detection)


class _Asked:
    """What is known of the client and of the calls that came to some steps."""

    def __init__(self, session: Session, house: House, client: Client, steps: Steps) -> None:
        self.session, self.house, self.client, self.steps = session, house, client, steps
        self.now, self.zone = house.now(), ZoneInfo(client.time_zone)
        self.tables = Standings(session, house, client.id, self.now).tables()
        self.calls, self.mean_seconds = self._load()

    def ringers(self, at: datetime) -> Ringers:
        """The people at a moment, none of them on a call."""
        client = self.client
        return Ringers(
            self.session, self.house, client.id, at, self.zone, self.tables.get, lambda _: (), counts=False
        )  # fmt: skip

    @property
    def tells(self) -> bool:
        """Whether enough calls came to tell."""
        return sum(self.calls.values()) * LOOKED_AT.days * 5 / 7 >= FEWEST_CALLS

    def by_hour(self, count: Callable[[Ringers], int]) -> dict[int, int]:
        """How many can be rung in each hour in which calls come, on the next working day."""
        day = self.now.astimezone(self.zone).replace(hour=0, minute=30, second=0, microsecond=0) + timedelta(days=1)
        while day.weekday() > 4:
            day += timedelta(days=1)
        return {hour: count(self.ringers(day.replace(hour=hour))) for hour in self.calls}

    def _load(self) -> tuple[dict[int, float], float]:
        """The mean count of calls that came to the steps in each hour of a working day, and the mean talk: of the latest
        four weeks."""
        counts: Counter[int] = Counter()
        talks = []
        for flow_id, steps in self.steps.items():
            values = {
                "client": self.client.id,
                "flow": flow_id,
                "since": self.now - LOOKED_AT,
                "steps": json.dumps({"s": steps}),
            }
            for started, talked, fate in self.session.execute(_CAME, values):
                local = started.astimezone(self.zone)
                if local.weekday() < 5:
                    counts[local.hour] += 1
                if fate == "answered":
                    talks.append(talked)
        days = LOOKED_AT.days * 5 / 7
        return {hour: count / days for hour, count in counts.items()}, sum(talks) / len(talks) if talks else 0.0


def _of_ring(asked: _Asked, step: Ring, *, guarded: bool) -> Means:
    here = asked.ringers(asked.now)
    rounds = []
    for round_ in range(1, MOST_ROUNDS + 1):
        rounds.append(rung_now(step, "", round_, here.around()))
        if not rounds[-1][2] or not rounds[-1][0]:
            break
    now = meaning(rounds, step.limit, here.around().people, guarded=guarded)
    if not asked.tells:
        return Means(now, [], asked.mean_seconds, "")

    def can_be_rung(ringers: Ringers) -> int:
        return len({rung.who for wave in rung_now(step, "", 1, ringers.around())[0] for rung in wave})

    hours = hours_of(asked.calls, asked.mean_seconds, asked.by_hour(can_be_rung))
    return Means(now, hours, asked.mean_seconds, proposal(hours))


def _of_hold(asked: _Asked, step: HoldLine, exits_in_words: dict[str, str]) -> HeldMeans:
    around = of_client(asked.session, asked.house, asked.client, asked.now).around()
    now = heldmeaning.held(step, served(step.team, around), around.people, exits_in_words)
    if not asked.tells:
        return HeldMeans(now, [], asked.mean_seconds, "")
    people = asked.by_hour(lambda ringers: served(step.team, ringers.around()).on_duty)
    hours = heldmeaning.hours_of(asked.calls, asked.mean_seconds, people, step.longest_wait)
    return HeldMeans(now, hours, asked.mean_seconds, heldmeaning.proposal(hours, asked.mean_seconds))
