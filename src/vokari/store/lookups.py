"""Look-ups under way."""

import uuid
from typing import Any, Literal

from sqlalchemy import TEXT, Index
from sqlalchemy.dialects.postgresql import JSONB, UUID
from sqlalchemy.orm import Mapped, mapped_column

from .base import Base, Id


class LookUpRow(Base):
    """One asking of a client's own system, for one visit of a step by a call; forgotten when the call is over."""

    __tablename__ = "look_ups"
    __table_args__ = (Index("uq_look_ups_call_id_visit", "call_id", "visit", unique=True),)

    id: Mapped[Id]
    call_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True))
    visit: Mapped[int]
    ref: Mapped[str]
    url: Mapped[str]
    sent: Mapped[dict[str, Any]] = mapped_column(JSONB)
    seconds: Mapped[int]
    state: Mapped[Literal["pending", "found", "not_found", "failed"]] = mapped_column(TEXT, default="pending")
    value: Mapped[str] = mapped_column(default="")
