"""A phone that is rung under another number: in people, in drafts of flows, and if wanted live, in one step."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import AnyStep
from ...core.numbers.numbering import Wrong, shown
from ...core.people import phone_rules
from ...core.people.destinations import readdressed
from ...core.people.directory import Person
from ...store.agency import Client
from ...store.flows import CallFlow, FlowVersion
from ...store.people import PersonRow
from ..agency import trail
from ..agency.access import Actor, NotFound, allow, note
from ..flows import versions
from ..house import undoing
from ..house.house import House
from ..house.problems import Refused, Row, refused
from ..house.views import CallFlowView, ClientView, PersonView
from .everybody import ringers_tracking
from .keeping import PERSON


@dataclass(frozen=True, slots=True)
class Having:
    """Who and what has a phone: people, and flows that ring it in a step of their own, in the draft or live."""

    client: ClientView
    people: list[PersonView]
    flows: list[CallFlowView]


def having(house: House, actor: Actor, client_id: int, to: str) -> Having:
    """Everything that would change; raises NotFound for a phone that nobody has."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        people, flows = _having(session, client, to)
        if not people and not flows:
            raise NotFound
        return Having(ClientView.of(client), PersonView.all(people), CallFlowView.all(flows))


def _having(session: Session, client: Client, to: str) -> tuple[list[PersonRow], list[CallFlow]]:
    """The people and the flows that have a phone."""
    rows = select(PersonRow).where(PersonRow.client_id == client.id, PersonRow.removed_at.is_(None))
    flows = (
        select(CallFlow, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client.id))
        .order_by(CallFlow.name)
    )
    return (
        [row for row in session.scalars(rows.order_by(PersonRow.name)) if _has(row, to)],
        [flow for flow, live in session.execute(flows) if _rings(flow.draft, to) or (live and _rings(live, to))],
    )


def _rings(document: Row, to: str) -> bool:
    return bool(readdressed(FlowDocument.model_validate(document), to, to))


def _has(row: PersonRow, to: str) -> bool:
    return any(phone["to"] == to for phone in row.document.get("phones", []))


def replace(
    house: House, actor: Actor, client_id: int, old: str, typed: str, chosen_people: Collection[int],
    chosen_flows: Sequence[int], *, live: bool, agreed: Collection[str] = (),
) -> list[str] | Refused:  # fmt: skip
    """Rings another number or SIP address in the place of one, for the chosen people and in the chosen flows' drafts, and if
    wanted live, as new versions. Gives what was changed, in words. `agreed` are phones in another country asked about."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        tracking = ringers_tracking(session, client.agency_id)
        checked = phone_rules.check(typed, client.country, tracking)
        if isinstance(checked, Wrong):
            return refused("by", checked.sentence)
        if checked.asks and checked.to not in agreed:
            return refused("by", checked.asks)
        if checked.to == old:
            return refused("by", "This is the number that it has already.")
        people, flows = _having(session, client, old)
        done = []
        for row in people:
            if row.id in chosen_people:
                person = Person.model_validate(row.document)
                phones = {phone.to: phone for phone in person.phones}
                swapped = [one.model_copy(update={"to": checked.to}) if one.to == old else one for one in person.phones]
                kept = swapped if checked.to not in phones else [one for one in person.phones if one.to != old]
                after = person.model_copy(update={"phones": tuple(kept)}).model_dump(mode="json")
                undoing.keep(session, house, actor, PERSON, row, {"document": after}, "changed the phones")
                done.append(row.name)
        session.flush()

        def change(document: FlowDocument) -> list[AnyStep]:
            return readdressed(document, old, checked.to)

        for flow in flows:
            if flow.id in chosen_flows:
                done += versions.change_steps(session, house, actor, client, flow, change, live=live)
        names = [shown(one, client.country) if one.startswith("+") else one for one in (checked.to, old)]
        if not done:
            gone = f"Nothing was changed: nothing of what was chosen has {names[1]} any more."
            meanwhile = trail.said_last(session, client_id, f"put % in the place of {names[1]}:%")
            return refused("by" if people or flows else "", f"{gone} {meanwhile}".strip())
        note(session, house, actor, client_id, f"put {names[0]} in the place of {names[1]}: {', '.join(done)}")
        return done
