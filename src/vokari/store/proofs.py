"""What proofs of flows showed."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, ClientId, Id, Instant, Json


class Proof(Base):
    """The latest proof of a flow's draft, or of what is `live` of it: of which `revision` (the version's number), in what world (`stamp`), made when,
    and what it showed; empty until the first is done. `asked` is the revision and the world that a proof is under way for, since `asked_at`.
    `proposal` are rehearsals to keep that were asked for, for which revision, and once they are there, which."""

    __tablename__ = "proofs"

    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), primary_key=True)
    live: Mapped[bool] = mapped_column(primary_key=True, default=False)
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    revision: Mapped[int] = mapped_column(default=-1)
    stamp: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    document: Mapped[Json]
    asked: Mapped[str] = mapped_column(default="")
    asked_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    proposal: Mapped[Json] = mapped_column(server_default=text("'{}'"), default=dict)


class Comparison(Base):
    """What changes for callers of a flow: `what` names the two versions, by id (0: the draft), as "12:0", or an entry of the log of a row, as
    "hours:5:3". Of which states of them it is (`of`), made when, and what it showed; `asked` are those that one is under way for, since `asked_at`."""

    __tablename__ = "comparisons"

    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), primary_key=True)
    what: Mapped[str] = mapped_column(primary_key=True)
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    asked: Mapped[str] = mapped_column(default="")
    asked_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    of: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    document: Mapped[Json]


class LiveFinding(Base):
    """What was found of a flow as it is live: of which kind and weight, in words, at which step, with the example call that shows it if one does; since
    when, of which version, and when it was mended (None: it stands). `told_at`: when it went out by mail."""

    __tablename__ = "live_findings"
    __table_args__ = (
        Index(
            "uq_live_findings_open", "flow_id", "kind", "step", unique=True, postgresql_where=text("mended_at IS NULL")
        ),
    )

    id: Mapped[Id]
    agency_id: Mapped[AgencyId]
    client_id: Mapped[ClientId]
    flow_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flows.id"), index=True)
    version_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("flow_versions.id"))
    stamp: Mapped[str]
    kind: Mapped[str]
    weight: Mapped[str]
    sentence: Mapped[str]
    step: Mapped[str]
    example: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    since: Mapped[Instant]
    told_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    mended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
