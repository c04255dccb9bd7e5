"""People from an address book and into one, as vCards."""

from dataclasses import dataclass, field

from ...core.numbers.numbering import Wrong
from ...core.people import phone_rules
from ...core.people.directory import Person
from ...formats import vcards
from ..agency.access import Actor, allow
from ..house import apart
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from . import everybody, keeping

MOST_PHONES = 10


@dataclass(slots=True)
class Taken:
    """What came of a file: the names of people who were added or changed, and what was left out, in words."""

    added: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def export(house: House, actor: Actor, client_id: int) -> str:
    """All people of a client as cards."""
    found = everybody.everybody(house, actor, client_id)
    return vcards.write([(line.row.key, line.person) for line in found.people], found.client.name)


def take(house: House, actor: Actor, client_id: int, data: bytes, *, abroad: bool) -> Taken | Problems:
    """Adds the people of a file; one whose name is known gets the phones that they did not have. A phone that cannot be
    rung is left out with the reason, one in another country unless `abroad` says that this is right."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours")
    cards = apart.worked_out(vcards.read, data)
    if isinstance(cards, Problem):
        return [cards]
    if isinstance(cards, str):
        return [Problem("file", cards)]
    taken = Taken()
    for card in cards:
        _take(house, actor, client_id, card, taken, abroad=abroad)
    return taken


def _take(house: House, actor: Actor, client_id: int, card: vcards.Card, taken: Taken, *, abroad: bool) -> None:
    found = everybody.everybody(house, actor, client_id)
    known = next((line for line in found.people if line.row.name.lower() == card.name.lower()), None)
    tracking = everybody.tracking_numbers(house, found.client.agency_id)
    before = known.person if known else None
    phones = [one.model_dump(mode="json") for one in before.phones] if before else []
    agreed = [str(one["to"]) for one in phones]
    for called, to in card.phones:
        checked = phone_rules.check(to, found.client.country, tracking)
        if isinstance(checked, Wrong):
            taken.left_out.append(f"{card.name}, {to}: {checked.sentence}")
        elif checked.asks and not abroad:
            taken.left_out.append(f"{card.name}, {to}: it is in another country.")
        elif checked.to not in agreed:
            phones.append({"name": called, "to": checked.to})
            agreed.append(checked.to)
    if len(phones) > MOST_PHONES:
        taken.left_out.append(f"{card.name}: more than {MOST_PHONES} phones.")
        phones = phones[:MOST_PHONES]
    was = before.model_dump(mode="json") if before else None
    form: Row = (was or {"name": card.name}) | {"phones": phones}
    for name, value in (("email", card.email), ("note", card.note), ("extension", card.extension)):
        form[name] = form.get(name) or value
    if before is not None and _same(before, form):
        return
    made = keeping.keep_person(house, actor, client_id, known.row.id if known else None, form, agreed, was)
    if isinstance(made, list):
        taken.left_out.append(f"{card.name or 'A card without a name'}: {made[0].sentence}")
    else:
        (taken.changed if known else taken.added).append(made.name)


def _same(before: Person, form: Row) -> bool:
    return before.model_dump(mode="json") == form
