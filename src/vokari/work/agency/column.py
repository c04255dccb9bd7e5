"""The clients that every page has beside it: all of a small agency's; of a large one those that need a person and those that
its reader worked at last."""

from dataclasses import dataclass

from sqlalchemy import select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...store.agency import Client, ClientVisit
from ..house.house import House
from .access import Actor
from .clients import ClientName

FEW, SHOWN = 15, 8
"""Up to so many clients stand there all; of more, so many that need a person and so many that were visited last."""


_SOME = text(
    "SELECT id, name FROM clients WHERE agency_id = :agency AND (CAST(:own AS bigint) IS NULL OR id = :own)"
    " ORDER BY lower(name) LIMIT :most"
)


@dataclass(frozen=True, slots=True)
class Column:
    """All clients, where they are few; else those visited last, and no more."""

    few: bool
    clients: list[ClientName]


def view(house: House, actor: Actor, client_id: int | None) -> Column:
    """The clients of the column for a page of this client, which is written down as visited."""
    with house.begin() as session:
        own = None if actor.works else actor.client_id
        some = session.execute(_SOME, {"agency": actor.agency_id, "own": own, "most": FEW + 1}).all()
        if len(some) <= FEW:
            return Column(True, [ClientName(*row) for row in some])
        visited = _visited(session, actor)
        if client_id is not None and client_id not in [one.id for one in visited[:1]]:
            _visit(session, house, actor, client_id)
            visited = _visited(session, actor)
        return Column(False, visited)


def _visited(session: Session, actor: Actor) -> list[ClientName]:
    query = (
        select(Client.id, Client.name)
        .join(ClientVisit, ClientVisit.client_id == Client.id)
        .where(ClientVisit.user_id == actor.user_id, Client.agency_id == actor.agency_id)
        .order_by(ClientVisit.at.desc())
        .limit(SHOWN)
    )
    return [ClientName(*row) for row in session.execute(query)]


def _visit(session: Session, house: House, actor: Actor, client_id: int) -> None:
    statement = insert(ClientVisit).values(user_id=actor.user_id, client_id=client_id, at=house.now())
    changed = {"at": statement.excluded.at}
    session.execute(statement.on_conflict_do_update(index_elements=["user_id", "client_id"], set_=changed))
