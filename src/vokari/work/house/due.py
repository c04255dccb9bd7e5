"""The one scheduler: changes that take effect at a moment to come. Each is carried out in a transaction of its own, once."""

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any

import structlog
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ...store.agency import User
from ...store.due import DueChange
from ..agency.access import Actor, NotFound
from . import jobs, sweeps
from .house import House

log = structlog.get_logger()

Doing = Callable[[Session, House, Actor, DueChange], str]
"""Carries a change out for whoever asked for it; gives a sentence where it cannot be done any more, empty once it is."""

_DUE = text("SELECT id FROM due_changes WHERE state = 'waiting' AND at <= :now ORDER BY at, id")


def plan(
    session: Session, actor: Actor, house: House, client_id: int, kind: str, of_id: int, at: datetime, detail: dict[str, Any]
) -> DueChange:  # fmt: skip
    """Plans a change for a moment, in the place of one of its kind that waits for the same row."""
    for old in waiting(session, kind, of_id):
        old.state, old.done_at, old.words = "taken_back", house.now(), "another was planned"
    made = DueChange(
        agency_id=actor.agency_id, client_id=client_id, kind=kind, of_id=of_id, at=at, detail=detail, user_id=actor.user_id,
        made_at=house.now(), state="waiting",
    )  # fmt: skip
    session.add(made)
    session.flush()
    jobs.defer(session, "carry_out_due", after=at)
    return made


def waiting(session: Session, kind: str, of_id: int) -> list[DueChange]:
    """What of a kind waits for a row, the next first."""
    query = select(DueChange).where(DueChange.kind == kind, DueChange.of_id == of_id, DueChange.state == "waiting")
    return list(session.scalars(query.order_by(DueChange.at)))


def take_back(session: Session, house: House, client_id: int, change_id: int) -> DueChange | None:
    """Takes a planned change back; None where it is done or was taken back already. Raises NotFound for another client's."""
    change = session.get(DueChange, change_id, with_for_update=True)
    if change is None or change.client_id != client_id:
        raise NotFound
    if change.state != "waiting":
        return None
    change.state, change.done_at = "taken_back", house.now()
    return change


def carry_out(house: House, doing: Mapping[str, Doing]) -> int:
    """Carries out all that is due; gives how many changes were. One that cannot be done is refused with its words, and stops no other."""
    with house.begin() as session:
        due = list(session.scalars(_DUE, {"now": house.now()}))

    def one(change_id: int) -> bool:
        with house.begin() as session:
            change = session.get(DueChange, change_id, with_for_update={"skip_locked": True})
            if change is None or change.state != "waiting":
                return False
            user = session.get_one(User, change.user_id)
            actor = Actor(user.id, change.agency_id, "owner", None, user.name)
            words = doing[change.kind](session, house, actor, change)
            change.state, change.words, change.done_at = ("refused" if words else "done"), words, house.now()
            log.info("a planned change", kind=change.kind, of=change.of_id, state=change.state, words=words)
            return True

    return sweeps.each("a planned change could not be carried out", due, one)
