"""People and teams kept, removed, brought back, and switched on and off; what was kept can be taken back."""

from collections.abc import Mapping, Sequence
from typing import TypeVar

from pydantic import ValidationError
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core import mail
from ...core.numbers.numbering import Wrong
from ...core.people import phone_rules
from ...core.people.directory import Person, Team
from ...core.people.line_up import circle
from ...store.agency import Client
from ...store.people import PersonRow, TeamRow
from ..agency import mailboxes
from ..agency.access import Actor, allow, note
from ..house import meanwhile, undoing
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row, Withdrawn
from ..house.views import PersonView, TeamView
from . import on_duty, ringers
from .everybody import places_of, ringers_tracking

Kept = PersonRow | TeamRow
Made = TypeVar("Made", PersonRow, TeamRow)
PERSON, TEAM = undoing.Kind("person", ("document",)), undoing.Kind("team", ("document",))
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
) -> PersonView | Problems:  # fmt: skip
    """Makes or changes a person from the fields of `Person`; phones are typed in any usual form. `agreed` are phones in
    another country, and a mail address, that were asked about; `was` is the person that the form was made of."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "edit_hours", changing=True)
            checked = _person(session, client, form, agreed)
            if isinstance(checked, list):
                return checked
            if person_id is None:
                return PersonView.of(_made(session, house, actor, client, PersonRow(key=new_key("pe")), checked))
            row = undoing.own(session, PersonRow, client_id, person_id, lock=True)
            typed = checked.model_dump(mode="json")
            fields = meanwhile.laid(typed, was, _stands(Person, row), PERSON_FIELDS, keys=("hours",))
            if isinstance(fields, list):
                return fields
            _changed(session, house, actor, PERSON, row, Person.model_validate(fields), PERSON_FIELDS)
            return PersonView.of(row)
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
) -> TeamView | Problems:
    """Makes or changes a team from the fields of `Team`; `was` is the team that the form was made of."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "edit_hours", changing=True)
            row = (
                undoing.own(session, TeamRow, client_id, team_id, lock=True) if team_id else TeamRow(key=new_key("te"))
            )
            try:
                made = Team.model_validate({**form, "name": " ".join(str(form.get("name", "")).split())})
                if team_id:
                    keys = ("members", "rota", "then")
                    fields = meanwhile.laid(
                        made.model_dump(mode="json"), was, _stands(Team, row), TEAM_FIELDS, keys=keys
                    )
                    if isinstance(fields, list):
                        return fields
                    made = Team.model_validate(fields)
            except ValidationError as error:
                return _said(error, {"name": "A team has a name of 1 to 60 letters."})
            problems = _checked_team(session, house, client_id, row.key, made)
            if problems:
                return problems
            if team_id is None:
                return TeamView.of(_made(session, house, actor, client, row, made))
            _changed(session, house, actor, TEAM, row, made, TEAM_FIELDS)
            return TeamView.of(row)
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
        row = undoing.own(session, model_of(kind), client_id, row_id, lock=True)
        places = places_of(session, client_id).get(row.key, [])
        teams = ringers.teams_of(session, house, client_id)
        within = [team.name for key, team in teams.items() if row.key in (team.then, *(m.person for m in team.members))]
        used = [*(place.words for place in places), *(f"the team {name}" for name in within)]
        if used:
            return [Problem("", f"{row.name} is rung by {used[0]}: put somebody else there first.")]
        told = mailboxes.naming(session, client_id, row.key)
        if told:
            return [
                Problem(
                    "", f"{row.name} gets messages from the mailbox {told[0].name}: name somebody else there first."
                )
            ]
        row.removed_at = house.now()
        note(session, house, actor, client_id, f"removed {row.name}")
    return []


def bring_back(house: House, actor: Actor, client_id: int, kind: str, row_id: int) -> Problems:
    """Brings somebody back who was removed."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "edit_hours", changing=True)
            row = undoing.own(session, model_of(kind), client_id, row_id, lock=True, gone=True)
            row.removed_at = None
            session.flush()
            note(session, house, actor, client_id, f"brought {row.name} back")
    except IntegrityError:
        return [Problem("", "Somebody else has this name or extension meanwhile: change that first.")]
    return []


def step_back(house: House, actor: Actor, client_id: int, kind: str, row_id: int, how: str) -> Problems:
    """Takes the latest change of a person or team back (`undo`), or does again what was taken back last (`redo`)."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "edit_hours", changing=True)
            row = undoing.own(session, model_of(kind), client_id, row_id, lock=True)
            words = undoing.step_back(session, house, actor, PERSON if kind == "person" else TEAM, row, how)
            if words is None:
                return [Problem("", f"There is nothing to {how}.")]
            if isinstance(row, TeamRow):
                problems = _checked_team(session, house, client_id, row.key, Team.model_validate(row.document))
                if problems:
                    raise Withdrawn([Problem("", one.sentence) for one in problems])
            note(session, house, actor, client_id, f"{row.name}: {words}")
    except Withdrawn as withdrawn:
        return withdrawn.problems
    except IntegrityError:
        return [Problem("", "Somebody else has the name or extension of then meanwhile: change that first.")]
    return []


def steps(house: House, actor: Actor, client_id: int, kind: str, row_id: int) -> undoing.Steps:
    """What could be taken back of a person or team, and done again."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours")
        row = undoing.own(session, model_of(kind), client_id, row_id)
        return undoing.steps_in_words(session, PERSON if kind == "person" else TEAM, row.id)


def set_duty(house: House, actor: Actor, client_id: int, person_id: int, *, off: bool) -> None:
    """Switches a person off, so that they are not rung, or on again."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        row = undoing.own(session, PersonRow, client_id, person_id, lock=True)
        on_duty.set_off(session, house, row, off=off)
        note(session, house, actor, client_id, f"switched {row.name} {'off' if off else 'on'}")


# inside a transaction


def model_of(kind: str) -> type[PersonRow] | type[TeamRow]:
    """The table of a person or a team."""
    return PersonRow if kind == "person" else TeamRow


def _made(session: Session, house: House, actor: Actor, client: Client, row: Made, document: Person | Team) -> Made:
    """Stores a new person or team."""
    row.agency_id, row.client_id, row.document = client.agency_id, client.id, document.model_dump(mode="json")
    row.revision = 1
    session.add(row)
    session.flush()
    note(session, house, actor, client.id, f"kept the {_called(document)}")
    return row


def _changed(
    session: Session,
    house: House,
    actor: Actor,
    kind: undoing.Kind,
    row: Kept,
    new: Person | Team,
    names: Mapping[str, str],
) -> None:
    """Writes a changed person or team down, with what was changed in words."""
    after, before = new.model_dump(mode="json"), _stands(type(new), row)
    fields = [names[name] for name in after if name in names and after[name] != before[name]]
    undoing.keep(session, house, actor, kind, row, {"document": after}, f"changed {' and '.join(fields)}")
    note(session, house, actor, row.client_id, f"kept the {_called(new)}")


def _called(document: Person | Team) -> str:
    return f"{'person' if isinstance(document, Person) else 'team'} {document.name}"


def _stands(kind: type[Person] | type[Team], row: PersonRow | TeamRow) -> Row:
    """A person or team as it stands, every field of it."""
    return kind.model_validate(row.document).model_dump(mode="json")


def _said(error: ValidationError, words: Mapping[str, str]) -> Problems:
    """What is wrong, by field, in words."""
    found: Problems = []
    for one in error.errors(include_url=False):
        where = ".".join(str(part) for part in one["loc"])
        plain = one["msg"].removeprefix("Value error, ")
        found.append(Problem(where or "members", words.get(where, f"{plain[0].upper()}{plain[1:]}.")))
    return found
