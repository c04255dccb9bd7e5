"""The parts of the stack: their signs of life, what ended them, the jobs that failed or wait, and the space that is left."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from ...store.stack import PartRun
from ..house.house import House
from ..house.ports import CarrierRefuses
from ..house.problems import Row
from ..house.views import PartRunView
from .access import Actor, allow_agency, note

KEPT = timedelta(days=30)
SILENT_AFTER = timedelta(seconds=30)
SHORT_BYTES = 2_000_000_000
"""Below this much free space Today says so, before anything stops."""
SHOWN_JOBS = 200
PARTS = ("control", "worker", "web", "postgresql", "carrier")
"""The first three give signs of life of their own; of the others a supervisor on the same machine tells, if there is one."""


def begin(house: House, part: str, host: str, pid: int, why: str, free_bytes: int) -> int:
    """Writes down that a process of a part has started, and why; gives the run's id."""
    now = house.now()
    with house.begin() as session:
        session.execute(delete(PartRun).where(PartRun.started_at < now - KEPT, PartRun.beat_at < now - KEPT))
        run = PartRun(part=part, host=host, pid=pid, started_at=now, beat_at=now, why=why, free_bytes=free_bytes)
        session.add(run)
        session.flush()
        return run.id


def beat(house: House, run_id: int, free_bytes: int) -> None:
    """A sign of life of a process."""
    with house.begin() as session:
        session.execute(
            text("UPDATE part_runs SET beat_at = :now, free_bytes = :free WHERE id = :id"),
            {"now": house.now(), "free": free_bytes, "id": run_id},
        )


JobState = Literal["failed", "again", "doing"]


@dataclass(frozen=True, slots=True)
class Job:
    """A job that failed for good, waits for another try (at `at`), or is under way: the task, what it is about, and how many
    tries there were."""

    id: int
    state: JobState
    task: str
    about: str
    attempts: int
    at: datetime | None


@dataclass(frozen=True, slots=True)
class Part:
    """A part now: its latest process, whether it works, what is wrong where it does not, since when it runs, and the processes
    before it, the latest first."""

    name: str
    run: PartRunView | None
    alive: bool
    wrong: str
    since: datetime | None
    before: list[PartRunView]


@dataclass(frozen=True, slots=True)
class Stack:
    """The state of all parts, the waiting jobs by queue, and those that want a look."""

    parts: list[Part]
    waiting: dict[str, int]
    jobs: list[Job]
    free_bytes: int | None
    now: datetime


_JOBS = text(
    "SELECT id, task_name, args, attempts, scheduled_at, CASE WHEN status = 'failed' THEN 'failed' WHEN status = 'doing' THEN"
    " 'doing' ELSE 'again' END AS state FROM procrastinate_jobs WHERE status IN ('failed', 'doing') OR (status = 'todo' AND"
    " attempts > 0) ORDER BY status = 'failed' DESC, id DESC LIMIT :most"
)
_WAITING = text(
    "SELECT queue_name, count(*) FROM procrastinate_jobs WHERE status = 'todo' GROUP BY queue_name ORDER BY 1"
)
_RETRY = text(
    "UPDATE procrastinate_jobs SET status = 'todo', scheduled_at = NULL, attempts = 0, worker_id = NULL WHERE id = :job AND"
    " (status = 'failed' OR (status = 'todo' AND attempts > 0)) RETURNING task_name"
)


def opened(house: House, actor: Actor) -> Stack:
    """The state of the stack, for those who work for the whole agency."""
    allow_agency(actor)
    carrier = _carrier(house)
    now = house.now()
    with house.begin() as session:
        runs = session.scalars(select(PartRun).order_by(PartRun.started_at.desc()).limit(300)).all()
        database_since = session.scalar(text("SELECT pg_postmaster_start_time()"))
        found = []
        for name in PARTS:
            own = [run for run in runs if run.part == name]
            latest = own[0] if own else None
            since, wrong = latest.started_at if latest else None, ""
            if name == "postgresql":
                since = database_since
            elif name == "carrier":
                wrong = carrier
            elif latest is None or latest.beat_at <= now - SILENT_AFTER:
                wrong = "no sign of life"
            found.append(Part(name, PartRunView.maybe(latest), not wrong, wrong, since, PartRunView.all(own[1:8])))
        jobs = [
            Job(row.id, row.state, row.task_name, _about(row.args), row.attempts, row.scheduled_at)
            for row in session.execute(_JOBS, {"most": SHOWN_JOBS})
        ]
        waiting = {row[0]: row[1] for row in session.execute(_WAITING)}
        return Stack(found, waiting, jobs, free_bytes(session, now), now)


def _carrier(house: House) -> str:
    """Empty when the carrier answers, else what it said."""
    try:
        house.carrier.standing([])
    except CarrierRefuses as refusal:
        return refusal.sentence
    return ""


_FREE = text("SELECT min(free_bytes) FROM part_runs WHERE beat_at > :since")


def _about(args: Row) -> str:
    """What a job is about: the ids it names, and nothing of what it says or to whom."""
    ids = {name: value for name, value in args.items() if isinstance(value, int) and name != "timestamp"}
    return ", ".join(f"{name.removesuffix('_id').replace('_', ' ')} {value}" for name, value in ids.items())


def free_bytes(session: Session, now: datetime) -> int | None:
    """The least space that any part found free with its latest sign of life; None when none gave one lately."""
    found: Any = session.scalar(_FREE, {"since": now - 4 * SILENT_AFTER})
    return None if found is None else int(found)


def retry(house: House, actor: Actor, job_id: int) -> str:
    """Has a job that failed, or that waits for another try, done now; gives its task, empty when there is no such job."""
    allow_agency(actor)
    with house.begin() as session:
        task = session.scalar(_RETRY, {"job": job_id})
        if task is None:
            return ""
        note(session, house, actor, None, f"had the job {task} done again")
        return str(task)
