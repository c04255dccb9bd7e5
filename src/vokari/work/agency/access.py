"""Who may do what. Every use case asks here once, and nowhere else."""

from dataclasses import dataclass
from typing import Literal

from sqlalchemy.orm import Session

from ...store.agency import AuditEntry, Client
from ..house.house import House
from ..house.problems import Row

Role = Literal["owner", "specialist", "client_editor", "client_viewer"]
ROLES: tuple[Role, ...] = ("owner", "specialist", "client_editor", "client_viewer")

Ability = Literal["read_results", "call_back", "edit_hours", "work"]
"""`read_results`: a client's calls and reports. `call_back`, `edit_hours`: telling that a lost caller was rung back, and its hours
and switches, which a client editor may change too. `work`: everything else that is done for a client."""


@dataclass(frozen=True, slots=True)
class Actor:
    """Who acts: a signed-in user of one agency; `client_id` is set for the roles that have one client."""

    user_id: int
    agency_id: int
    role: Role
    client_id: int | None
    name: str

    @property
    def works(self) -> bool:
        return self.role in ("owner", "specialist")

    @property
    def edits_hours(self) -> bool:
        return self.works or self.role == "client_editor"


class NotAllowed(Exception):
    """The actor's role does not allow this."""


class NotFound(Exception):
    """There is no such thing, or it is another agency's, which must look the same."""


def allow_agency(actor: Actor) -> None:
    """Raises NotAllowed unless the actor works for the whole agency."""
    if not actor.works:
        raise NotAllowed


def allow_owner(actor: Actor) -> None:
    """Raises NotAllowed unless the actor owns the agency."""
    if actor.role != "owner":
        raise NotAllowed


def allow(session: Session, actor: Actor, client_id: int, ability: Ability, *, changing: bool = False) -> Client:
    """The client, if the actor may do this for it. Raises NotFound or NotAllowed.

    `changing` locks the client's row first: those who change what a client has (people, hours, flows, numbers …) do so one after
    the other, so that nothing is read that another is about to change, and no two wait for each other. Calls do not wait for it.
    """
    client = session.get(Client, client_id, with_for_update={"key_share": True} if changing else None)
    if client is None or client.agency_id != actor.agency_id:
        raise NotFound
    if not actor.works:
        if actor.client_id != client_id:
            raise NotFound
        if ability != "read_results" and not (ability != "work" and actor.role == "client_editor"):
            raise NotAllowed
    return client


def note(
    session: Session, house: House, actor: Actor, client_id: int | None, words: str, detail: Row | None = None
) -> None:
    """Writes a line of the audit trail."""
    entry = AuditEntry(agency_id=actor.agency_id, client_id=client_id, user_id=actor.user_id, at=house.now())
    entry.words, entry.detail = words, detail or {}
    session.add(entry)
