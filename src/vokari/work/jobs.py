"""Follow-up work: deferred on the use case's own connection, so that it commits or rolls back with it."""

import json

from sqlalchemy import text
from sqlalchemy.orm import Session

QUEUE = "default"

_DEFER = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, 0, NULL, NULL, CAST(:args AS jsonb), NULL)"
    "::procrastinate_job_to_defer_v1])"
)


def defer(session: Session, task: str, **arguments: str | int) -> None:
    """Queues a task of `worker.py` by name."""
    session.execute(_DEFER, {"queue": QUEUE, "task": task, "args": json.dumps(arguments)})
