"""The cover of what is live: shown as it is kept, asked for where it is missing, in nobody's way."""

from concurrent.futures import ThreadPoolExecutor

from tests.work.proof.test_nightly import lossy, night
from tests.work.proof.test_proving import opening
from tests.world import World
from vokari.work.flows.open_drafts import own_flow
from vokari.work.proof import covering, nightly

__all__ = ["opening"]


def test_a_cover_that_is_missing_is_asked_for_once_and_shown_once_it_is_there(world: World, opening: str) -> None:
    flow = lossy(world, opening)
    args = (world.house, world.actor, world.client.id)
    world.jobs("prove_live")
    (missing,) = covering.of_client(*args).flows
    assert (missing.flow.id, missing.cover, missing.current) == (flow.id, None, False)
    covering.of_client(*args)
    assert [job["flow_id"] for job in world.jobs("prove_live")] == [flow.id]
    nightly.prove(world.house, flow.id)
    (there,) = covering.of_client(*args).flows
    assert there.cover
    assert there.current
    assert world.jobs("prove_live") == []
    assert night(world) == []


def test_a_cover_is_asked_for_while_the_flow_is_held_by_somebody_who_keeps_its_proof(
    world: World, opening: str
) -> None:
    flow = lossy(world, opening)
    args = (world.house, world.actor, world.client.id)
    with ThreadPoolExecutor(1) as pool:
        with world.house.begin() as session:
            held = own_flow(session, world.client.id, flow.id, lock=True)
            shown = pool.submit(covering.of_client, *args)
            assert shown.result(5).flows[0].flow.id == flow.id
            nightly.ask(session, held, world.house.now())
        assert covering.of_client(*args).flows[0].made_at is None
