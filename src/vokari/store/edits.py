"""The log of what was kept: sets of hours, people, teams and mailboxes, each change with what the row was before and after."""

from sqlalchemy import BigInteger, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from .base import AgencyId, Base, Instant, Json


class RowEdit(Base):
    """One change of a row: which one (`of` is its kind), who, when, in words, and its fields before and after; an undo names the
    change it takes back. Numbers go up by one within a row."""

    __tablename__ = "row_edits"

    of: Mapped[str] = mapped_column(primary_key=True)
    row_id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    seq: Mapped[int] = mapped_column(primary_key=True)
    agency_id: Mapped[AgencyId]
    user_id: Mapped[int] = mapped_column(BigInteger, ForeignKey("users.id"))
    at: Mapped[Instant]
    kind: Mapped[str]
    of_seq: Mapped[int | None]
    words: Mapped[str]
    before: Mapped[Json]
    after: Mapped[Json]
