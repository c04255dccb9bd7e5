"""Look-ups in a client's own system: asked beside the call by the worker, and the call poked when the answer is there."""

import json
from typing import Any

from sqlalchemy import RowMapping, select, text
from sqlalchemy.orm import Session

from ..core.flows.questions import LOOKED_UP_LONGEST, LookedUp, LookedUpAnswer
from ..core.flows.state import State
from ..core.flows.steps import LookUp
from ..store.lookups import LookUpRow
from . import holding, jobs
from .house import House, Row, Unreachable

_OLD = text("DELETE FROM look_ups WHERE call_id = :call")


class LookUps:
    """The look-ups of one call within the transaction of an event."""

    def __init__(self, session: Session, house: House, live: Row | RowMapping, before: State) -> None:
        self.session, self.house, self.live, self.before = session, house, live, before

    def answer(self, step: LookUp, question: LookedUp) -> LookedUpAnswer:
        """The answer, if it is there; else the asking is queued the first time."""
        sent = self._sent(step)
        query = select(LookUpRow).where(LookUpRow.call_id == self.live["id"], LookUpRow.visit == question.visit)
        row = self.session.scalar(query)
        if row is not None:
            return (row.state, row.value)
        row = LookUpRow(
            call_id=self.live["id"], visit=question.visit, ref=self.live["ref"], url=step.url, sent=sent, seconds=step.patience,
        )  # fmt: skip
        self.session.add(row)
        self.session.flush()
        jobs.defer(self.session, "look_up", look_up_id=row.id)
        return ("pending", "")

    def _sent(self, step: LookUp) -> dict[str, str]:
        """What is sent: of the caller, the number dialed and what was typed or looked up before, as the step wants."""
        known = {
            "caller": self.live["context"]["caller"],
            "called": self.live["context"]["called"],
            **dict(self.before.values),
        }
        return {name: known.get(name, "") for name in step.send}


def run(house: House, look_up_id: int) -> None:
    """Asks once and pokes the call; what was answered already is not asked again."""
    with house.begin() as session:
        row = session.get(LookUpRow, look_up_id)
        if row is None or row.state != "pending":
            return
        url, sent, seconds, ref = row.url, row.sent, row.seconds, row.ref
    what, value = asked(house, url, sent, seconds)
    with house.begin() as session:
        kept = session.get(LookUpRow, look_up_id, with_for_update=True)
        if kept is not None:
            kept.state, kept.value = what, value
    holding.poke(house, ref)


def asked(house: House, url: str, sent: dict[str, str], seconds: int) -> LookedUpAnswer:
    """Asks a system: 200 with JSON {"answer": …} is found, an empty answer or 404 is not found, all else has failed."""
    try:
        status, body = house.web.get(url, sent, seconds)
    except Unreachable:
        return ("failed", "")
    if status == 404:
        return ("not_found", "")
    try:
        raw: Any = json.loads(body)["answer"] if status == 200 else None
    except (ValueError, KeyError, TypeError):
        return ("failed", "")
    if status != 200 or isinstance(raw, dict | list | bool):
        return ("failed", "")
    value = "" if raw is None else " ".join(str(raw).split())[:LOOKED_UP_LONGEST]
    return ("found", value) if value else ("not_found", "")


def forget(session: Session, live: Row | RowMapping) -> None:
    """Forgets the look-ups of a call that is over; its log has what was answered."""
    session.execute(_OLD, {"call": live["id"]})
