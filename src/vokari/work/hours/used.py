"""Where a client's flows name its hours, and how the own times of phones cover them."""

from dataclasses import dataclass, replace
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Ring
from ...core.flows.model.walks import names_in
from ...core.flows.shown.outline import numbers
from ...core.hours.cover import Cover, cover
from ...store.flows import CallFlow, FlowVersion
from ...store.hours import HoursSet
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.views import CallFlowView
from . import ready

COVERED = timedelta(days=14)


@dataclass(frozen=True, slots=True)
class Place:
    """Where a flow names a set of hours: in its draft, in what is live, or both; the step, by number and name, the exit
    and the periods (empty for the own times of a phone)."""

    flow: CallFlowView
    step: str
    words: str
    exit: str
    periods: tuple[str, ...]
    draft: bool
    live: bool


@dataclass(frozen=True, slots=True)
class RingCover:
    """How the phones of one Ring step, all with times of their own, cover a set of hours in the next two weeks."""

    flow: CallFlowView
    step: str
    words: str
    cover: Cover


def covers(house: House, actor: Actor, client_id: int, hours_id: int) -> list[RingCover]:
    """The Ring steps of a client whose phones all have times of their own, each against a set of hours. A step with one
    phone that can always be rung leaves nothing uncovered, and is left out."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours")
        one = session.get(HoursSet, hours_id)
        if one is None or one.client_id != client_id or one.removed_at is not None:
            raise NotFound
        now = house.now()
        tables = ready.Standings(session, house, client_id, now).tables()
        found = []
        for flow in session.scalars(select(CallFlow).where(CallFlow.of(client_id)).order_by(CallFlow.name)):
            document = FlowDocument.model_validate(flow.draft)
            order = numbers(document)
            for step in document.steps:
                if not isinstance(step, Ring) or not step.to:
                    continue
                own = [tables.get(getattr(phone, "hours", None) or "") for phone in step.to]
                members = [table for table in own if table is not None]
                if len(members) < len(own):
                    continue
                said = f"{flow.name}, row {order.get(step.id, 0)} {step.called}"
                found.append(
                    RingCover(
                        CallFlowView.of(flow), step.id, said, cover(tables[one.key], (), members, now, now + COVERED)
                    )
                )
        return found


def places_by_key(session: Session, client_id: int) -> dict[str, list[Place]]:
    """Every place of a client's flows that names hours, by the key of the set."""
    found: dict[str, list[Place]] = {}
    query = (
        select(CallFlow, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client_id))
        .order_by(CallFlow.name)
    )
    for flow, live in session.execute(query):
        drafted = _places(flow, FlowDocument.model_validate(flow.draft), live=False)
        living = _places(flow, FlowDocument.model_validate(live), live=True) if live else {}
        for at, (key, place) in living.items():
            known = drafted.get(at)
            drafted[at] = (
                key,
                replace(known[1], live=True, periods=(*known[1].periods, *place.periods)) if known else place,
            )
        for key, place in drafted.values():
            found.setdefault(key, []).append(place)
    return found


def _places(flow: CallFlow, document: FlowDocument, *, live: bool) -> dict[tuple[str, str, str], tuple[str, Place]]:
    order = numbers(document)
    found = {}
    for step, named in names_in(document, "hours"):
        what = f" (own times of {named.called})" if named.called else ""
        said = f"{flow.name}, row {order.get(step.id, 0)} {step.called}{what}"
        place = Place(CallFlowView.of(flow), step.id, said, named.exit, named.periods, not live, live)
        found[named.key, step.id, named.exit or named.called] = (named.key, place)
    return found
