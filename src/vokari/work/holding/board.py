"""The board of a client's hold lines: who waits in each, for how long, and who serves it."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import HoldLine
from ...core.holding.line import wait_seconds
from ...core.people.line_up import members_of
from ...store.calls import Call
from ...store.flows import CallFlow, FlowVersion
from ...store.holding import Hold, HoldLineRow
from ...store.people import DutyRow
from ..agency.access import Actor, allow
from ..flows import ready
from ..house.house import House
from ..house.views import ClientView
from ..people.ringers import Ringers, of_client
from .turns import has_lines

Doing = Literal["free", "rings", "talks", "rests", "off"]


@dataclass(frozen=True, slots=True)
class Waiting:
    """A caller in a line: the place (0 while a phone rings for them), since when, the wait still expected in seconds (0: not
    known), whose phone rings, the longest wait of their step, and the flow that they came by."""

    call: UUID
    caller: str
    place: int
    since: datetime
    expected: int
    rings: str
    longest: int
    flow: str


@dataclass(frozen=True, slots=True)
class Serving:
    """Somebody who serves a line, what they do now, and since when, where that is known."""

    name: str
    doing: Doing
    since: datetime | None


@dataclass(frozen=True, slots=True)
class LineBoard:
    """One hold line. `flows` are the live flows that lead to it, `mean_seconds` that of a talk."""

    team: str
    name: str
    waiting: list[Waiting]
    serving: list[Serving]
    flows: list[str]
    mean_seconds: float

    @property
    def count(self) -> Counter[str]:
        """How many do what."""
        return Counter(one.doing for one in self.serving)


@dataclass(frozen=True, slots=True)
class Board:
    """All hold lines of a client, and how many callers gave up waiting today."""

    client: ClientView
    lines: list[LineBoard]
    gave_up: int
    now: datetime


def board(house: House, actor: Actor, client_id: int) -> Board:
    """The hold lines that live flows lead to, and those in which somebody still waits."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        now = house.now()
        ringers = of_client(session, house, client, now)
        steps, flows = _live_steps(session, client_id)
        holds = list(session.scalars(select(Hold).where(Hold.client_id == client_id).order_by(Hold.place)))
        known = select(HoldLineRow).where(HoldLineRow.client_id == client_id)
        means = {one.team: one.mean_seconds for one in session.scalars(known)}
        teams = ringers.around().teams
        keys = sorted(
            {step.team for step in steps.values()} | {one.team for one in holds}, key=lambda key: _name(ringers, key)
        )
        lines = [
            LineBoard(
                key, _name(ringers, key), _waiting(ringers, key, holds, steps, flows, means.get(key, 0.0)),
                _serving(session, ringers, client_id, key, holds),
                sorted({flows[flow] for (flow, _), step in steps.items() if step.team == key}), means.get(key, 0.0),
            )
            for key in keys if key in teams
        ]  # fmt: skip
        midnight = now.astimezone(ZoneInfo(client.time_zone)).replace(hour=0, minute=0, second=0, microsecond=0)
        gave_up = select(func.count()).where(
            Call.client_id == client_id, Call.started_at >= midnight, Call.reason == "waiting", Call.test.is_(False)
        )
        return Board(ClientView.of(client), lines, session.scalar(gave_up) or 0, now)


def leads_to_lines(house: House, actor: Actor, client_id: int) -> bool:
    """Whether any live flow of a client holds callers."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        return any(has_lines(flow) for flow in ready.live(session, house, client_id))


def _live_steps(session: Session, client_id: int) -> tuple[dict[tuple[int, str], HoldLine], dict[int, str]]:
    """The Hold line steps of the live flows by flow and step, and what the flows are called."""
    query = (
        select(CallFlow, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client_id))
    )
    steps: dict[tuple[int, str], HoldLine] = {}
    flows: dict[int, str] = {}
    for flow, document in session.execute(query):
        flows[flow.id] = flow.name
        for step in FlowDocument.model_validate(document).steps if document else ():
            if isinstance(step, HoldLine):
                steps[flow.id, step.id] = step
    return steps, flows


def _name(ringers: Ringers, key: str) -> str:
    team = ringers.around().teams.get(key)
    return team.name if team else ""


def _waiting(
    ringers: Ringers,
    key: str,
    holds: list[Hold],
    steps: dict[tuple[int, str], HoldLine],
    flows: dict[int, str],
    mean: float,
) -> list[Waiting]:
    around = ringers.around()
    team = around.teams.get(key)
    on_duty = sum(one.state != "off" for one in members_of(key, around)) if team else 0
    found: list[Waiting] = []
    place = 0
    for one in holds:
        if one.team != key or one.answered_at is not None:
            continue
        place += not one.offered
        step = steps.get((one.flow_id or 0, one.step))
        person = around.people.get(one.offered)
        found.append(Waiting(
            one.call_id, one.caller, 0 if one.offered else place, one.joined_at,
            0 if one.offered else wait_seconds(place, mean, on_duty), person.name if person else "",
            step.longest_wait if step else 0, flows.get(one.flow_id or 0, ""),
        ))  # fmt: skip
    return found


def _serving(session: Session, ringers: Ringers, client_id: int, key: str, holds: list[Hold]) -> list[Serving]:
    around = ringers.around()
    duty = {one.person: one for one in session.scalars(select(DutyRow).where(DutyRow.client_id == client_id))}
    rung = {one.offered: one.joined_at for one in holds if one.offered and one.answered_at is None}
    talks = {one.offered: one.answered_at for one in holds if one.answered_at is not None}
    found: list[Serving] = []
    seen: set[str] = set()
    team_key: str | None = key
    while team_key in around.teams and team_key not in seen:
        seen.add(str(team_key))
        team = around.teams[str(team_key)]
        for unit in members_of(str(team_key), around):
            person, known = around.people.get(unit.key), duty.get(unit.key)
            if person is None or any(one.name == person.name for one in found):
                continue
            doing: Doing = {"free": "free", "on_call": "talks", "off": "off"}[unit.state]  # type: ignore[assignment]
            since = known.idle_since if known else None
            if doing == "talks":
                since = talks.get(unit.key)
            elif doing == "free" and unit.key in rung:
                doing, since = "rings", None
            elif doing == "free" and known and known.rests_until and known.rests_until > around.at:
                doing, since = "rests", None
            found.append(Serving(person.name, doing, since if doing in ("free", "talks") else None))
        team_key = team.then
    return found
