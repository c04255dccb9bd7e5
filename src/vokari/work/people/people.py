"""People and teams of a client: kept, removed, switched on and off, and replaced everywhere they are rung."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core import mail
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Step
from ...core.flows.shown.outline import numbers as row_numbers
from ...core.numbers.numbering import Wrong
from ...core.people import phone_rules, uses
from ...core.people.directory import Person, Team
from ...core.people.line_up import circle
from ...store.agency import Client, Mailbox
from ...store.flows import CallFlow, FlowVersion
from ...store.numbers import TrackingNumber
from ...store.people import DutyRow, PersonRow, TeamRow
from ..agency import mailboxes, trail
from ..agency.access import Actor, NotFound, allow, note
from ..flows import versions
from ..house import meanwhile
from ..house.house import House, Problem, Problems, Row
from ..house.keys import new_key
from . import on_duty, ringers

MISSED_FLAG = 3
"""So many rings in a row that nobody answered make a person worth a look."""


@dataclass(frozen=True, slots=True)
class Place:
    """A step of a flow that rings somebody: the flow, the step, and in words; in the draft, live, or both."""

    flow: CallFlow
    step: str
    words: str
    draft: bool
    live: bool


@dataclass(frozen=True, slots=True)
class PersonLine:
    """A person as the list shows them, with the mailboxes that tell them."""

    row: PersonRow
    person: Person
    duty: DutyRow | None
    teams: list[str]
    places: list[Place]
    told_by: list[str]


@dataclass(frozen=True, slots=True)
class TeamLine:
    """A team as the list shows it: its members' names, those of the teams around it, and where it is rung."""

    row: TeamRow
    team: Team
    members: list[str]
    then: str
    places: list[Place]
    behind: list[str]


@dataclass(frozen=True, slots=True)
class Everybody:
    """A client's people and teams."""

    client: Client
    people: list[PersonLine]
    teams: list[TeamLine]
    hours: dict[str, str]
    removed: list[PersonRow | TeamRow] = field(default_factory=list)

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
        rows = list(session.scalars(_of(PersonRow, client_id)))
        team_rows = list(session.scalars(_of(TeamRow, client_id)))
        duty = {one.person: one for one in session.scalars(select(DutyRow).where(DutyRow.client_id == client_id))}
        places = _places(session, client_id)
        teams = {row.key: Team.model_validate(row.document) for row in team_rows if row.removed_at is None}
        names = {row.key: row.name for row in (*rows, *team_rows)}
        boxes = list(session.scalars(select(Mailbox).where(Mailbox.client_id == client_id).order_by(Mailbox.name)))
        people = [
            PersonLine(
                row, Person.model_validate(row.document), duty.get(row.key),
                [names[key] for key in uses.teams_with(row.key, teams)], places.get(row.key, []),
                [box.name for box in boxes if f"{mailboxes.PERSON}{row.key}" in box.tell],
            )
            for row in rows if row.removed_at is None
        ]  # fmt: skip
        lines = [
            TeamLine(
                row, teams[row.key], [names.get(one.person, "gone") for one in teams[row.key].members],
                names.get(teams[row.key].then or "", ""), places.get(row.key, []),
                [team.name for team in teams.values() if team.then == row.key],
            )
            for row in team_rows if row.removed_at is None
        ]  # fmt: skip
        sets = session.execute(
            text("SELECT key, name FROM hours_sets WHERE client_id = :client AND removed_at IS NULL ORDER BY name"),
            {"client": client_id},
        )
        gone = [row for row in (*rows, *team_rows) if row.removed_at is not None]
        return Everybody(client, people, lines, {row.key: row.name for row in sets}, gone)


PERSON_FIELDS = {
    "name": "the name", "phones": "the phones", "hours": "when they are rung", "daily_limit": "the most calls a day",
    "leave": "the leave", "extension": "the extension", "email": "the email", "note": "the note",
}  # fmt: skip
TEAM_FIELDS = {
    "name": "the name", "strategy": "how it rings", "rounds": "the rounds", "members": "the members", "rota": "the rota",
    "then": "what comes behind it",
}  # fmt: skip


def keep_person(
    house: House, actor: Actor, client_id: int, person_id: int | None, form: Row, agreed: Sequence[str] = (),
    was: Row | None = None,
) -> PersonRow | Problems:  # fmt: skip
    """Makes or changes a person from the fields of `Person`; phones are typed in any usual form. `agreed` are phones in
    another country, and a mail address, that were asked about; `was` is the person that the form was made of."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "edit_hours", changing=True)
            checked = _person(session, client, form, agreed)
            if isinstance(checked, list):
                return checked
            row = PersonRow(key=new_key("pe"), revision=0)
            if person_id:
                row = _own(session, PersonRow, client_id, person_id)
                fields = meanwhile.laid(
                    checked.model_dump(mode="json"), was, _stands(Person, row), PERSON_FIELDS, keys=("hours",)
                )
                if isinstance(fields, list):
                    return fields
                checked = Person.model_validate(fields)
            row.agency_id, row.client_id, row.document = client.agency_id, client_id, checked.model_dump(mode="json")
            row.revision += 1
            session.add(row)
            session.flush()
            note(session, house, actor, client_id, f"kept the person {checked.name}")
            return row
    except IntegrityError as error:
        if "extension" in str(error.orig):
            return [Problem("extension", "Another person of this client has this extension.")]
        return [Problem("name", "Another person of this client has this name already.")]


def _person(session: Session, client: Client, form: Row, agreed: Sequence[str]) -> Person | Problems:
    problems: Problems = []
    tracking = ringers_tracking(session, client.agency_id)
    phones = []
    for index, raw in enumerate(form.get("phones", [])):
        checked = phone_rules.check(str(raw.get("to", "")), client.country, tracking)
        if isinstance(checked, Wrong):
            problems.append(Problem(f"phones.{index}.to", checked.sentence))
            continue
        if checked.asks and checked.to not in agreed:
            problems.append(Problem(f"phones.{index}.to", checked.asks))
        phones.append({**raw, "to": checked.to, "id": raw.get("id") or new_key("ph")})
    try:
        made = Person.model_validate({**form, "name": " ".join(str(form.get("name", "")).split()), "phones": phones})
    except ValidationError as error:
        return problems + _said(
            error,
            {"name": "A person has a name of 1 to 60 letters.", "extension": "An extension has up to six digits."},
        )
    likely = mail.meant(made.email, mailboxes.domains(session, client.agency_id)) if made.email else ""
    if made.email and not mail.is_address(made.email):
        problems.append(Problem("email", f"“{made.email}” is no email address."))
    elif likely and made.email not in agreed:
        problems.append(Problem("email", f"Did you mean {likely}? Save again if {made.email} is right."))
    return problems or made


def keep_team(
    house: House, actor: Actor, client_id: int, team_id: int | None, form: Row, was: Row | None = None
) -> TeamRow | Problems:
    """Makes or changes a team from the fields of `Team`; `was` is the team that the form was made of."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "edit_hours", changing=True)
            row = _own(session, TeamRow, client_id, team_id) if team_id else TeamRow(key=new_key("te"), revision=0)
            try:
                made = Team.model_validate({**form, "name": " ".join(str(form.get("name", "")).split())})
                if team_id:
                    fields = meanwhile.laid(
                        made.model_dump(mode="json"),
                        was,
                        _stands(Team, row),
                        TEAM_FIELDS,
                        keys=("members", "rota", "then"),
                    )
                    if isinstance(fields, list):
                        return fields
                    made = Team.model_validate(fields)
            except ValidationError as error:
                return _said(error, {"name": "A team has a name of 1 to 60 letters."})
            problems = _checked_team(session, house, client_id, row.key, made)
            if problems:
                return problems
            row.agency_id, row.client_id, row.document = client.agency_id, client_id, made.model_dump(mode="json")
            row.revision += 1
            session.add(row)
            session.flush()
            note(session, house, actor, client_id, f"kept the team {made.name}")
            return row
    except IntegrityError:
        return [Problem("name", "Another team of this client has this name already.")]


def _checked_team(session: Session, house: House, client_id: int, key: str, made: Team) -> Problems:
    people = ringers.people_of(session, house, client_id)
    teams = {**ringers.teams_of(session, house, client_id), key: made}
    problems: Problems = []
    if any(one.person not in people for one in made.members):
        problems.append(Problem("members", "Somebody in this team is gone: take them out."))
    if made.then and made.then not in teams:
        problems.append(Problem("then", "The team behind it is gone: choose another."))
    elif circle(key, teams):
        way = ", then ".join(teams[one].name for one in [*circle(key, teams), circle(key, teams)[0]])
        problems.append(Problem("then", f"Teams would go round in a circle: {way}."))
    return problems


def remove(house: House, actor: Actor, client_id: int, kind: str, row_id: int) -> Problems:
    """Removes a person whom no flow and no team names, or a team that none names."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        row = _own(session, PersonRow if kind == "person" else TeamRow, client_id, row_id)
        places = _places(session, client_id).get(row.key, [])
        teams = ringers.teams_of(session, house, client_id)
        within = [team.name for key, team in teams.items() if row.key in (team.then, *(m.person for m in team.members))]
        used = [*(place.words for place in places), *(f"the team {name}" for name in within)]
        if used:
            return [Problem("", f"{row.name} is rung by {used[0]}: put somebody else there first.")]
        told = mailboxes.naming(session, client_id, row.key)
        if told:
            return [Problem("", f"{row.name} is told by the mailbox {told[0].name}: name somebody else there first.")]
        row.removed_at = house.now()
        note(session, house, actor, client_id, f"removed {row.name}")
    return []


def bring_back(house: House, actor: Actor, client_id: int, kind: str, row_id: int) -> Problems:
    """Brings somebody back who was removed."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "edit_hours", changing=True)
            model: Any = PersonRow if kind == "person" else TeamRow
            row = session.get(model, row_id, with_for_update=True)
            if row is None or row.client_id != client_id:
                raise NotFound
            row.removed_at = None
            session.flush()
            note(session, house, actor, client_id, f"brought {row.name} back")
    except IntegrityError:
        return [Problem("", "Somebody else has this name or extension meanwhile: change that first.")]
    return []


def set_duty(house: House, actor: Actor, client_id: int, person_id: int, *, off: bool) -> None:
    """Switches a person off, so that they are not rung, or on again."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        row = _own(session, PersonRow, client_id, person_id)
        on_duty.set_off(session, house, row, off=off)
        note(session, house, actor, client_id, f"switched {row.name} {'off' if off else 'on'}")


def replace(
    house: House,
    actor: Actor,
    client_id: int,
    kind: str,
    old_id: int,
    new_id: int,
    flows: Sequence[int],
    *,
    live: bool,
    within: Collection[str] | None = None,
) -> list[str] | Problems:
    """Rings somebody else in the place of a person or team: in the chosen flows' drafts, in every team and mailbox or those of `within` ("team:" or
    "mailbox:" and the name), and if wanted live, as new versions of those flows. Gives what was changed, in words."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        model = PersonRow if kind == "person" else TeamRow
        old, new = _own(session, model, client_id, old_id), _own(session, model, client_id, new_id)
        if old.id == new.id:
            return [Problem("by", "Choose somebody else.")]
        done = []
        query = select(CallFlow).where(CallFlow.client_id == client_id, CallFlow.id.in_(flows)).order_by(CallFlow.id)
        chosen = session.scalars(query.with_for_update()).all()
        for row in session.scalars(_of(TeamRow, client_id)):
            if within is not None and f"team:{row.name}" not in within:
                continue
            team = Team.model_validate(row.document)
            other = _replaced_in(team, old.key, new.key)
            if row.removed_at is None and other != team:
                row.document, row.revision = other.model_dump(mode="json"), row.revision + 1
                done.append(f"the team {row.name}")
        if kind == "person":
            boxes = mailboxes.replaced(session, client_id, old.key, new.key, within)
            done += [f"the mailbox {box.name}" for box in boxes]
        session.flush()

        def change(document: FlowDocument) -> list[Step]:
            return uses.replaced(document, old.key, new.key)

        for flow in sorted(chosen, key=lambda one: one.name):
            done += versions.change_steps(session, house, actor, client, flow, change, live=live)
        if not done:
            gone = f"Nothing was changed: nothing of what was chosen rings {old.name} any more."
            return [
                Problem(
                    "by", f"{gone} {trail.said_last(session, client_id, f'put % in the place of {old.name}:%')}".strip()
                )
            ]
        note(session, house, actor, client_id, f"put {new.name} in the place of {old.name}: {', '.join(done)}")
        return done


def _replaced_in(team: Team, old: str, new: str) -> Team:
    members, seen = [], set()
    for one in team.members:
        person = new if one.person == old else one.person
        if person not in seen:
            members.append(one.model_copy(update={"person": person}))
        seen.add(person)
    return team.model_copy(update={"members": tuple(members), "then": new if team.then == old else team.then})


# inside a transaction


def _stands(kind: type[Person] | type[Team], row: PersonRow | TeamRow) -> Row:
    """A person or team as it stands, every field of it."""
    return kind.model_validate(row.document).model_dump(mode="json")


def _of(model: Any, client_id: int) -> Any:
    return select(model).where(model.client_id == client_id).order_by(model.name)


def _own(session: Session, model: Any, client_id: int, row_id: int) -> Any:
    row = session.get(model, row_id, with_for_update=True)
    if row is None or row.client_id != client_id or row.removed_at is not None:
        raise NotFound
    return row


def tracking_numbers(house: House, agency_id: int) -> set[str]:
    """The agency's own tracking numbers, outside of a transaction."""
    with house.begin() as session:
        return ringers_tracking(session, agency_id)


def ringers_tracking(session: Session, agency_id: int) -> set[str]:
    """The agency's own tracking numbers."""
    query = select(TrackingNumber.e164).where(TrackingNumber.agency_id == agency_id, TrackingNumber.state != "released")
    return set(session.scalars(query))


def _places(session: Session, client_id: int) -> dict[str, list[Place]]:
    """Every step of a client's flows that rings a person or a team, by key."""
    found: dict[str, dict[tuple[int, str], Place]] = {}
    query = (
        select(CallFlow, FlowVersion.document)
        .outerjoin(FlowVersion, FlowVersion.id == CallFlow.live_version_id)
        .where(CallFlow.client_id == client_id)
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
                found[use.key][at] = Place(flow, use.step.id, said, drafted or not is_live, is_live)
    return {key: list(places.values()) for key, places in found.items()}


def _said(error: ValidationError, words: Mapping[str, str]) -> Problems:
    """What is wrong, by field, in words."""
    found: Problems = []
    for one in error.errors(include_url=False):
        where = ".".join(str(part) for part in one["loc"])
        plain = one["msg"].removeprefix("Value error, ")
        found.append(Problem(where or "members", words.get(where, f"{plain[0].upper()}{plain[1:]}.")))
    return found
