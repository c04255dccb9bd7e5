"""What the conditions of a client's flows can name, as it is called now."""

from collections.abc import Iterable, Mapping

from sqlalchemy.orm import Session

from ...core.flows.conditions.base import HoursNames, Names
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import KeypadEntry, LookUp, Menu
from ...core.flows.model.values import EXTENSION
from ...core.hours.timetable import Timetable
from ...core.people.directory import Person
from ...core.places.document import Places
from ...store.agency import Client
from ..agency.access import Actor, allow
from ..hours.ready import hours_names, standings
from ..house.house import House
from ..house.views import LeadSourceView
from ..numbers.sources import sources_of
from ..people.ringers import people_of
from ..places.ready import whereabouts


def names_of(session: Session, house: House, client: Client, document: FlowDocument | None = None) -> Names:
    """All that the conditions of a flow can name, within a transaction."""
    return named(
        standings(session, house, client.id).tables(), people_of(session, house, client.id), sources_of(session, client.id),
        whereabouts(session, house, client.id).places, client.country, document,
    )  # fmt: skip


def of_hours(house: House, actor: Actor, client_id: int) -> Mapping[str, HoursNames]:
    """What a client's hours and their periods are called, for whoever may see its results."""
    with house.begin() as session:
        allow(session, actor, client_id, "read_results")
        return hours_names(standings(session, house, client_id).tables())


def named(
    tables: Mapping[str, Timetable], people: Mapping[str, Person], sources: Iterable[LeadSourceView], places: Places, country: str,
    document: FlowDocument | None = None,
) -> Names:  # fmt: skip
    """The same from what was read already."""
    return Names(
        hours_names(tables), {key: one.name for key, one in people.items()}, {one.key: one.name for one in sources},
        {one.key: one.name for one in places.places}, {one.key: one.name for one in places.areas},
        kept_in(document) if document else (), country,
    )  # fmt: skip


def kept_in(document: FlowDocument) -> tuple[str, ...]:
    """The names under which a flow keeps values."""
    found = [step.store_as for step in document.steps if isinstance(step, KeypadEntry | LookUp)]
    found += [EXTENSION for step in document.steps if isinstance(step, Menu) and step.dial_extensions]
    return tuple(dict.fromkeys(found))
