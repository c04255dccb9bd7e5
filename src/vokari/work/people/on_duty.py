"""People switch themselves on and off by a private link, without a sign-in: the address is the secret."""

from dataclasses import dataclass
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ...core.hours import words
from ...store.agency import AuditEntry, Client
from ...store.people import DutyRow, PersonRow
from ..agency.access import Actor, NotFound, allow, note
from ..holding import turns
from ..hours import ready
from ..house import open_pages, secret_links
from ..house.house import House
from ..house.views import ClientView, PersonView
from . import ringers

LINK = "duty"


@dataclass(frozen=True, slots=True)
class OwnPage:
    """What somebody sees of themselves: the client, whether they are switched off, what their own times say now, and
    how many calls they took today."""

    client: ClientView
    name: str
    off: bool
    times: str
    taken: int


def path_of(house: House, person: PersonRow | PersonView) -> str:
    """The private address of a person's own page."""
    return f"/duty/{secret_links.token(house, LINK, person.id, person.link_version)}"


def renew(house: House, actor: Actor, client_id: int, person_id: int) -> None:
    """Gives a person another address; the old one ends."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        person = session.get(PersonRow, person_id, with_for_update=True)
        if person is None or person.client_id != client_id:
            raise NotFound
        person.link_version += 1
        note(session, house, actor, client_id, f"renewed the private address of {person.name}")


def page(house: House, token: str) -> OwnPage | None:
    """The page behind an address; None for an address that is nobody's."""
    with house.begin() as session:
        person = _person(session, house, token)
        return _page(session, house, person) if person else None


def switch(house: House, token: str, *, off: bool) -> OwnPage | None:
    """Switches the person behind an address off, or on again."""
    with house.begin() as session:
        person = _person(session, house, token)
        if person is None:
            return None
        if set_off(session, house, person, off=off):
            said = f"{person.name} switched themselves {'off' if off else 'on'}"
            session.add(AuditEntry(
                agency_id=person.agency_id, client_id=person.client_id, user_id=None, at=house.now(), words=said, detail={}
            ))  # fmt: skip
        session.flush()
        return _page(session, house, person)


def set_off(session: Session, house: House, person: PersonRow, *, off: bool) -> bool:
    """Switches a person off or on, in the caller's transaction; whether that changed anything. On again, the rings that
    nobody answered are forgotten. Hold lines that they serve are told."""
    has_lines = turns.gate(session, person.client_id)
    duty = session.get(DutyRow, (person.client_id, person.key), with_for_update=True)
    if duty is None:
        duty = DutyRow(client_id=person.client_id, person=person.key, taken=0, missed=0, off=False)
        session.add(duty)
    changed = duty.off != off
    duty.off, duty.missed, duty.rests_until = off, duty.missed if off else 0, None
    if changed or not off:
        duty.off_since = house.now() if off else None
    session.flush()
    client = session.get(Client, person.client_id)
    if changed and client is not None:
        now = house.now()
        if has_lines:
            turns.changed(session, client.id, now, ringers.of_client(session, house, client, now))
        open_pages.notify(session, client.agency_id, client.id)
    return changed


def _person(session: Session, house: House, token: str) -> PersonRow | None:
    person = session.get(PersonRow, secret_links.id_of(token) or 0)
    if person is None or person.removed_at is not None:
        return None
    return person if secret_links.fits(house, token, LINK, person.id, person.link_version) else None


def _page(session: Session, house: House, person: PersonRow) -> OwnPage:
    client = session.get(Client, person.client_id)
    assert client is not None
    duty = session.get(DutyRow, (person.client_id, person.key))
    now = house.now()
    hours = ready.Standings(session, house, person.client_id, now)
    table = hours.table(str(person.document.get("hours") or "")) if person.document.get("hours") else None
    today = now.astimezone(ZoneInfo(client.time_zone)).date()
    taken = duty.taken if duty and duty.taken_on == today else 0
    return OwnPage(
        ClientView.of(client), person.name, bool(duty and duty.off), words.sentence(table, now) if table else "", taken
    )
