"""(h) How long a poke takes to be done behind 10,000 waiting jobs, against with none."""

import json
import statistics
import time
from dataclasses import dataclass

from sqlalchemy import text

from vokari.work.house import jobs

from .town import Town

POKES, BACKLOG = 25, 10_000


@dataclass(frozen=True, slots=True)
class Measured:
    """Median and longest milliseconds from the commit until a poke is done, behind a backlog and without; and how many jobs of
    the backlog were still waiting at the end."""

    behind: float
    longest: float
    alone: float
    left: int


def measure(town: Town) -> Measured:
    """Pokes one after the other, each for a call that the carrier does not know."""
    with town.house.begin() as session:
        session.execute(text("DELETE FROM procrastinate_jobs WHERE status = 'todo'"))
    town.stack.start("worker")
    time.sleep(5)
    alone = [_poke(town) for _ in range(POKES)]
    with town.house.begin() as session:
        session.execute(
            text(
                "INSERT INTO procrastinate_jobs (queue_name, task_name, args) SELECT :queue, 'tell_fail_safe',"
                " CAST(:args AS jsonb) FROM generate_series(1, :count)"
            ),
            {"queue": jobs.QUEUE, "args": json.dumps({"number_id": 0}), "count": BACKLOG},
        )
    behind = [_poke(town) for _ in range(POKES)]
    with town.house.begin() as session:
        query = text("SELECT count(*) FROM procrastinate_jobs WHERE queue_name = :queue AND status = 'todo'")
        left = session.scalar(query, {"queue": jobs.QUEUE}) or 0
        session.execute(text("DELETE FROM procrastinate_jobs WHERE status = 'todo'"))
    return Measured(statistics.median(behind), max(behind), statistics.median(alone), left)


def _poke(town: Town) -> float:
    began = time.perf_counter()
    with town.house.begin() as session:
        jobs.defer(session, "poke", ref="nobody")
    while True:
        with town.house.begin() as session:
            if not session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'poke'")):
                return (time.perf_counter() - began) * 1000
        time.sleep(0.004)
