"""(f) Turns under load: 50 simultaneous calls to one team of ten by turns, against the same calls spread over 50 teams."""

import itertools
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select

from vokari.formats.call_control.messages import CallArrived, EventMessage
from vokari.store.numbers import Carrier
from vokari.work.calls import live_calls
from vokari.work.calls.folding import Answered
from vokari.work.calls.live_calls import CarrierIdentity
from vokari.work.numbers.numbers import CARRIER

from .rounds import Compared, compare
from .staff import staffed
from .town import Town

CALLS, TEAMS, MEMBERS = 50, 50, 10
THREADS = 8
BURSTS = 4
"""How many times 50 calls come in one measured round."""


@dataclass(frozen=True, slots=True)
class Measured:
    """Calls admitted a second by one team against 50, and how many more calls the most rung member of the one team had
    than the least."""

    one: Compared
    uneven: int
    calls: int


def measure(town: Town) -> Measured:
    """Makes a client with 51 teams of the same ten people, a flow and a number each."""
    people = [f"+1907555{160 + n:04d}" for n in range(MEMBERS)]
    rings = {"kind": "ring", "id": "r", "no_answer": "end"}
    steps = [{**rings, "to": [{"kind": "team", "id": "t", "team": f"te_{n}"}]} for n in range(TEAMS + 1)]
    numbers = staffed(town, "Turns", people, [(step, f"+1907555{n + 100:04d}") for n, step in enumerate(steps)])
    with town.house.begin() as session:
        carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
    identity = CarrierIdentity(carrier.id, carrier.stand_in)
    count = itertools.count(1)
    rung: Counter[str] = Counter()

    def arrive(called: str) -> str:
        ref = f"turns-{next(count)}"
        event = CallArrived(caller="+14105550185", called=called)
        message = EventMessage(call=ref, seq=1, at=datetime.now(UTC), event=event)
        answered = live_calls.receive(town.house, identity, message, message.model_dump_json().encode())
        assert isinstance(answered, Answered), answered
        return str(answered.commands[0]["number"])

    def burst(called: list[str]) -> list[str]:
        with ThreadPoolExecutor(THREADS) as pool:
            return [number for _ in range(BURSTS) for number in pool.map(arrive, called)]

    def one_team() -> int:
        rung.update(burst([numbers[0]] * CALLS))
        return CALLS * BURSTS

    def many_teams() -> int:
        burst(numbers[1:])
        return CALLS * BURSTS

    found = compare(one_team, many_teams)
    assert len(rung) == MEMBERS
    return Measured(found, max(rung.values()) - min(rung.values()), sum(rung.values()))
