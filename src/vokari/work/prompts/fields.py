"""What fields in spoken words are filled in with: looked up once a question of the engine asks for them."""

from collections.abc import Callable
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import text
from sqlalchemy.orm import Session

from ...core.flows.questions.kinds import SpokenFields
from ...core.flows.running.facts import Caller
from ...core.flows.running.field_values import Speaking
from ...core.flows.running.set_facts import FIRST_NAME
from ...core.hours.timetable import Timetable
from ..hours.ready import Standings

_CLIENT = text("SELECT name, country FROM clients WHERE id = :client")
_NAMED = text(
    "SELECT key FROM hours_sets WHERE client_id = :client AND lower(name) = lower(:name) AND removed_at IS NULL LIMIT 1"
)


def values(
    session: Session, client_id: int, at: datetime, zone: ZoneInfo, hours: Standings, called: str, caller: Caller
) -> Callable[[SpokenFields], tuple[str, ...]]:
    """Answers a question about fields at a moment, for a call to a number."""

    def named(name: str) -> Timetable | None:
        key = session.scalar(_NAMED, {"client": client_id, "name": name})
        return hours.table(key) if key else None

    def answer(question: SpokenFields) -> tuple[str, ...]:
        client = session.execute(_CLIENT, {"client": client_id}).one()
        known = caller.contact("contact_field", FIRST_NAME)
        speaking = Speaking(
            client.name, client.country, at, zone, called, known[0] if known else "", hours.main, named
        )  # fmt: skip
        return speaking.values(question)

    return answer
