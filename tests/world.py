"""A small agency for tests, made through the use cases where there are any."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import insert, text

from vokari.core.flows.model.document import FlowDocument
from vokari.formats.flow_file import FlowFile, MailboxMaterial, Materials, SourceMaterial, write
from vokari.store.agency import Agency, Client, User
from vokari.store.flows import CallFlow
from vokari.store.numbers import Carrier, LeadSource, TrackingNumber
from vokari.work.agency import clients
from vokari.work.agency.access import Actor, Role
from vokari.work.agency.accounts import hash_password
from vokari.work.agency.clients import ClientForm
from vokari.work.flows import bringing, versions
from vokari.work.house.house import House
from vokari.work.house.views import CallFlowView, ClientView, LeadSourceView, TrackingNumberView
from vokari.work.numbers import fail_safes, free, sources
from vokari.work.numbers.numbers import CARRIER
from vokari.work.numbers.sources import SourceForm

from .flows import DANA, JOEL, document, menu, phone, ring, voicemail

PASSWORD = "four-quiet-herons"
SURE = versions.Going(consent="as it is meant for the test")
"""Puts live what asks for a word."""
_HASH = hash_password(PASSWORD)


@dataclass
class World:
    """One agency with a client; `actors` has one of each role."""

    house: House
    agency_id: int
    client: Client
    actors: dict[Role, Actor]

    @property
    def actor(self) -> Actor:
        return self.actors["specialist"]

    def jobs(self, task: str) -> list[dict[str, Any]]:
        """The jobs of a task that are queued, oldest first, taken out of the queue."""
        query = "DELETE FROM procrastinate_jobs WHERE task_name = :task RETURNING id, args"
        with self.house.begin() as session:
            return [args for _, args in sorted(map(tuple, session.execute(text(query), {"task": task})))]

    def tell_fail_safes(self) -> None:
        """Does what the worker does for fail-safes."""
        for args in self.jobs("tell_fail_safes"):
            fail_safes.tell_all(self.house, args["client_id"])
        for args in self.jobs("tell_fail_safe"):
            fail_safes.tell(self.house, args["number_id"])

    def source(self, name: str, **tags: str) -> LeadSource:
        made = sources.keep_source(self.house, self.actor, self.client.id, None, SourceForm(name, **tags))
        assert isinstance(made, LeadSourceView), made
        return made

    def number(self, e164: str, source: LeadSource | None = None, flow: CallFlow | None = None) -> TrackingNumber:
        made = free.take(
            self.house, self.actor, self.client.id, e164, source.id if source else None, flow.id if flow else None
        )
        assert isinstance(made, TrackingNumberView), made
        return made

    def flow(self, doc: FlowDocument, *, live: bool = True, sources: dict[str, str] | None = None) -> CallFlow:
        boxes = {step.mailbox for step in doc.steps if getattr(step, "mailbox", None)}
        materials = Materials(
            mailboxes={key: MailboxMaterial(name=f"Box {key}", tell=("yard@example.com",)) for key in boxes},
            sources={key: SourceMaterial(name=name) for key, name in (sources or {}).items()},
        )
        made = bringing.bring_in(
            self.house, self.actor, self.client.id, write(FlowFile(flow=doc, materials=materials)), rest=bringing.NEW
        )
        assert isinstance(made, CallFlowView), made
        if live:
            put = versions.put_live(self.house, self.actor, self.client.id, made.id, going=SURE)
            assert not isinstance(put, versions.Stopped), put
        return made


def make_world(house: House, name: str = "Lantern Row Marketing", domain: str = "example.com") -> World:
    """An agency with one client in Annapolis and a user of each role."""
    roles: tuple[Role, ...] = ("owner", "specialist", "client_editor", "client_viewer")
    with house.begin() as session:
        agency = Agency(name=name)
        session.add(agency)
        session.flush()
        if session.query(Carrier).filter_by(name=CARRIER).first() is None:
            session.add(Carrier(name=CARRIER, stand_in=True, secret_version=1))
        owner = User(agency_id=agency.id, email=f"owner@{domain}", name="Owner", role="owner", password_hash=_HASH)
        session.add(owner)
        session.flush()
        first = Actor(owner.id, agency.id, "owner", None, "Owner")
    client = clients.take_on(
        house, first, ClientForm("Brightwater Boatyard", "US", "America/New_York", "Annapolis", DANA)
    )
    assert isinstance(client, ClientView)
    actors: dict[Role, Actor] = {"owner": first}
    with house.begin() as session:
        for role in roles[1:]:
            own = client.id if role.startswith("client") else None
            user = User(
                agency_id=first.agency_id,
                email=f"{role}@{domain}",
                name=role.title(),
                role=role,
                password_hash=_HASH,
                client_id=own,
            )
            session.add(user)
            session.flush()
            actors[role] = Actor(user.id, first.agency_id, role, own, user.name)
    return World(house, first.agency_id, client, actors)


def main_line(**more: object) -> FlowDocument:
    """A menu, two ways of ringing and a voicemail."""
    return document(
        menu(
            "m",
            {"1": "r", "2": "q", "7": {"to": "r", "elsewhere": True, "source": "ls_bus"}},
            nothing="r",
            wrong="r",
            name="What is it about",
        ),
        ring("r", phone("Dana", DANA), phone("Joel", JOEL, 15), no_answer="vm", name="Yard office"),
        ring("q", phone("Joel", JOEL), no_answer="vm", busy="vm", name="Chandlery"),
        voicemail(name="Yard voicemail"),
        rescue="vm",
        **{"name": "Main line", "mark": "ML", **more},
    )


def add_clients(world: World, count: int, start: int = 0) -> list[int]:
    """So many more clients of the agency, "Client 000" and on: their ids."""
    rows = [
        {
            "agency_id": world.agency_id, "name": f"Client {n:03}", "country": "US", "time_zone": "America/New_York", "city": "",
            "fail_safe": "", "created_at": world.house.now(), "extension_pattern": {},
        }
        for n in range(start, start + count)
    ]  # fmt: skip
    with world.house.begin() as session:
        return list(session.scalars(insert(Client).returning(Client.id, sort_by_parameter_order=True), rows))
