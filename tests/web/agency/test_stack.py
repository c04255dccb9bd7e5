"""The page of the stack, and what Today says of it."""

from collections.abc import Callable

from sqlalchemy import text

from tests.conftest import NOON
from tests.flows import DANA
from tests.web.conftest import Browser
from tests.work.agency.test_stack import PLENTY, failed_job
from tests.world import World
from vokari.formats.call_control.records import CallRecord
from vokari.work.agency import stack
from vokari.work.calls import reconciling


def test_today_says_before_when_space_runs_short(world: World, sign_in: Callable[..., Browser]) -> None:
    run = stack.begin(world.house, "web", "one", 1, "", PLENTY)
    assert "Space runs short" not in sign_in("specialist").get("/").text
    stack.beat(world.house, run, 900_000_000)
    page = sign_in("specialist").get("/").text
    assert "Space runs short: 0.9 GB are free" in page
    assert "0.9 GB of space are free: events are refused when none is left" in sign_in("specialist").get("/stack").text


def test_the_page_of_the_stack_does_a_job_again(world: World, sign_in: Callable[..., Browser]) -> None:
    job = failed_job(world)
    browser = sign_in("specialist")
    page = browser.get("/stack").text
    assert "control, worker, web do not work." in page
    assert f'value="{job}"' in page
    assert browser.submit("/stack/jobs", {"job": str(job)}).status_code == 303
    answer = browser.submit("/stack/jobs", {"job": "999999"})
    assert (answer.status_code, "is done, or under way" in answer.text) == (409, True)


def test_the_page_of_a_call_that_did_not_reach_its_flow_says_what_became_of_it(
    world: World, sign_in: Callable[..., Browser]
) -> None:
    world.number("+14105550142", world.source("Sign"))
    record = {
        "number": 1,
        "call": "c-1",
        "called": "+14105550142",
        "at": NOON,
        "ended_at": NOON,
        "by": "carrier",
        "reached": False,
    }
    use = {"to": DANA, "outcome": "answered", "talk_seconds": 46}
    with world.house.begin() as session:
        carrier_id = session.scalar(text("SELECT id FROM carriers")) or 0
    call = reconciling.record(world.house, carrier_id, CallRecord.model_validate({**record, "fail_safe": use}))
    page = sign_in("client_viewer").get(f"/clients/{world.client.id}/calls/{call}")
    assert page.status_code == 200
    assert "picked up and talked for 0:46" in page.text
    assert "No step of the flow was met" in page.text
    listed = sign_in("client_viewer").get(f"/clients/{world.client.id}/calls?period=90")
    assert "did not reach the flow" in listed.text
    assert (
        ",did not reach the flow,"
        in sign_in("client_viewer").get(f"/clients/{world.client.id}/calls.csv?period=90").text
    )
