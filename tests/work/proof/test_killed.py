"""A worker that is killed in the middle of a walk: the walk starts again, and nothing that was proven before is taken for the draft."""

import os
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator

import pytest
from sqlalchemy import text

from tests.flows import asks, document, voicemail
from tests.test_crew import until
from tests.work.proof.test_proving import prove
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.values import Prompt
from vokari.local.cluster import free_port
from vokari.settings import Settings
from vokari.work.flows import drafts, open_drafts, versions
from vokari.work.proof import proving

Start = Callable[[], "subprocess.Popen[bytes]"]


@pytest.fixture
def start(settings: Settings) -> Iterator[Start]:
    """Starts workers of the test's database; all of them are ended with it."""
    told = {
        "VOKARI_DATABASE_URL": settings.database_url, "VOKARI_DATA": str(settings.data), "VOKARI_PG_PORT": str(settings.pg_port),
        "VOKARI_CARRIER_PORT": str(free_port()), "VOKARI_CONTROL_PORT": str(free_port()),
    }  # fmt: skip
    begun: list[subprocess.Popen[bytes]] = []

    def begin() -> "subprocess.Popen[bytes]":
        words = [sys.executable, "-m", "vokari.cli", "worker"]
        begun.append(subprocess.Popen(words, env={**os.environ, **told}, start_new_session=True))
        return begun[-1]

    yield begin
    for one in begun:
        one.kill()
        one.wait(30)


def under_way(world: World) -> bool:
    """Whether a worker is walking."""
    query = "SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'prove_flow' AND status = 'doing'"
    with world.house.begin() as session:
        return bool(session.scalar(text(query)))


def test_a_walk_that_was_cut_off_starts_again_and_nothing_stale_is_called_proven(world: World, start: Start) -> None:
    flow = world.flow(document(*asks("a", 10, "b0"), *asks("b", 10, "vm"), voicemail(), rescue="vm"), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    proving.shown(*args)
    prove(world)
    assert proving.shown(*args).current
    said = open_drafts.opened(*args).document.by_id["as0"]
    other = said.model_copy(update={"prompt": Prompt(say="Good day")})
    assert not isinstance(drafts.edit(*args, [SetStep(step=other)]), list)
    assert not proving.shown(*args).current

    killed = start()
    until(lambda: under_way(world))
    os.killpg(killed.pid, signal.SIGKILL)
    killed.wait(30)
    assert under_way(world), "it was killed before it had kept anything"
    assert not proving.shown(*args).current
    assert "not_proven" in {one.kind for one in versions.asks(*args)}

    start()
    until(lambda: proving.shown(*args).current, seconds=120)
    assert not under_way(world)
    assert "not_proven" not in {one.kind for one in versions.asks(*args)}
