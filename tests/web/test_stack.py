"""The page of the stack, and what Today says of it."""

from collections.abc import Callable

from tests.web.conftest import Browser
from tests.work.test_parts import PLENTY, failed_job
from tests.world import World
from vokari.work import parts


def test_today_says_before_when_space_runs_short(world: World, sign_in: Callable[..., Browser]) -> None:
    run = parts.begin(world.house, "web", "one", 1, "", PLENTY)
    assert "Space runs short" not in sign_in("specialist").get("/").text
    parts.beat(world.house, run, 900_000_000)
    page = sign_in("specialist").get("/").text
    assert "Space runs short: 0.9 GB are free" in page
    assert "0.9 GB of space are free: events are refused when none is left" in sign_in("specialist").get("/stack").text


def test_the_page_of_the_stack_does_a_job_again(world: World, sign_in: Callable[..., Browser]) -> None:
    job = failed_job(world)
    browser = sign_in("specialist")
    page = browser.get("/stack").text
    assert "control, worker, web give no sign of life." in page
    assert f'value="{job}"' in page
    assert browser.submit("/stack/jobs", {"job": str(job)}).status_code == 303
    answer = browser.submit("/stack/jobs", {"job": "999999"})
    assert (answer.status_code, "is done, or under way" in answer.text) == (409, True)
