"""The people and teams of a client, and where each is rung."""

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...core.flows.model.document import FlowDocument
from ...core.flows.shown.outline import numbers as row_numbers
from ...core.people import uses
from ...core.people.directory import Person, Team
from ...store.agency import Mailbox
from ...store.flows import CallFlow, FlowVersion
from ...store.numbers import TrackingNumber
from ...store.people import DutyRow, PersonRow, TeamRow
from ..agency import mailboxes
from ..agency.access import Actor, NotFound, allow
from ..house.house import House
from ..house.views import CallFlowView, ClientView, DutyView, PersonView, TeamView


@dataclass(frozen=True, slots=True)
class Place:
    """A step of a flow that rings somebody: the flow, the step, and in words; in the draft, live, or both."""

    flow: CallFlowView
    step: str
    words: str
    draft: bool
    live: bool


@dataclass(frozen=True, slots=True)
class PersonLine:
    """A person as the list shows them, with the mailboxes that tell them."""

    row: PersonView
    person: Person
    duty: DutyView | None
    teams: list[str]
    places: list[Place]
    told_by: list[str]


@dataclass(frozen=True, slots=True)
class TeamLine:
    """A team as the list shows it: its members' names, those of the teams around it, and where it is rung."""

    row: TeamView
    team: Team
    members: list[str]
    then: str
    places: list[Place]
    behind: list[str]


@dataclass(frozen=True, slots=True)
class Everybody:
    """A client's people and teams."""

    client: ClientView
    people: list[PersonLine]
    teams: list[TeamLine]
    hours: dict[str, str]
    removed: list[PersonView | TeamView] = field(default_factory=list)

    def person(self, person_id: int) -> PersonLine:
        """One person; raises NotFound."""
        for one in self.people:
            if one.row.id == person_id:
                return one
        raise NotFound

    def team(self, team_id: int) -> TeamLine:
        """One team; raises NotFound."""
        for one in self.teams:
            if one.row.id == team_id:
                return one
        raise NotFound


def everybody(house: House, actor: Actor, client_id: int) -> Everybody:
    """All people and teams of a client by name, with what each is used for."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        rows = list(session.scalars(of_client(PersonRow, client_id)))
        team_rows = list(session.scalars(of_client(TeamRow, client_id)))
        duty = {one.person: one for one in session.scalars(select(DutyRow).where(DutyRow.client_id == client_id))}
        places = places_of(session, client_id)
        teams = {row.key: Team.model_validate(row.document) for row in team_rows if row.removed_at is None}
        names = {row.key: row.name for row in (*rows, *team_rows)}
        boxes = list(session.scalars(select(Mailbox).where(Mailbox.client_id == client_id).order_by(Mailbox.name)))
        people = [
            PersonLine(
                PersonView.of(row), Person.model_validate(row.document), DutyView.maybe(duty.get(row.key)),
                [names[key] for key in uses.teams_with(row.key, teams)], places.get(row.key, []),
                [box.name for box in boxes if f"{mailboxes.PERSON}{row.key}" in box.tell],
            )
            for row in rows if row.removed_at is None
        ]  # fmt: skip
        lines = [
            TeamLine(
                TeamView.of(row), teams[row.key], [names.get(one.person, "gone") for one in teams[row.key].members],
                names.get(teams[row.key].then or "", ""), places.get(row.key, []),
                [team.name for team in teams.values() if team.then == row.key],
            )
            for row in team_rows if row.removed_at is None
        ]  # fmt: skip
        sets = session.execute(
            text("SELECT key, name FROM hours_sets WHERE client_id = :client AND removed_at IS NULL ORDER BY name"),
            {"client": client_id},
        )
        gone: list[PersonView | TeamView] = [
            *PersonView.all(row for row in rows if row.removed_at is not None),
            *TeamView.all(row for row in team_rows if row.removed_at is not None),
        ]
        return Everybody(ClientView.of(client), people, lines, {row.key: row.name for row in sets}, gone)


# inside a transaction


def of_client(model: Any, client_id: int) -> Any:
    """The query of a client's people or teams, by name."""
    return select(model).where(model.client_id == client_id).order_by(model.name)


def places_of(session: Session, client_id: int) -> dict[str, list[Place]]:
    """Every step of a client's flows that rings a person or a team, by key."""
    found: dict[str, dict[tuple[int, str], Place]] = {}
    query = (
        select(CallFlow, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.of(client_id))
        .order_by(CallFlow.name)
    )
    for flow, live in session.execute(query):
        for raw, is_live in ((flow.draft, False), (live, True)):
            document = FlowDocument.model_validate(raw) if raw else None
            order = row_numbers(document) if document else {}
            for use in uses.uses(document) if document else ():
                at = (flow.id, use.step.id)
                before = found.setdefault(use.key, {}).get(at)
                said = before.words if before else f"{flow.name}, row {order.get(use.step.id, 0)} {use.step.called}"
                drafted = before.draft if before else False
                found[use.key][at] = Place(CallFlowView.of(flow), use.step.id, said, drafted or not is_live, is_live)
    return {key: list(places.values()) for key, places in found.items()}


def tracking_numbers(house: House, agency_id: int) -> set[str]:
    """The agency's own tracking numbers, outside of a transaction."""
    with house.begin() as session:
        return ringers_tracking(session, agency_id)


def ringers_tracking(session: Session, agency_id: int) -> set[str]:
    """The agency's own tracking numbers."""
    query = select(TrackingNumber.e164).where(TrackingNumber.agency_id == agency_id, TrackingNumber.state != "released")
    return set(session.scalars(query))
