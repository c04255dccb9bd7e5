"""A client with people, and for each of some steps a team of them all, a flow and a number."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select

from vokari.core.flows.model.document import FlowDocument
from vokari.store.agency import Agency, Client, User
from vokari.store.flows import CallFlow, FlowVersion
from vokari.store.numbers import Carrier, TrackingNumber
from vokari.store.people import PersonRow, TeamRow
from vokari.work.numbers.numbers import CARRIER

from .town import Town


def staffed(
    town: Town, name: str, phones: list[str], lines: list[tuple[dict[str, Any], str]], strategy: str = "round_robin"
) -> list[str]:
    """Makes the client; team, flow and number n (`te_n`) belong to the step n. Gives the numbers."""
    with town.house.begin() as session:
        agency = Agency(name=name)
        session.add(agency)
        session.flush()
        user = User(
            agency_id=agency.id, email=f"{name.lower()}@example.com", name=name, role="owner", password_hash="x"
        )
        client = Client(
            agency_id=agency.id, name=name, country="US", time_zone="America/New_York", city="", fail_safe="",
            created_at=datetime.now(UTC),
        )  # fmt: skip
        session.add_all([user, client])
        session.flush()
        ids = {"agency_id": agency.id, "client_id": client.id}
        for n, phone in enumerate(phones):
            document = {"name": f"Person {n}", "phones": [{"id": "desk", "to": phone}]}
            session.add(PersonRow(**ids, key=f"pe_{n}", document=document))
        members = [{"person": f"pe_{n}"} for n in range(len(phones))]
        carrier = session.scalar(select(Carrier.id).where(Carrier.name == CARRIER))
        for n, (step, number) in enumerate(lines):
            team = {"name": f"Team {n}", "strategy": strategy, "members": members}
            session.add(TeamRow(**ids, key=f"te_{n}", document=team))
            document = {"name": f"Flow {n}", "mark": "TU", "start": step["id"], "steps": [step]}
            raw = FlowDocument.model_validate(document).model_dump(mode="json")
            flow = CallFlow(**ids, revision=0, draft=raw)
            session.add(flow)
            session.flush()
            version = FlowVersion(
                agency_id=agency.id, flow_id=flow.id, number=1, document=raw, revision=0, made_by=user.id,
                made_at=datetime.now(UTC),
            )  # fmt: skip
            session.add(version)
            session.flush()
            flow.live_version_id = version.id
            session.add(TrackingNumber(
                **ids, carrier_id=carrier, e164=number, place="", kind="local", state="in_service", flow_id=flow.id,
                fail_safe="", taken_at=datetime.now(UTC), rent=0, set_up=0,
            ))  # fmt: skip
        return [number for _, number in lines]
