"""Mailboxes: where voicemail lands, and who is told: mail addresses, and people of the client at theirs."""

import re
from collections.abc import Collection, Iterable, Mapping

from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core import mail
from ...core.people.directory import Person
from ...store.agency import Mailbox
from ..house import meanwhile, undoing
from ..house.house import House
from ..house.kept import once
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import MailboxView
from ..people import ringers
from .access import Actor, NotFound, allow, note

PERSON = "person:"
MAILBOX = undoing.Kind("mailbox", ("name", "tell"))
"""What stands before a person's key among those whom a mailbox tells."""
FIELD_NAMES = {"name": "the name", "tell": "who is told"}
MOST_TOLD = 50

_DOMAINS = text(
    "SELECT DISTINCT split_part(one, '@', 2) FROM (SELECT unnest(tell) AS one FROM mailboxes WHERE agency_id = :agency"
    " UNION SELECT email FROM users WHERE agency_id = :agency"
    " UNION SELECT document ->> 'email' FROM people WHERE agency_id = :agency AND removed_at IS NULL) AS used"
    " WHERE one LIKE '%@%'"
)


def of_client(house: House, actor: Actor, client_id: int) -> list[MailboxView]:
    """A client's mailboxes, by name."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return boxes_of(session, client_id)


def boxes_of(session: Session, client_id: int) -> list[MailboxView]:
    """A client's mailboxes, by name, within a transaction."""

    def read() -> list[MailboxView]:
        query = select(*MailboxView.columns(Mailbox)).where(Mailbox.client_id == client_id).order_by(Mailbox.name)
        return MailboxView.all(session.execute(query))

    return once(session, ("mailboxes", client_id), read)


def told_in_words(house: House, actor: Actor, client_id: int) -> dict[int, str]:
    """Who is told by each mailbox, as it is typed: addresses, and people by name."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        people = ringers.people_of(session, house, client_id)
        boxes = boxes_of(session, client_id)
        return {box.id: ", ".join(_named(one, people) for one in box.tell) for box in boxes}


def _named(told: str, people: Mapping[str, Person]) -> str:
    person = people.get(told.removeprefix(PERSON))
    return person.name if person else "somebody who is gone" if told.startswith(PERSON) else told


def addresses(tell: Iterable[str], people: Mapping[str, Person]) -> list[str]:
    """The mail addresses of those who are told, each once; a person without one is left out."""
    found = []
    for one in tell:
        person = people.get(one.removeprefix(PERSON)) if one.startswith(PERSON) else None
        address = person.email if person else "" if one.startswith(PERSON) else one
        if address and address not in found:
            found.append(address)
    return found


def domains(session: Session, agency_id: int) -> set[str]:
    """The mail domains that are in use in an agency."""
    return set(session.scalars(_DOMAINS, {"agency": agency_id}))


def keep(
    house: House,
    actor: Actor,
    client_id: int,
    mailbox_id: int | None,
    name: str,
    tell: str,
    agreed: Collection[str] = (),
    was: Row | None = None,
) -> MailboxView | Problems:
    """Makes or changes a mailbox; `tell` holds addresses and names of people, with commas, semicolons or line ends between.
    `agreed` are addresses that were asked about because their domain looks misspelt; `was` are the name and those told
    (`stands`) that the form was made of."""
    name = " ".join(name.split())
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work", changing=True)
            people = ringers.people_of(session, house, client_id)
            told, problems = _read(tell, people, domains(session, actor.agency_id), agreed)
            if not 1 <= len(name) <= 60:
                problems.insert(0, Problem("name", "A mailbox has a name of 1 to 60 letters."))
            if problems:
                return problems
            mailbox = session.get(Mailbox, mailbox_id) if mailbox_id else None
            if mailbox_id and (mailbox is None or mailbox.client_id != client_id):
                raise NotFound
            if mailbox is None:
                mailbox = Mailbox(agency_id=actor.agency_id, client_id=client_id, key=new_key("mb"))
                session.add(mailbox)
            else:
                fields = meanwhile.laid({"name": name, "tell": told}, was, stands(mailbox), FIELD_NAMES, keys=("tell",))
                if isinstance(fields, list):
                    return fields
                name, told = fields["name"], fields["tell"]
            if mailbox_id is None or mailbox_id == 0:
                mailbox.name, mailbox.tell = name, told
                session.flush()
            else:
                after = {"name": name, "tell": told}
                changed = " and ".join(FIELD_NAMES[one] for one in after if after[one] != stands(mailbox)[one])
                undoing.keep(session, house, actor, MAILBOX, mailbox, after, f"changed {changed}")
            note(session, house, actor, client_id, f"kept the mailbox {name}")
            return MailboxView.of(mailbox)
    except IntegrityError:
        return [Problem("name", "Another mailbox of this client has this name already.")]


def step_back(house: House, actor: Actor, client_id: int, mailbox_id: int, how: str) -> Problems:
    """Takes the latest change of a mailbox back (`undo`), or does again what was taken back last (`redo`)."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work", changing=True)
            mailbox = undoing.own(session, Mailbox, client_id, mailbox_id, lock=True)
            words = undoing.step_back(session, house, actor, MAILBOX, mailbox, how)
            if words is None:
                return [Problem("", f"There is nothing to {how}.")]
            note(session, house, actor, client_id, f"{mailbox.name}: {words}")
    except IntegrityError:
        return [Problem("name", "Another mailbox of this client has the name of then meanwhile.")]
    return []


def steps(house: House, actor: Actor, client_id: int) -> dict[int, undoing.Steps]:
    """What could be taken back of each mailbox of a client, and done again, by id."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        boxes = session.scalars(select(Mailbox.id).where(Mailbox.client_id == client_id))
        return {box: undoing.steps_in_words(session, MAILBOX, box) for box in boxes.all()}


def stands(mailbox: Mailbox | MailboxView) -> Row:
    """The fields of a mailbox as it stands."""
    return {"name": mailbox.name, "tell": list(mailbox.tell)}


def _read(
    tell: str, people: Mapping[str, Person], known: Collection[str], agreed: Collection[str]
) -> tuple[list[str], Problems]:
    names = {person.name.lower(): key for key, person in people.items()}
    told: list[str] = []
    problems: Problems = []
    for piece in (" ".join(one.split()) for one in re.split(r"[,;\n]+", tell)):
        key = names.get(piece.lower())
        for one in [piece] if key or "@" not in piece else piece.split():
            if not one:
                continue
            if key:
                told.append(f"{PERSON}{key}")
                if not people[key].email:
                    problems.append(Problem("tell", f"{people[key].name} has no email yet: add it under People first."))
            elif not mail.is_address(one):
                problems.append(Problem("tell", f"“{one}” is no email address and nobody of this client."))
            else:
                told.append(one)
                likely = "" if one in agreed else mail.meant(one, known)
                if likely:
                    problems.append(Problem("tell", f"Did you mean {likely}? Save again if {one} is right."))
    if len(set(told)) > MOST_TOLD:
        problems.insert(0, Problem("tell", f"A mailbox tells at most {MOST_TOLD}."))
    if not told and not problems:
        problems.append(Problem("tell", "Name an email address or a person, so that somebody hears of a message."))
    return list(dict.fromkeys(told)), problems


def naming(session: Session, client_id: int, key: str) -> list[Mailbox]:
    """The mailboxes that tell a person."""
    query = select(Mailbox).where(Mailbox.client_id == client_id, Mailbox.tell.contains([f"{PERSON}{key}"]))
    return list(session.scalars(query.order_by(Mailbox.name)))


def replaced(
    session: Session,
    house: House,
    actor: Actor,
    client_id: int,
    old: str,
    new: str,
    within: Collection[str] | None = None,
) -> list[Mailbox]:
    """Tells another person in the place of one, in every mailbox or those of `within` ("mailbox:" and the name); gives those
    that changed."""
    found = [box for box in naming(session, client_id, old) if within is None or f"mailbox:{box.name}" in within]
    for box in found:
        tell = list(dict.fromkeys(f"{PERSON}{new}" if one == f"{PERSON}{old}" else one for one in box.tell))
        undoing.keep(
            session, house, actor, MAILBOX, box, {"name": box.name, "tell": tell}, "put somebody in another’s place"
        )
    return found
