"""A draft heard by telephone: for an hour, calls of test phones to the numbers of a flow run on its draft, and count nowhere."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select

from ...store.agency import TestPhone
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.views import TestPhoneView
from .open_drafts import own_flow

FOR = timedelta(hours=1)


@dataclass(frozen=True, slots=True)
class ByTelephone:
    """The test phones of the agency, and until when they hear a draft (None: they hear what is live)."""

    phones: list[TestPhoneView]
    until: datetime | None


def of_flow(house: House, actor: Actor, client_id: int, flow_id: int) -> ByTelephone:
    """Who can hear a draft, and until when."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        flow = own_flow(session, client_id, flow_id)
        phones = session.scalars(
            select(TestPhone).where(TestPhone.agency_id == actor.agency_id).order_by(TestPhone.name)
        )
        until = flow.draft_until if flow.draft_until and flow.draft_until > house.now() else None
        return ByTelephone(TestPhoneView.all(phones), until)


def let(house: House, actor: Actor, client_id: int, flow_id: int, *, hear: bool) -> None:
    """Lets test phones hear the draft for an hour from now on, or no longer."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        flow = own_flow(session, client_id, flow_id, lock=True)
        flow.draft_until = house.now() + FOR if hear else None
        words = "for an hour" if hear else "no longer"
        note(session, house, actor, client_id, f"let test phones hear the draft of {flow.name} {words}")
