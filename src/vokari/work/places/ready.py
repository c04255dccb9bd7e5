"""A client's places made ready to answer: for live calls, rehearsals and pages. Says nothing about who may ask."""

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.places.document import Places
from ...core.places.whereabouts import Whereabouts
from ..house.house import House

_KNOWN = text(
    "SELECT c.country, p.id, COALESCE(p.revision, 0) AS revision FROM clients c LEFT JOIN client_places p ON p.client_id = c.id"
    " WHERE c.id = :client"
)
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
