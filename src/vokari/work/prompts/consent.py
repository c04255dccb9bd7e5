"""Where everybody on the line must agree to being recorded: a list that an agency keeps, and what of it concerns a client."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.places.gazetteer import STATES, state_of
from ...core.prompts import consent
from ...store.agency import Agency, Client
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, allow_agency, note
from ..house.house import House
from ..house.problems import Problem, Problems


def places(house: House, actor: Actor) -> tuple[str, ...]:
    """The agency's list, as ISO 3166-2 codes."""
    with house.begin() as session:
        allow_agency(actor)
        return tuple(session.get_one(Agency, actor.agency_id).consent_places)


def keep(house: House, actor: Actor, typed: str) -> Problems:
    """Keeps the agency's list as it is typed."""
    read = consent.read(typed[:2000])
    if isinstance(read, str):
        return [Problem("consent", read)]
    with house.begin() as session:
        allow_agency(actor)
        agency = session.get_one(Agency, actor.agency_id, with_for_update=True)
        if list(read) != agency.consent_places:
            agency.consent_places = list(read)
            note(session, house, actor, None, "changed the places where everybody must agree to being recorded")
        return []


def concerns(session: Session, client: Client) -> tuple[str, ...]:
    """The names of the listed places that a client has numbers in, or is in itself."""
    listed = set(session.get_one(Agency, client.agency_id).consent_places)
    names = ["the United Kingdom" if client.country == "GB" else client.country] if client.country in listed else []
    if client.country == "US" and any(one.startswith("US-") for one in listed):
        query = select(TrackingNumber.place).where(
            TrackingNumber.client_id == client.id, TrackingNumber.state == "in_service"
        )
        states = {state_of(place.rpartition(",")[2].strip()) for place in session.scalars(query.distinct())}
        names += sorted(STATES[one] for one in states if f"US-{one}" in listed and one in STATES)
    return tuple(names)
