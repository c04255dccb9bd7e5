"""The state of the stack: signs of life, jobs that failed or wait, space that runs short; and how the worker works."""

import asyncio
import threading
from collections.abc import Callable
from datetime import timedelta

import pytest
from sqlalchemy import text

from tests.conftest import StandingClock
from tests.world import World
from vokari import worker
from vokari.settings import Settings
from vokari.store.calls import CallDifference
from vokari.work.agency import stack, today
from vokari.work.agency.access import NotAllowed
from vokari.work.calls import asking
from vokari.work.holding import turns
from vokari.work.house import jobs
from vokari.work.numbers import fail_safes

PLENTY = 50_000_000_000


def test_a_part_is_known_by_its_latest_process_and_what_ended_the_one_before(
    world: World, clock: StandingClock
) -> None:
    first = stack.begin(world.house, "control", "one", 11, "", PLENTY)
    clock.move(seconds=20)
    stack.beat(world.house, first, PLENTY)
    clock.move(minutes=3)
    stack.begin(world.house, "control", "one", 12, "it was killed by SIGKILL", PLENTY)
    found = {part.name: part for part in stack.opened(world.house, world.actor).parts}
    control = found["control"]
    assert control.run is not None
    assert (control.run.pid, control.run.why, control.alive) == (12, "it was killed by SIGKILL", True)
    assert [one.pid for one in control.before] == [11]
    assert control.before[0].beat_at - control.before[0].started_at == timedelta(seconds=20)
    assert (found["worker"].run, found["worker"].alive) == (None, False)
    clock.move(minutes=2)
    assert not stack.opened(world.house, world.actor).parts[0].alive


def failed_job(world: World, task: str = "send_notice", status: str = "failed") -> int:
    with world.house.begin() as session:
        query = (
            "INSERT INTO procrastinate_jobs (queue_name, task_name, args, status, attempts) VALUES ('default', :task,"
            ' \'{"message_id": 7, "words": "secret"}\', CAST(:status AS procrastinate_job_status), 8) RETURNING id'
        )
        return int(session.scalar(text(query), {"task": task, "status": status}) or 0)


def test_failed_and_waiting_jobs_are_listed_without_what_they_say_and_done_again(world: World) -> None:
    failed, waits, running = failed_job(world), failed_job(world, status="todo"), failed_job(world, status="doing")
    found = {one.id: one for one in stack.opened(world.house, world.actor).jobs}
    assert [found[one].state for one in (failed, waits, running)] == ["failed", "again", "doing"]
    assert (found[failed].about, found[failed].attempts) == ("message 7", 8)
    assert stack.retry(world.house, world.actor, failed) == "send_notice"
    assert stack.retry(world.house, world.actor, running) == ""
    assert stack.retry(world.house, world.actor, 10**9) == ""
    with world.house.begin() as session:
        row = session.execute(
            text("SELECT status, attempts FROM procrastinate_jobs WHERE id = :id"), {"id": failed}
        ).one()
    assert tuple(row) == ("todo", 0)


@pytest.mark.parametrize("role", ["client_editor", "client_viewer"])
def test_only_who_works_for_the_agency_sees_the_stack(world: World, role: str) -> None:
    for refused in (stack.opened, lambda house, actor: stack.retry(house, actor, 1), today.short_of_space):
        with pytest.raises(NotAllowed):
            refused(world.house, world.actors[role])


def test_differences_with_the_carriers_list_stand_on_today(world: World) -> None:
    ids = {"agency_id": world.agency_id, "client_id": world.client.id, "carrier_id": 1, "at": world.house.now()}
    day = world.house.now().date()
    with world.house.begin() as session:
        session.add_all(
            CallDifference(**ids, ref=f"r{n}", day=day, kind=kind)
            for n, kind in enumerate(["missing_here"] * 2 + ["missing_there"])
        )
    found = [one.sentence for one in today.needs(world.house, world.actor) if one.kind == "differences"]
    assert sorted(found) == [
        "2 calls of Nov 24 stood in the carrier’s list and not here: written down since.",
        "One call of Nov 24 is not in the carrier’s list.",
    ]


# the worker


def works_until(
    world: World, settings: Settings, done: Callable[[], bool], release: threading.Event | None = None
) -> None:
    """Lets a worker work until something holds; then `release` lets go of what it is at."""

    async def run() -> bool:
        lanes = asyncio.create_task(worker.lanes(worker.create(world.house, settings.database_url)))
        held = False
        for _ in range(400):
            await asyncio.sleep(0.05)
            held = done()
            if held or lanes.done():
                break
        if release is not None:
            release.set()
        lanes.cancel()
        await asyncio.gather(lanes, return_exceptions=True)
        return held

    assert asyncio.run(run())


def test_pokes_and_look_ups_wait_behind_nothing_and_as_many_jobs_run_as_configured(
    world: World, settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The usual queue is full of jobs that never end, and so are the look-ups; pokes are done all the same."""
    release, poked = threading.Event(), []
    running = {"default": threading.Semaphore(0), "look_ups": threading.Semaphore(0)}

    def slow(queue: str) -> Callable[..., None]:
        def wait(*_: object) -> None:
            running[queue].release()
            release.wait(20)

        return wait

    monkeypatch.setattr(fail_safes, "tell", slow("default"))
    monkeypatch.setattr(asking, "run", slow("look_ups"))
    monkeypatch.setattr(turns, "poke", lambda _, ref: poked.append(ref))
    with world.house.begin() as session:
        for number in range(200):
            jobs.defer(session, "tell_fail_safe", number_id=number)
        for number in range(30):
            jobs.defer(session, "look_up", look_up_id=number)
        jobs.defer(session, "poke", ref="c-1")

    def all_at_once() -> bool:
        return poked == ["c-1"] and all(running[queue]._value == worker.LANES[queue] for queue in running)

    works_until(world, settings, all_at_once, release)


def test_jobs_of_a_worker_that_died_are_taken_up_again(
    world: World, settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    done: list[int] = []
    monkeypatch.setattr(fail_safes, "tell", lambda _, number_id: done.append(number_id))
    monkeypatch.setattr(worker, "LOOK_EVERY", 0.1)
    with world.house.begin() as session:
        dead = session.scalar(text(
            "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '40 seconds') RETURNING id"
        ))  # fmt: skip
        session.execute(
            text(
                "INSERT INTO procrastinate_jobs (queue_name, task_name, args, status, worker_id)"
                " VALUES ('default', 'tell_fail_safe', '{\"number_id\": 5}', 'doing', :worker)"
            ),
            {"worker": dead},
        )

    def finished() -> bool:
        with world.house.begin() as session:
            return done == [5] and session.scalar(text("SELECT count(*) FROM procrastinate_jobs")) == 0

    works_until(world, settings, finished)
