"""(g) A hold line with 500 waiting callers: each kind of event against the same event in an empty line."""

import itertools
from collections import deque
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import select, text

from vokari.formats.call_control import messages as wire
from vokari.store.numbers import Carrier
from vokari.work.calls import live_calls
from vokari.work.calls.folding import Answered
from vokari.work.calls.live_calls import CarrierIdentity
from vokari.work.numbers.numbers import CARRIER

from .rounds import Compared, compare
from .staff import staffed
from .town import Town

WAITING, PEOPLE = 500, 10
EVENTS = 40
"""How many events of a kind make a measured round."""


@dataclass(frozen=True, slots=True)
class Measured:
    """Events a second in the long line against the empty one, by kind, and whether callers were rung in the order in which
    they came."""

    kinds: list[tuple[str, Compared]]
    in_order: bool
    rung: int


@dataclass
class _Caller:
    ref: str
    seq: int = 0
    commands: list[dict[str, Any]] = field(default_factory=list)
    timers: list[int] = field(default_factory=list)
    leg: int = 0


class _Line:
    """The line of one number: all its people on a call, and so many callers waiting."""

    def __init__(self, town: Town, name: str, number: str, first: int) -> None:
        phones = [f"+1907555{first + n:04d}" for n in range(PEOPLE)]
        step = {
            "kind": "hold_line", "id": "h", "team": "te_0", "waited": "end", "most_callers": 500, "longest_wait": 7200,
        }  # fmt: skip
        staffed(town, name, phones, [(step, number)])
        with town.house.begin() as session:
            carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
        self.identity = CarrierIdentity(carrier.id, carrier.stand_in)
        self.town, self.name, self.number, self.at = town, name, number, datetime.now(UTC)
        self.count = itertools.count(1)
        self.talking: deque[_Caller] = deque()
        self.waiting: deque[_Caller] = deque()
        self.order: list[str] = []
        for _ in range(PEOPLE):
            caller = self.arrive()
            self.pick_up(caller)

    def post(self, caller: _Caller, event: wire.Message) -> None:
        caller.seq += 1
        self.at += timedelta(milliseconds=10)
        message = wire.EventMessage.model_validate(
            {"call": caller.ref, "seq": caller.seq, "at": self.at, "event": event.model_dump()}
        )
        answered = live_calls.receive(self.town.house, self.identity, message, message.model_dump_json().encode())
        assert isinstance(answered, Answered), answered
        caller.commands = answered.commands
        caller.timers = [one["id"] for one in answered.commands if one["type"] == "timer"] or caller.timers
        caller.leg = next((one["id"] for one in answered.commands if one["type"] == "ring"), caller.leg)

    def arrive(self) -> _Caller:
        caller = _Caller(f"{self.name}-{next(self.count)}")
        self.post(caller, wire.CallArrived(caller="+14105550185", called=self.number))
        return caller

    def pick_up(self, caller: _Caller) -> None:
        self.post(caller, wire.LegChanged(command=caller.leg, outcome="answered"))
        self.talking.append(caller)

    def fill(self, count: int) -> None:
        self.waiting.extend(self.arrive() for _ in range(count))

    # kinds of event, each done EVENTS times; the line is as long afterwards as before

    def join_and_leave(self) -> int:
        for _ in range(EVENTS):
            self.post(self.arrive(), wire.CallerGone())
        return 2 * EVENTS

    def look(self) -> int:
        """The last in line looks for somebody free."""
        for _ in range(EVENTS):
            last = self.waiting[-1]
            self.post(last, wire.TimerFired(command=last.timers[-1]))
        return EVENTS

    def serve(self) -> int:
        """A talk ends, the first in line is told, rung and connected, and another caller comes to the end of the line."""
        for _ in range(EVENTS):
            self.post(self.talking[0], wire.LegChanged(command=self.talking[0].leg, outcome="ended"))
            self.talking.popleft()
            told = self._told()
            assert told == [self.waiting[0].ref], (told, self.waiting[0].ref)
            first = self.waiting.popleft()
            self.post(first, wire.Poked())
            self.order.append(first.ref)
            self.pick_up(first)
            self.fill(1)
        return 4 * EVENTS

    def _told(self) -> list[str]:
        query = "DELETE FROM procrastinate_jobs WHERE task_name = 'poke' AND args ->> 'ref' LIKE :own RETURNING args ->> 'ref'"
        with self.town.house.begin() as session:
            return list(session.scalars(text(query), {"own": f"{self.name}-%"}))


def measure(town: Town) -> Measured:
    """Two clients of ten people each, all on a call: with one the measured caller waits alone, with the other as the last
    of 500."""
    empty, long = _Line(town, "Empty", "+19075559100", 200), _Line(town, "Long", "+19075559101", 300)
    empty.fill(1)
    long.fill(WAITING - 1)
    kinds = [
        ("a caller comes and hangs up", compare(long.join_and_leave, empty.join_and_leave)),
        ("a waiting caller looks for somebody free", compare(long.look, empty.look)),
        ("somebody comes free and serves the first", compare(long.serve, empty.serve)),
    ]
    numbers = [int(ref.rpartition("-")[2]) for ref in long.order]
    return Measured(kinds, numbers == sorted(numbers), len(numbers))
