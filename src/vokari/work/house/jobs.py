"""Follow-up work: deferred on the use case's own connection, so that it commits or rolls back with it.

What a caller waits for stands in queues of its own, which have workers of their own: a poke never waits behind mail, nor
behind a client's slow system.
"""

import json
from datetime import datetime

from sqlalchemy import text
from sqlalchemy.orm import Session

QUEUE, CALLS = "default", "calls"
"""The usual queue, and that of what follows the calls of the carrier each minute."""
QUEUES = {
    "poke": "pokes",
    "look_up": "look_ups",
    "make_take": "takes",
    "prove_flow": "proofs",
    "prove_live": "nights",
    "propose_rehearsals": "proofs",
    "tell_changes": "proofs",
}
"""The queue of each task that does not stand in the usual one."""

_DEFER = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, 0, :lock, NULL, CAST(:args AS jsonb), CAST(:after AS timestamptz))"
    "::procrastinate_job_to_defer_v1])"
)


def defer(
    session: Session, task: str, *, lock: str | None = None, after: datetime | None = None, **arguments: str | int
) -> None:
    """Queues a task of `worker.py` by name, to be done `after` a moment if one is given. Jobs with the same lock are done one
    after the other, in order."""
    values = {
        "queue": QUEUES.get(task, QUEUE),
        "task": task,
        "lock": lock,
        "after": after,
        "args": json.dumps(arguments),
    }
    session.execute(_DEFER, values)
