"""Runs of the parts of the stack: which process of which part lives where, since when, and when it last gave a sign."""

from sqlalchemy import BigInteger, Index
from sqlalchemy.orm import Mapped, mapped_column

from .base import Base, Id, Instant


class PartRun(Base):
    """One process of a part, from its start on. `why` says what ended the one before it, empty for a plain start;
    `free_bytes` is the space left where its data lies."""

    __tablename__ = "part_runs"
    __table_args__ = (Index("ix_part_runs_started_at", "started_at"),)

    id: Mapped[Id]
    part: Mapped[str]
    host: Mapped[str]
    pid: Mapped[int]
    started_at: Mapped[Instant]
    beat_at: Mapped[Instant]
    why: Mapped[str] = mapped_column(default="")
    free_bytes: Mapped[int] = mapped_column(BigInteger)
