"""What proofs of flows showed."""

from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Json


class Proof(Base):
    """The latest proof of a flow's draft: of which `revision`, in what world (`stamp`), made when, and what it showed; empty until the first is
    done. `asked` is the revision and the world that a proof is under way for, since `asked_at`."""

    __tablename__ = "proofs"

    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), primary_key=True)
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    revision: Mapped[int] = mapped_column(default=-1)
    stamp: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    document: Mapped[Json]
    asked: Mapped[str] = mapped_column(default="")
    asked_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
