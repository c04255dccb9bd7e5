"""A client's places made ready to answer: for live calls, rehearsals and pages. Says nothing about who may ask."""

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.places import gazetteer
from ...core.places.document import Places
from ...core.places.whereabouts import Whereabouts
from ..house.house import House

_KNOWN = text(
    "SELECT c.country, p.id, COALESCE(p.revision, 0) AS revision FROM clients c LEFT JOIN client_places p ON p.client_id = c.id"
    " WHERE c.id = :client"
)
_ANY = text("SELECT EXISTS (SELECT 1 FROM client_places)")
_DOCUMENT = text("SELECT document FROM client_places WHERE id = :id")


def whereabouts(session: Session, house: House, client_id: int) -> Whereabouts:
    """Answers about where callers of a client are; a client that named no places has none."""
    row = session.execute(_KNOWN, {"client": client_id}).one()
    if row.id is None:
        return Whereabouts(Places(), row.country)
    return house.whereabouts.get(
        session,
        (row.id, row.revision, row.country),
        lambda: Whereabouts(Places.model_validate(session.scalar(_DOCUMENT, {"id": row.id})), row.country),
    )


def warm(house: House) -> None:
    """Reads where postal codes lie before a caller has to wait for it, in a process that any client's places are asked in."""
    with house.begin() as session:
        wanted = session.scalar(_ANY)
    if wanted:
        gazetteer.warm()
