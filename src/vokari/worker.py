"""Background work: the tasks that use cases defer, and what is done by the clock."""

import asyncio
import contextlib
import signal
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import structlog
from procrastinate import App, PsycopgConnector, RetryStrategy

from .core.prompts.voices import Voice
from .memory import settle
from .pulse import Pulse
from .settings import Settings, from_environment
from .wiring import build
from .work.calls import asking, exports, messages, notifying, reconciling
from .work.flows import comparing, versions
from .work.holding import turns
from .work.house import due, maintenance
from .work.house.house import House
from .work.house.jobs import CALLS, QUEUE, QUEUES
from .work.numbers import fail_safes, orders, porting, resting
from .work.people import verifying
from .work.prompts import by_telephone, speech, takes
from .work.proof import changing, nightly, proposing, proving

log = structlog.get_logger()

DUE = {versions.PUT_LIVE: versions.go_live_as_planned}
"""What carries out each kind of planned change."""


def create(house: House, database_url: str) -> App:
    """The worker's tasks over a house. Each is safe to run twice."""
    connector = PsycopgConnector(conninfo=database_url.replace("+psycopg", ""), min_size=4, max_size=24)
    app = App(connector=connector)
    again = RetryStrategy(max_attempts=8, exponential_wait=2)

    @app.task(name="make_speech", retry=again)
    def make_speech(words: str, language: str, voice: str = "{}", country: str = "US") -> None:
        speech.sound(house, words, language, Voice.model_validate_json(voice), country)

    @app.task(name="make_take", queue=QUEUES["make_take"], retry=RetryStrategy(max_attempts=3, wait=2))
    def make_take(take_id: int) -> None:
        takes.make(house, take_id)

    @app.task(name="fetch_take", retry=again)
    def fetch_take(take_id: int, recording: str) -> None:
        by_telephone.fetch(house, take_id, recording)

    @app.task(name="prove_flow", queue=QUEUES["prove_flow"], retry=RetryStrategy(max_attempts=3, wait=2))
    def prove_flow(flow_id: int, revision: int) -> None:
        proving.prove(house, flow_id, revision)

    @app.task(
        name="propose_rehearsals", queue=QUEUES["propose_rehearsals"], retry=RetryStrategy(max_attempts=2, wait=2)
    )
    def propose_rehearsals(flow_id: int, revision: int) -> None:
        proposing.propose(house, flow_id, revision)

    @app.task(name="tell_changes", queue=QUEUES["tell_changes"], retry=RetryStrategy(max_attempts=2, wait=2))
    def tell_changes(flow_id: int, what: str, of: str) -> None:
        changing.tell(house, flow_id, what, of)

    @app.periodic(cron="7 1 * * *")
    @app.task(name="prove_all_live")
    def prove_all_live(timestamp: int) -> None:
        log.info("live flows to be proven", count=nightly.begin(house), at=timestamp)

    @app.task(name=nightly.NIGHT, queue=QUEUES[nightly.NIGHT], retry=RetryStrategy(max_attempts=3, wait=2))
    def prove_live(flow_id: int) -> None:
        nightly.prove(house, flow_id)

    @app.periodic(cron="* * * * *")
    @app.task(name="tell_of_live")
    def tell_of_live(timestamp: int) -> None:
        again, told = nightly.look_again(house), nightly.tell(house)
        if again or told:
            log.info("findings of what is live", looked_at_again=again, told=told, at=timestamp)

    @app.periodic(cron="* * * * *")
    @app.task(name="follow_take_calls")
    def follow_take_calls(timestamp: int) -> None:
        ringing = by_telephone.follow_up(house)
        if ringing:
            log.info("phones that ring for a take", count=ringing, at=timestamp)

    @app.periodic(cron="*/5 * * * *")
    @app.task(name="give_up_takes")
    def give_up_takes(timestamp: int) -> None:
        given_up = takes.give_up(house)
        if given_up:
            log.warning("recordings given up that could not be read", count=given_up, at=timestamp)

    @app.task(name="fetch_message", retry=again)
    def fetch_message(message_id: int) -> None:
        messages.fetch(house, "message", message_id)

    @app.task(name="fetch_recording", retry=again)
    def fetch_recording(recording_id: int) -> None:
        messages.fetch(house, "talk", recording_id)

    @app.task(name="tell_of_message", retry=again)
    def tell_of_message(message_id: int) -> None:
        messages.tell(house, message_id)

    @app.task(name="tell_fail_safes", retry=again)
    def tell_fail_safes(client_id: int) -> None:
        fail_safes.tell_all(house, client_id)

    @app.task(name="tell_fail_safe", retry=again)
    def tell_fail_safe(number_id: int) -> None:
        fail_safes.tell(house, number_id)

    @app.task(name="look_up", queue=QUEUES["look_up"])
    def look_up(look_up_id: int) -> None:
        asking.run(house, look_up_id)

    @app.task(name="send_notice", retry=again)
    def send_notice(by: str, to: str, subject: str, words: str, key: str) -> None:
        notifying.send(house, by, to, subject, words, key)

    @app.task(name="poke", queue=QUEUES["poke"], retry=RetryStrategy(max_attempts=3, wait=1))
    def poke(ref: str) -> None:
        turns.poke(house, ref)

    @app.task(name="take_order", retry=again)
    def take_order(order_id: int) -> None:
        orders.run(house, order_id)

    @app.task(name="make_export", retry=RetryStrategy(max_attempts=3, wait=5))
    def make_export(export_id: int) -> None:
        exports.make(house, export_id)

    @app.periodic(cron="41 3 * * *")
    @app.task(name="forget_exports")
    def forget_exports(timestamp: int) -> None:
        forgotten = exports.forget_old(house)
        if forgotten:
            log.info("exports forgotten", count=forgotten, at=timestamp)

    @app.periodic(cron="* * * * *")
    @app.task(name="follow_ports")
    def follow_ports(timestamp: int) -> None:
        open_ports = porting.follow_all(house)
        if open_ports:
            log.info("ports followed", count=open_ports, at=timestamp)

    @app.periodic(cron="* * * * *")
    @app.task(name="follow_verifications")
    def follow_verifications(timestamp: int) -> None:
        ringing = verifying.follow(house)
        for client_id in verifying.waiting_clients(house):
            verifying.ring_next(house, client_id)
        if ringing:
            log.info("verification calls under way", count=ringing, at=timestamp)

    @app.task(name="verify_next", retry=again)
    def verify_next(client_id: int) -> None:
        verifying.ring_on(house, client_id)

    @app.periodic(cron="* * * * *")
    @app.task(name="carry_out_all_due")
    def carry_out_all_due(timestamp: int) -> None:
        due.carry_out(house, DUE)

    @app.task(name="carry_out_due", retry=again)
    def carry_out_due() -> None:
        due.carry_out(house, DUE)

    @app.periodic(cron="*/10 * * * *")
    @app.task(name="watch_versions")
    def watch_versions(timestamp: int) -> None:
        worse = comparing.watch(house)
        if worse:
            log.info("live versions that lose more callers", count=worse, at=timestamp)

    @app.periodic(cron="17 * * * *")
    @app.task(name="release_rested")
    def release_rested(timestamp: int) -> None:
        released = resting.release_due(house)
        if released:
            log.info("numbers released after their rest", count=released, at=timestamp)

    @app.periodic(cron="* * * * *")
    @app.task(name="follow_calls", queue=CALLS, queueing_lock="follow_calls")
    def follow_calls(timestamp: int) -> None:
        reconciling.follow(house)
        given_up = asking.give_up(house)
        if given_up:
            log.warning("look-ups given up whose callers had gone", count=given_up, at=timestamp)

    @app.periodic(cron="23 2 * * *")
    @app.task(name="reconcile_calls", retry=again)
    def reconcile_calls(timestamp: int) -> None:
        yesterday = (datetime.fromtimestamp(timestamp, UTC) - timedelta(days=1)).date()
        found = reconciling.reconcile(house, yesterday)
        log.info("calls compared with the carrier’s list", day=yesterday.isoformat(), differences=found)

    @app.periodic(cron="*/10 * * * *")
    @app.task(name="close_abandoned")
    def close_abandoned(timestamp: int) -> None:
        closed = reconciling.close_abandoned(house)
        if closed:
            log.warning("calls without a carrier closed", count=closed, at=timestamp)

    @app.periodic(cron="7 3 * * *")
    @app.task(name="make_months")
    def make_months(timestamp: int) -> None:
        maintenance.make_months(house)

    return app


LANES: dict[str, int] = {"pokes": 4, "look_ups": 10, CALLS: 1, "takes": 2, "proofs": 1, "nights": 1, QUEUE: 6}
"""How many jobs of each queue are done at once. What a caller waits for has workers of its own, so that it never stands
behind anything else."""
BEAT, STALLED_AFTER, LOOK_EVERY = 5.0, 15.0, 5.0
"""Seconds between the signs of life of a worker, after which its jobs are taken up again, and between two looks for such."""
LONGEST_PAUSE = 15.0
POLL = dict.fromkeys(QUEUES.values(), 0.5)
"""Seconds after which a queue is looked at though nobody told of a job: what a caller waits for may not depend on one notice."""


async def lanes(app: App) -> None:
    """Works in all queues at once until it is cancelled or the database goes away."""
    loop = asyncio.get_running_loop()
    loop.set_default_executor(ThreadPoolExecutor(sum(LANES.values()) + 4))
    async with app.open_async(), asyncio.TaskGroup() as group:
        for queue, concurrency in LANES.items():
            group.create_task(_lane(app, queue, concurrency), name=queue)
        group.create_task(_take_up_stalled(app), name="stalled jobs")


async def _lane(app: App, queue: str, concurrency: int) -> None:
    await app.run_worker_async(
        queues=[queue], name=queue, concurrency=concurrency, install_signal_handlers=False, delete_jobs="successful",
        update_heartbeat_interval=BEAT, stalled_worker_timeout=STALLED_AFTER, fetch_job_polling_interval=POLL.get(queue, 2.0),
    )  # fmt: skip
    raise ConnectionError(f"the worker of the queue {queue} has stopped")


async def _take_up_stalled(app: App) -> None:
    """Jobs of a worker that died go back into their queues. Each is done at least once; its effect has a key."""
    while True:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
            log.warning("a job of a worker that died is taken up again", job=job.id, task=job.task_name)
            await app.job_manager.retry_job(job)
        await asyncio.sleep(LOOK_EVERY)


async def work(settings: Settings, pulse: Pulse) -> None:
    """Works until it is cancelled; outlives the database's going away."""
    house = build(settings, pool=sum(LANES.values()))
    speech.warm(house)
    settle()
    pause = 0.5
    beating = asyncio.create_task(pulse.run(house))
    try:
        while True:
            since = time.monotonic()
            try:
                await asyncio.to_thread(maintenance.make_months, house)
                await lanes(create(house, settings.database_url))
            except Exception as error:
                if time.monotonic() - since > LONGEST_PAUSE:
                    pause = 0.5
                log.warning("the worker begins anew", because=repr(error), after=pause)
            await asyncio.sleep(pause)
            pause = min(LONGEST_PAUSE, pause * 2)
    finally:
        beating.cancel()


def run() -> None:
    """Works until it is told to stop; jobs under way are finished first."""
    settings = from_environment()

    async def main() -> None:
        task = asyncio.current_task()
        assert task is not None
        for one in (signal.SIGTERM, signal.SIGINT):
            asyncio.get_running_loop().add_signal_handler(one, task.cancel)
        with contextlib.suppress(asyncio.CancelledError):
            await work(settings, Pulse("worker", settings.data))

    asyncio.run(main())
