"""Hold lines of live calls: whose turn it is, first come first served, and who must be told that somebody is free.

All that changes a client's lines happens under one lock of the client, taken before any lock on turns and held until the
event is committed: two calls never get the same person, and nobody who comes free is missed.
"""

from collections.abc import Callable, Collection, Mapping
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import RowMapping, bindparam, text
from sqlalchemy.dialects.postgresql import ARRAY, TEXT
from sqlalchemy.orm import Session

from ...core.flows.model.steps import HoldLine
from ...core.flows.questions.kinds import HoldAnswer, HoldTurn
from ...core.flows.running.events import Event, Leg
from ...core.flows.running.flow import Flow
from ...core.flows.running.state import State
from ...core.holding.line import REST_SECONDS, Served, assigned, served, take, turn
from ...core.people.line_up import Around, Unit
from ..house import jobs
from ..house.house import House
from ..house.ports import CarrierRefuses
from ..house.problems import Row
from ..people.ringers import Ringers

_GATE = text("SELECT pg_advisory_xact_lock(hashtext('hold_lines'), CAST(:client AS int))")
_LINES = text("SELECT team FROM hold_lines WHERE client_id = :client")
_MEAN = text("SELECT mean_seconds FROM hold_lines WHERE client_id = :client AND team = :team")
_FIRST = text(
    "INSERT INTO hold_lines (client_id, team, mean_seconds) SELECT CAST(:client AS bigint), CAST(:team AS text), COALESCE((SELECT avg(talk_seconds)"
    " FROM calls WHERE client_id = :client AND fate = 'answered' AND started_at > :since AND NOT test), 0)"
    " WHERE NOT EXISTS (SELECT 1 FROM hold_lines WHERE client_id = :client AND team = :team) ON CONFLICT DO NOTHING"
)
_LEARN = text(
    "UPDATE hold_lines SET mean_seconds = CASE WHEN mean_seconds = 0 THEN CAST(:talk AS double precision) ELSE mean_seconds"
    " + (CAST(:talk AS double precision) - mean_seconds) / 8 END WHERE client_id = :client AND team = :team"
)
_OWN = text("SELECT place, team, offered, answered_at FROM holds WHERE call_id = :call")
_JOIN = text(
    "INSERT INTO holds (call_id, client_id, team, ref, caller, flow_id, step, joined_at, offered)"
    " VALUES (:call, :client, :team, :ref, :caller, :flow, :step, :at, '') RETURNING place"
)
_AHEAD = text(
    "SELECT count(*) FROM holds WHERE client_id = :client AND team = :team AND answered_at IS NULL AND offered = ''"
    " AND place < :place"
)
_LENGTH = text(
    "SELECT count(*) FROM holds WHERE client_id = :client AND team = :team AND answered_at IS NULL AND offered = ''"
)
_ALL = text(
    "SELECT ref FROM holds WHERE client_id = :client AND team = ANY(:teams) AND answered_at IS NULL AND offered = ''"
)
_OFFER = text("UPDATE holds SET offered = :person WHERE call_id = :call")
_ANSWERED = text("UPDATE holds SET offered = :person, answered_at = :at WHERE call_id = :call")
_GONE = text("DELETE FROM holds WHERE call_id = :call")
_OFFERED = text(
    "SELECT offered FROM holds WHERE client_id = :client AND offered <> '' AND answered_at IS NULL"
    " UNION ALL SELECT person FROM duty WHERE client_id = :client AND rests_until > :at"
)
_REST = text(
    "INSERT INTO duty (client_id, person, off, taken, missed, rests_until) VALUES (:client, :person, false, 0, 0, :until)"
    " ON CONFLICT (client_id, person) DO UPDATE SET rests_until = :until"
)
_WAITING = text(
    "SELECT one.call_id, one.ref, t.team FROM unnest(:teams) AS t(team) CROSS JOIN LATERAL (SELECT h.call_id, h.ref, h.place"
    " FROM holds h WHERE h.client_id = :client AND h.team = t.team AND h.answered_at IS NULL AND h.offered = ''"
    " ORDER BY h.place LIMIT :most) AS one ORDER BY one.place"
).bindparams(bindparam("teams", type_=ARRAY(TEXT)))
LEARN_FROM = timedelta(days=28)

Live = Row | RowMapping


class HoldLines:
    """A client's hold lines within the transaction of one event of a call. `ringers` makes a fresh look at the people."""

    def __init__(self, session: Session, live: Live, at: datetime, ringers: Callable[[], Ringers]) -> None:
        self.session, self.live, self.at, self.ringers = session, live, at, ringers
        self.client = {"client": live["client_id"]}

    def turn(self, step: HoldLine, question: HoldTurn) -> HoldAnswer:
        """What becomes of this call's caller; the first time they are put into the line. Takes the gate."""
        self.gate()
        if question.but:
            self.session.execute(_OFFER, {"call": self.live["id"], "person": ""})
        around = self.ringers().around()
        held = {*self.session.scalars(_OFFERED, {**self.client, "at": self.at}), question.but}
        return turn(step, question, served(step.team, around, held), _InLine(self, step, around, held))

    def gate(self) -> None:
        """Waits until no other event of this client changes its lines."""
        self.session.execute(_GATE, self.client)

    def follow(self, before: State, event: Event, after: State) -> bool:
        """Writes down what an event made of this call's place: taken, no longer offered, or gone from the line. Gives
        whether somebody came free by it."""
        call = {"call": self.live["id"]}
        offered = before.hold.offered if before.hold else ""
        if before.hold is not None and after.phase == "talking":
            self.session.execute(_ANSWERED, {**call, "person": offered, "at": self.at})
            return False
        if before.phase == "talking" and after.phase != "talking":
            self.learn(call)
            return True
        if before.hold is None:
            return False
        left = after.hold is None or after.hold.limit != before.hold.limit
        if offered and isinstance(event, Leg) and (left or after.hold is None or after.hold.offered != offered):
            until = self.at + timedelta(seconds=REST_SECONDS)
            self.session.execute(_REST, {**self.client, "person": offered, "until": until})
        if after.hold is None:
            self.session.execute(_GONE, call)
        return bool(offered) and left

    def learn(self, call: Mapping[str, Any]) -> None:
        row = self.session.execute(_OWN, call).first()
        if row is not None and row.answered_at is not None:
            talk = (self.at - row.answered_at).total_seconds()
            self.session.execute(_LEARN, {**self.client, "team": row.team, "talk": talk})
            self.session.execute(_GONE, call)

    def tell(self) -> None:
        """Has the carrier poke the calls whose turn it is now, once this event is committed."""
        _tell(self.session, self.client, self.at, self.ringers())


class _InLine:
    """This call's caller in the line of a team."""

    def __init__(self, lines: HoldLines, step: HoldLine, around: Around, held: Collection[str]) -> None:
        self.lines, self.step, self.around, self.held = lines, step, around, held
        self.session, self.live, self.call = lines.session, lines.live, {"call": lines.live["id"]}
        self.team = {**lines.client, "team": step.team}
        self.place = 0

    def length(self) -> int:
        self.session.execute(_FIRST, {**self.team, "since": self.lines.at - LEARN_FROM})
        return int(self.session.scalar(_LENGTH, self.team) or 0)

    def join(self) -> None:
        """The place in a line that leads straight into this one is given up, and a talk that came of it learned from: one call
        has one place."""
        self.lines.learn(self.call)
        self.session.execute(_GONE, self.call)
        self.place = self._joined()

    def person(self, line: Served) -> Unit | None:
        self._own_place()
        person = self._assigned(line).get(self.live["id"])
        if person is None:
            return None
        take(line, person, self.around.take)
        self.session.execute(_OFFER, {**self.call, "person": person})
        return next(one for one in line.free if one.key == person)

    def ahead(self) -> int:
        return int(self.session.scalar(_AHEAD, {**self.team, "place": self._own_place()}) or 0)

    def mean_talk(self) -> float:
        return mean_talk(self.session, self.live["client_id"], self.step.team)

    def _own_place(self) -> int:
        if not self.place:
            row = self.session.execute(_OWN, self.call).first()
            self.place = row.place if row else self._joined()
        return self.place

    def _joined(self) -> int:
        context = self.live["context"]
        place = self.session.scalar(
            _JOIN,
            {
                **self.team, **self.call, "ref": self.live["ref"], "caller": context["caller"], "flow": context["flow_id"],
                "step": self.step.id, "at": self.lines.at,
            },
        )  # fmt: skip
        return int(place or 0)

    def _assigned(self, line: Served) -> Mapping[UUID, str]:
        """Who gets whom among all that wait for the people who are free, this call included."""
        around = self.lines.ringers().around()
        teams = self.session.scalars(_LINES, self.lines.client)
        free = {
            team: [one.key for one in (line if team == self.step.team else served(team, around, self.held)).free]
            for team in teams
        }
        waiting = _waiting(self.session, self.lines.client, free)
        return assigned([(row.call_id, row.team) for row in waiting], free)


def gate(session: Session, client_id: int) -> bool:
    """Waits until no other change of this client's lines is under way; whether it has any. To be called before anything else
    is locked."""
    if not any_lines(session, client_id):
        return False
    session.execute(_GATE, {"client": client_id})
    return True


def changed(session: Session, client_id: int, at: datetime, ringers: Ringers) -> None:
    """Somebody was switched on or off, behind the gate: those whose turn it is are told, and all of a line that nobody
    serves any more."""
    _tell(session, {"client": client_id}, at, ringers)


def _tell(session: Session, client: Mapping[str, int], at: datetime, ringers: Ringers) -> None:
    around = ringers.around()
    held = set(session.scalars(_OFFERED, {**client, "at": at}))
    lines = {team: served(team, around, held) for team in session.scalars(_LINES, client)}
    free = {team: [one.key for one in line.free] for team, line in lines.items()}
    waiting = _waiting(session, client, free)
    turns = assigned([(row.call_id, row.team) for row in waiting], free)
    refs = [row.ref for row in waiting if row.call_id in turns]
    unserved = [team for team, line in lines.items() if not line.on_duty]
    if unserved:
        refs += session.scalars(_ALL, {**client, "teams": unserved})
    for ref in refs:
        jobs.defer(session, "poke", ref=ref)


def _waiting(session: Session, client: Mapping[str, int], free: Mapping[str, list[str]]) -> list[Any]:
    """Those who wait with no phone ringing for them, in order of arrival: of each line as many as there are people free
    in all."""
    teams = [team for team, people in free.items() if people]
    if not teams:
        return []
    most = len({person for people in free.values() for person in people})
    return list(session.execute(_WAITING, {**client, "teams": teams, "most": most}))


def mean_talk(session: Session, client_id: int, team: str) -> float:
    """The mean seconds of a talk with those who serve a line; 0 where none is known."""
    return float(session.scalar(_MEAN, {"client": client_id, "team": team}) or 0)


def has_lines(flow: Flow) -> bool:
    """Whether a flow holds callers anywhere."""
    return any(isinstance(step, HoldLine) for step in flow.steps.values())


def any_lines(session: Session, client_id: int) -> bool:
    """Whether any caller of this client was ever held."""
    return session.execute(_LINES, {"client": client_id}).first() is not None


def poke(house: House, ref: str) -> bool:
    """Asks the carrier for a `poked` event; False for a call that is over meanwhile and needs none."""
    try:
        house.carrier.poke(ref)
    except CarrierRefuses as refusal:
        if not refusal.gone:
            raise
        return False
    return True
