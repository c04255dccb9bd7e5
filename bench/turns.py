"""(f) Turns under load: 50 simultaneous calls to one team of ten by turns, against the same calls spread over 50 teams."""

import itertools
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select

from vokari.core.flows.document import FlowDocument
from vokari.formats.call_control.messages import CallArrived, EventMessage
from vokari.store.agency import Agency, Client, User
from vokari.store.flows import CallFlow, FlowVersion
from vokari.store.numbers import Carrier, TrackingNumber
from vokari.store.people import PersonRow, TeamRow
from vokari.work import livecalls
from vokari.work.livecalls import Answered, CarrierIdentity
from vokari.work.numbers import CARRIER

from .rounds import Compared, compare
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
    numbers = _client(town)
    with town.house.begin() as session:
        carrier = session.scalars(select(Carrier).where(Carrier.name == CARRIER)).one()
    identity = CarrierIdentity(carrier.id, carrier.stand_in)
    count = itertools.count(1)
    rung: Counter[str] = Counter()

    def arrive(called: str) -> str:
        ref = f"turns-{next(count)}"
        event = CallArrived(caller="+14105550185", called=called)
        message = EventMessage(call=ref, seq=1, at=datetime.now(UTC), event=event)
        answered = livecalls.receive(town.house, identity, message, message.model_dump_json().encode())
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


def _client(town: Town) -> list[str]:
    """The numbers: the first rings the one team, each of the others a team of its own."""
    with town.house.begin() as session:
        agency = Agency(name="Turns")
        session.add(agency)
        session.flush()
        user = User(agency_id=agency.id, email="turns@example.com", name="Turns", role="owner", password_hash="x")
        client = Client(
            agency_id=agency.id, name="Turns", country="US", time_zone="America/New_York", city="", fail_safe="",
            created_at=datetime.now(UTC),
        )  # fmt: skip
        session.add_all([user, client])
        session.flush()
        ids = {"agency_id": agency.id, "client_id": client.id}
        for n in range(MEMBERS):
            phones = [{"id": "desk", "to": f"+1907555{160 + n:04d}"}]
            session.add(
                PersonRow(**ids, key=f"pe_{n}", name=f"Person {n}", document={"name": f"Person {n}", "phones": phones})
            )
        members = [{"person": f"pe_{n}"} for n in range(MEMBERS)]
        carrier = session.scalar(select(Carrier.id).where(Carrier.name == CARRIER))
        numbers = []
        for n in range(TEAMS + 1):
            team = {"name": f"Team {n}", "strategy": "round_robin", "members": members}
            session.add(TeamRow(**ids, key=f"te_{n}", name=f"Team {n}", document=team))
            step = {
                "kind": "ring",
                "id": "r",
                "to": [{"kind": "team", "id": "t", "team": f"te_{n}"}],
                "no_answer": "end",
            }
            raw = FlowDocument.model_validate(
                {"name": f"Flow {n}", "mark": "TU", "start": "r", "steps": [step]}
            ).model_dump(mode="json")
            flow = CallFlow(**ids, name=f"Flow {n}", mark="TU", revision=0, draft=raw)
            session.add(flow)
            session.flush()
            version = FlowVersion(
                agency_id=agency.id,
                flow_id=flow.id,
                number=1,
                document=raw,
                revision=0,
                made_by=user.id,
                made_at=datetime.now(UTC),
            )
            session.add(version)
            session.flush()
            flow.live_version_id = version.id
            numbers.append(f"+1907555{n + 100:04d}")
            session.add(TrackingNumber(
                **ids, carrier_id=carrier, e164=numbers[-1], place="", kind="local", state="in_service", flow_id=flow.id,
                fail_safe="", taken_at=datetime.now(UTC), rent=0, set_up=0,
            ))  # fmt: skip
    return numbers
