"""The places of a client, the areas it serves, its own codes, and who looks after what: one document a client."""

from sqlalchemy import Index
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Json


class ClientPlaces(Base):
    """A client's places as `core.places.document.Places`; `revision` counts its changes."""

    __tablename__ = "client_places"
    __table_args__ = (Index("uq_client_places_client_id", "client_id", unique=True),)

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    document: Mapped[Json]
    revision: Mapped[int] = mapped_column(default=0)
