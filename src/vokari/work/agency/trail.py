"""The audit trail of a client: who changed what, when."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...store.agency import AuditEntry, User
from ..house.house import House
from .access import Actor, allow

PAGE = 100


@dataclass(frozen=True, slots=True)
class TrailLine:
    """One thing that was done; `undoable` is a change of many numbers that still stands."""

    id: int
    at: datetime
    who: str
    words: str
    undoable: bool


def listed(house: House, actor: Actor, client_id: int, before: int | None = None) -> list[TrailLine]:
    """What was done, newest first, from before an entry; one more than PAGE tells that there is more."""
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        query = (
            select(AuditEntry, User.name)
            .outerjoin(User, User.id == AuditEntry.user_id)
            .where(AuditEntry.client_id == client_id)
            .order_by(AuditEntry.id.desc())
            .limit(PAGE + 1)
        )
        if before is not None:
            query = query.where(AuditEntry.id < before)
        return [
            TrailLine(
                entry.id, entry.at, name or "the program", entry.words,
                "numbers" in entry.detail and not entry.detail.get("undone"),
            )
            for entry, name in session.execute(query)
        ]  # fmt: skip


def said_last(session: Session, client_id: int, like: str) -> str:
    """The latest line of the trail that is like a pattern of SQL, as a sentence with who did it; empty when there is none."""
    found = session.execute(
        select(User.name, AuditEntry.words)
        .outerjoin(User, User.id == AuditEntry.user_id)
        .where(AuditEntry.client_id == client_id, AuditEntry.words.like(like))
        .order_by(AuditEntry.id.desc())
        .limit(1)
    ).first()
    return f"{found[0] or 'The program'} {found[1]}." if found else ""
