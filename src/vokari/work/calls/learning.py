"""Whether a live call is recorded, by what its step records for; the week's recordings are counted under a lock."""

import json
import random
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from ...core.calls.learning import Kept, is_recorded
from ...core.flows.model.steps import HoldLine, Ring
from ...core.flows.questions.kinds import RecordThis
from ...core.people.destinations import rung_by
from ...core.people.line_up import Around
from ..house.problems import Row
from ..people.ringers import keep_turn, locked_turn, place_of

WEEKS = 4
"""From so many weeks it is told how many calls somebody takes in the rest of one."""
UNKNOWN = 3.0
"""Calls expected for each that is still to be recorded, of somebody who has not been seen to take any."""
_TAKEN = text(
    "SELECT answered_by, count(*) AS taken FROM calls WHERE client_id = :client AND NOT test AND fate = 'answered'"
    " AND ((started_at > :a1 AND started_at < :b1) OR (started_at > :a2 AND started_at < :b2)"
    " OR (started_at > :a3 AND started_at < :b3) OR (started_at > :a4 AND started_at < :b4)) GROUP BY answered_by"
)


def recorded(
    session: Session, live: Row | RowMapping, at: datetime, zone: ZoneInfo, around: Around, step: Ring | HoldLine,
    question: RecordThis,
) -> bool:  # fmt: skip
    """All calls of some lead sources, or so many a week. A test call is no call to learn from."""
    purpose, context = step.recording, live["context"]
    if purpose.purpose == "all":
        source = context["sources"].get(question.source) or context["source_id"]
        return source is not None and source in {context["sources"].get(key) for key in purpose.sources}
    if context["test"]:
        return False
    local = at.astimezone(zone)
    week = local.date() - timedelta(days=local.weekday())
    key = f"learn:{place_of(context['flow_id'], step.id)}"
    kept = _kept(locked_turn(session, live["client_id"], key), week)
    if kept.total >= purpose.per_week:
        return False
    expected = _expected(session, live["client_id"], at, week, zone, step, question.who, around)
    people = len(set(rung_by(step, around.people, around.teams).values()))
    left = max(1, purpose.per_week - kept.total)
    guess = expected + 1 if expected is not None else UNKNOWN * left
    if not is_recorded(purpose.per_week, question.who, local.hour, kept, people, guess, random.random()):
        return False
    keep_turn(session, live["client_id"], key, json.dumps(_dumped(kept.and_this(question.who, local.hour), week)))
    return True


def _expected(
    session: Session, client_id: int, at: datetime, week: date, zone: ZoneInfo, step: Ring | HoldLine, who: str,
    around: Around,
) -> float | None:  # fmt: skip
    """How many calls somebody took on average in what corresponds to the rest of this week; None where nothing was taken."""
    ends = datetime.combine(week + timedelta(days=7), datetime.min.time(), zone)
    spans = {
        f"{name}{back}": moment - timedelta(weeks=back)
        for back in range(1, WEEKS + 1)
        for name, moment in (("a", at), ("b", ends))
    }
    taken = {row.answered_by: row.taken for row in session.execute(_TAKEN, {"client": client_id, **spans})}
    person = around.people.get(who)
    own = (
        [phone.to for phone in person.phones]
        if person
        else [getattr(one, "dialed", "") for one in getattr(step, "to", ()) if one.id == who]
    )
    if not sum(taken.values()):
        return None
    return float(sum(taken.get(to, 0) for to in own)) / WEEKS


def _kept(raw: dict[str, Any] | None, week: date) -> Kept:
    """What was recorded in a week; another week's is over."""
    if not raw or raw.get("week") != week.isoformat():
        return Kept()
    return Kept(raw["people"], {int(hour): count for hour, count in raw["hours"].items()})


def _dumped(kept: Kept, week: date) -> dict[str, Any]:
    return {"week": week.isoformat(), "people": dict(kept.people), "hours": dict(kept.hours)}
