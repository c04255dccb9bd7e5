"""Background work: the tasks that use cases defer, and what is done by the clock."""

import structlog
from procrastinate import App, PsycopgConnector, RetryStrategy

from .settings import from_environment
from .wiring import build
from .work import (
    asking,
    failsafes,
    holding,
    maintenance,
    messages,
    notifying,
    orders,
    porting,
    resting,
    speech,
    verifying,
)
from .work.house import House

log = structlog.get_logger()


def create(house: House, database_url: str) -> App:
    """The worker's tasks over a house. Each is safe to run twice."""
    app = App(connector=PsycopgConnector(conninfo=database_url.replace("+psycopg", "")))
    again = RetryStrategy(max_attempts=8, exponential_wait=2)

    @app.task(name="make_speech", retry=again)
    def make_speech(words: str, language: str) -> None:
        speech.sound(house, words, language)

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
        failsafes.tell_all(house, client_id)

    @app.task(name="tell_fail_safe", retry=again)
    def tell_fail_safe(number_id: int) -> None:
        failsafes.tell(house, number_id)

    @app.task(name="look_up")
    def look_up(look_up_id: int) -> None:
        asking.run(house, look_up_id)

    @app.task(name="send_notice", retry=again)
    def send_notice(by: str, to: str, subject: str, words: str, key: str) -> None:
        notifying.send(house, by, to, subject, words, key)

    @app.task(name="poke", retry=RetryStrategy(max_attempts=3, wait=1))
    def poke(ref: str) -> None:
        holding.poke(house, ref)

    @app.task(name="take_order", retry=again)
    def take_order(order_id: int) -> None:
        orders.run(house, order_id)

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
        if ringing:
            log.info("verification calls under way", count=ringing, at=timestamp)

    @app.periodic(cron="17 * * * *")
    @app.task(name="release_rested")
    def release_rested(timestamp: int) -> None:
        released = resting.release_due(house)
        if released:
            log.info("numbers released after their rest", count=released, at=timestamp)

    @app.periodic(cron="*/10 * * * *")
    @app.task(name="close_abandoned")
    def close_abandoned(timestamp: int) -> None:
        closed = maintenance.close_abandoned(house)
        if closed:
            log.warning("calls without a carrier closed", count=closed, at=timestamp)

    @app.periodic(cron="7 3 * * *")
    @app.task(name="make_months")
    def make_months(timestamp: int) -> None:
        maintenance.make_months(house)

    return app


def run() -> None:
    """Works until it is told to stop."""
    settings = from_environment()
    app = create(build(settings, pool=8), settings.database_url)
    with app.open():
        app.run_worker(concurrency=6, install_signal_handlers=True)
