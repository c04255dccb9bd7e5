"""(b) Engine steps a second in pure Python, against reading and checking the body that an event comes in."""

from dataclasses import dataclass

from sqlalchemy import text

from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions import stored as answers_stored
from vokari.core.flows.running import engine, state, stored
from vokari.formats.call_control.messages import EventMessage

from .replay import known_calls, postings
from .rounds import Compared, compare
from .town import Town

_LOGS = text(
    "SELECT c.version_id, l.entries FROM calls c JOIN call_logs l ON l.call_id = c.id AND l.started_at = c.started_at"
    " WHERE c.version_id IS NOT NULL AND c.fail_safe = '' AND (l.entries -> 0 ->> 'engine')::int = :engine ORDER BY c.started_at DESC LIMIT 1500"
)


@dataclass(frozen=True, slots=True)
class Measured:
    """Steps a second against bodies read a second, and over how many steps."""

    steps: Compared
    count: int


def measure(town: Town) -> Measured:
    """Folds the logs of the latest calls again."""
    with town.house.engine.connect() as connection:
        flows = {
            one.id: engine.prepare(FlowDocument.model_validate(one.document))
            for one in connection.execute(text("SELECT id, document FROM flow_versions"))
        }
        calls = [
            (
                flows[version],
                [(stored.load_event(one["event"]), answers_stored.load(one["answers"])) for one in entries],
            )
            for version, entries in connection.execute(_LOGS, {"engine": engine.VERSION})
        ]
    bodies = [one.body for calls_ in known_calls(town.house, 8, 40) for one in postings(calls_, b"secret")]

    def fold() -> int:
        count = 0
        for flow, log in calls:
            now = state.State()
            for event, answers in log:
                result = engine.step(flow, now, event, answers)
                assert isinstance(result, engine.Next)
                now = result.state
                count += 1
            assert now.ended
        return count

    def read() -> int:
        for body in bodies:
            EventMessage.model_validate_json(body)
        return len(bodies)

    return Measured(compare(fold, read), sum(len(log) for _, log in calls))
