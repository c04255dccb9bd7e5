"""Look-ups of a call within the transaction of an event: what is answered already, and what is to be asked beside the call."""

from sqlalchemy import RowMapping, select, text
from sqlalchemy.orm import Session

from ...core.flows.model.steps import LookUp
from ...core.flows.questions.kinds import LookedUp, LookedUpAnswer
from ...core.flows.running.state import State
from ...store.calls import LookUpRow
from ..house import jobs
from ..house.house import House
from ..house.problems import Row

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
        _ask_later(self.session, row.id)
        return ("pending", "")

    def _sent(self, step: LookUp) -> dict[str, str]:
        """What is sent: of the caller, the number dialed and what was typed or looked up before, as the step wants."""
        known = {
            "caller": self.live["context"]["caller"],
            "called": self.live["context"]["called"],
            **dict(self.before.values),
        }
        return {name: known.get(name, "") for name in step.send}


def again(session: Session, live: Row | RowMapping) -> None:
    """Has the look-up that a call waits for seen to once more: its caller has just gone, so that a poke may be too late."""
    query = select(LookUpRow.id).where(LookUpRow.call_id == live["id"]).order_by(LookUpRow.visit.desc()).limit(1)
    row_id = session.scalar(query)
    if row_id is not None:
        _ask_later(session, row_id)


def _ask_later(session: Session, row_id: int) -> None:
    jobs.defer(session, "look_up", lock=f"look-up-{row_id}", look_up_id=row_id)


def forget(session: Session, live: Row | RowMapping) -> None:
    """Forgets the look-ups of a call that is over; its log has what was answered."""
    session.execute(_OLD, {"call": live["id"]})
