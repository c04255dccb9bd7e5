"""Who is rung for a call: the client's people and teams as they are, whose turn it is, and what calls make of it.

Turns are taken inside the call's own transaction: the row of a team is locked from the moment it is asked until the
event is committed, so two calls at once never take the same turn.
"""

import json
import random
from collections.abc import Callable, Collection
from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.running.commands import Connect
from ...core.flows.running.engine import Next
from ...core.flows.running.events import Event, Leg
from ...core.flows.running.flow import WITHIN, flow_of
from ...core.flows.running.state import RungLeg, State
from ...core.hours.timetable import Timetable
from ...core.people.directory import Person, Team
from ...core.people.line_up import Around, Duty, Staff, Turns
from ...store.agency import Client
from ..hours.ready import Standings
from ..house.house import House

_ON_CALL = text(
    "SELECT talking_to FROM live_calls WHERE agency_id = :agency AND talking_to = ANY(:numbers) AND alive_at > :since"
)
CONFIRMED_WITHIN = timedelta(seconds=90)
"""A talk counts as busy only while its latest event, or the carrier's word that it goes on, is younger than this."""
_PEOPLE = text("SELECT id, key, revision, document FROM people WHERE client_id = :client AND removed_at IS NULL")
_TEAMS = text("SELECT id, key, revision, document FROM teams WHERE client_id = :client AND removed_at IS NULL")
_NAMES = text(
    "SELECT key, name FROM people WHERE client_id = :client AND removed_at IS NULL"
    " UNION ALL SELECT key, name FROM teams WHERE client_id = :client AND removed_at IS NULL"
    " UNION ALL SELECT 'flow:' || key, name FROM flows WHERE client_id = :client AND removed_at IS NULL"
)
_SPOKE = text(
    "SELECT answered_by FROM calls WHERE caller = :caller AND client_id = :client AND fate = 'answered' AND answered_by <> ''"
    " AND started_at BETWEEN :since AND :at AND NOT test ORDER BY started_at DESC LIMIT 1"
)
_DUTY = text("SELECT person, off, taken_on, taken, idle_since FROM duty WHERE client_id = :client")
_TURN = text("SELECT document FROM turns WHERE client_id = :client AND key = :key")
_LOCK_TURN = text("SELECT document FROM turns WHERE client_id = :client AND key = :key FOR UPDATE")
_FIRST_TURN = text("INSERT INTO turns (client_id, key, document) VALUES (:client, :key, '{}') ON CONFLICT DO NOTHING")
_KEEP_TURN = text("UPDATE turns SET document = CAST(:document AS jsonb) WHERE client_id = :client AND key = :key")
_TOOK = text(
    "INSERT INTO duty (client_id, person, off, taken_on, taken, missed) VALUES (:client, :person, false, :day, 1, 0)"
    " ON CONFLICT (client_id, person) DO UPDATE SET missed = 0, taken_on = :day,"
    " taken = CASE WHEN duty.taken_on = :day THEN duty.taken + 1 ELSE 1 END"
)
_IDLE = text(
    "INSERT INTO duty (client_id, person, off, taken, idle_since, missed) VALUES (:client, :person, false, 0, :at, 0)"
    " ON CONFLICT (client_id, person) DO UPDATE SET idle_since = :at"
)
_MISSED = text(
    "INSERT INTO duty (client_id, person, off, taken, missed) VALUES (:client, :person, false, 0, 1)"
    " ON CONFLICT (client_id, person) DO UPDATE SET missed = duty.missed + 1"
)


def on_call(session: Session, house: House, agency_id: int) -> Callable[[Collection[str]], Collection[str]]:
    """Finds those of some numbers that are connected in a call of the agency now."""
    values = {"agency": agency_id, "since": house.now() - CONFIRMED_WITHIN}
    return lambda numbers: session.scalars(_ON_CALL, {**values, "numbers": list(numbers)}).all()


def of_client(session: Session, house: House, client: Client, at: datetime, *, counts: bool = False) -> "Ringers":
    """A client's people as they are at a moment, outside of any call."""
    hours = Standings(session, house, client.id, at)
    busy = on_call(session, house, client.agency_id)
    return Ringers(session, house, client.id, at, ZoneInfo(client.time_zone), hours.table, busy, counts=counts)


def place_of(flow_id: int | None, step_id: str) -> str:
    """What tells a step from those of other flows: one of an inner flow is the same wherever that is continued in."""
    return step_id.replace(WITHIN, ":") if flow_of(step_id) else f"{flow_id or 0}:{step_id}"


class Ringers:
    """The people and teams of one client within one transaction, read when they are first asked for. `counts`: the call
    takes turns; `caller` is its caller's number, empty for nobody's."""

    def __init__(
        self, session: Session, house: House, client_id: int, at: datetime, zone: ZoneInfo,
        tables: Callable[[str], Timetable | None], busy: Callable[[Collection[str]], Collection[str]], *, counts: bool,
        caller: str = "",
    ) -> None:  # fmt: skip
        self.session, self.house, self.client_id, self.counts, self.caller = session, house, client_id, counts, caller
        self.at, self.zone, self.tables, self.busy = at, zone, tables, busy
        self._around: Around | None = None

    def staff(self, flow_id: int | None) -> Staff:
        """Who answers for the steps of a flow."""
        return Staff(self.around, lambda step: f"step:{place_of(flow_id, step.id)}")

    def around(self) -> Around:
        """All that a line-up depends on."""
        if self._around is None:
            people = people_of(self.session, self.house, self.client_id)
            self._around = Around(
                self.at, self.zone, self.tables, self._engaged(people), people,
                teams_of(self.session, self.house, self.client_id), self._duty(), self._turns,
                self._take if self.counts else lambda _key, _turns: None, random.Random(), self._spoke_with,
            )  # fmt: skip
        return self._around

    def _spoke_with(self, days: int) -> str:
        if not self.caller:
            return ""
        values = {
            "client": self.client_id,
            "caller": self.caller,
            "since": self.at - timedelta(days=days),
            "at": self.at,
        }
        return str(self.session.scalar(_SPOKE, values) or "")

    def _engaged(self, people: dict[str, Person]) -> Callable[[Collection[str]], Collection[str]]:
        """Who is on a call, of all phones that people have, asked once."""
        known = {phone.to for person in people.values() for phone in person.phones}
        engaged = set(self.busy(known)) if known else set()
        return lambda numbers: engaged.intersection(numbers) if known.issuperset(numbers) else self.busy(numbers)

    def _duty(self) -> Callable[[str], Duty]:
        today = self.at.astimezone(self.zone).date()
        known = {
            row.person: Duty(row.off, row.taken if row.taken_on == today else 0, row.idle_since)
            for row in self.session.execute(_DUTY, {"client": self.client_id})
        }
        nothing = Duty()
        return lambda person: known.get(person, nothing)

    def _turns(self, key: str) -> Turns:
        if not self.counts:
            return load_turns(self.session.scalar(_TURN, {"client": self.client_id, "key": key}))
        return load_turns(locked_turn(self.session, self.client_id, key))

    def _take(self, key: str, turns: Turns) -> None:
        keep_turn(self.session, self.client_id, key, json.dumps(dump_turns(turns)))


def locked_turn(session: Session, client_id: int, key: str) -> dict[str, Any]:
    """What was written under a key, locked until the event is committed."""
    values = {"client": client_id, "key": key}
    raw: dict[str, Any] | None = session.scalar(_LOCK_TURN, values)
    if raw is None:
        session.execute(_FIRST_TURN, values)
        raw = session.scalar(_LOCK_TURN, values)
    return raw or {}


def keep_turn(session: Session, client_id: int, key: str, document: str) -> None:
    """Writes under a key that is locked."""
    session.execute(_KEEP_TURN, {"client": client_id, "key": key, "document": document})


def callee_names(session: Session, client_id: int) -> dict[str, str]:
    """The names of a client's people and teams by key, and of its flows by their keys behind "flow:"."""
    return {row.key: row.name for row in session.execute(_NAMES, {"client": client_id})}


def people_of(session: Session, house: House, client_id: int) -> dict[str, Person]:
    """A client's people by key."""
    rows = session.execute(_PEOPLE, {"client": client_id})
    return {row.key: _parsed(session, house, ("person", row.id, row.revision), Person, row.document) for row in rows}


def teams_of(session: Session, house: House, client_id: int) -> dict[str, Team]:
    """A client's teams by key."""
    rows = session.execute(_TEAMS, {"client": client_id})
    return {row.key: _parsed(session, house, ("team", row.id, row.revision), Team, row.document) for row in rows}


def _parsed(session: Session, house: House, known: tuple[str, int, int], model: Any, raw: Any) -> Any:
    return house.parsed.get(session, known, lambda: model.model_validate(raw))


def dump_turns(turns: Turns) -> dict[str, Any]:
    return {"last": turns.last, "counts": [[name, dict(counts)] for name, counts in turns.counts]}


def load_turns(raw: dict[str, Any] | None) -> Turns:
    """What `dump_turns` wrote; none yet is nobody's turn."""
    if not raw:
        return Turns()
    return Turns(raw["last"], tuple((name, tuple(sorted(counts.items()))) for name, counts in raw["counts"]))


def note_work(
    session: Session, client_id: int, zone: ZoneInfo, at: datetime, before: State, event: Event, after: Next
) -> None:
    """Writes down what an event means for people: who took the call, who is idle again, whose phone nobody answered."""
    talking = talker(before)
    legs = {leg.command: leg for leg in (before.ring.legs if before.ring else ())}
    winner = next((legs.get(one.id) for one in after.commands if isinstance(one, Connect)), None)
    if winner is not None and winner.rung is not None:
        day: date = at.astimezone(zone).date()
        session.execute(_TOOK, {"client": client_id, "person": winner.rung.who, "day": day})
    if talking and after.state.phase != "talking":
        session.execute(_IDLE, {"client": client_id, "person": talking, "at": at.astimezone(UTC)})
    if isinstance(event, Leg) and event.outcome in ("rang_out", "unreachable"):
        leg = legs.get(event.command)
        if leg is not None and leg.rung is not None:
            session.execute(_MISSED, {"client": client_id, "person": leg.rung.who})


def talker(state: State) -> str:
    """The key of the person whom the caller is talking to; empty for nobody, or for a phone that is no person's."""
    return state.talking_to if state.phase == "talking" else ""


def dialed(leg: RungLeg, step: object) -> str:
    """What was dialed for a leg."""
    if leg.rung is not None:
        return leg.rung.to
    to = getattr(step, "to", ())
    return str(getattr(to[leg.destination], "dialed", "")) if 0 <= leg.destination < len(to) else ""
