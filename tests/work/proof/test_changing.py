"""What changes for callers, asked for by pages, worked out once: between versions and the draft, and by a saved change of hours."""

import pytest

from tests.hours import week
from tests.work.proof.test_proving import SURE, edited, line, prove
from tests.work.proof.test_proving import opening as opening
from tests.world import World
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.flows import versions
from vokari.work.hours import sets
from vokari.work.house.views import FlowVersionView
from vokari.work.proof import changing


def work(world: World) -> None:
    """What the worker does."""
    for job in world.jobs("tell_changes"):
        changing.tell(world.house, job["flow_id"], job["what"], job["of"])


def sentences(told: changing.Told) -> list[str]:
    assert told.document is not None
    assert told.document["unwalked"] == []
    return [one["sentence"] for one in told.document["changes"]]


def test_a_draft_is_told_against_what_is_live(world: World, opening: str) -> None:
    flow = world.flow(line(opening, "desk"), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    prove(world)
    live = versions.put_live(*args, going=SURE)
    assert isinstance(live, FlowVersionView)
    what = changing.of_versions(live.id, changing.DRAFT)
    assert changing.told(*args, what) == changing.Told(False, None)
    (job,) = world.jobs("tell_changes")
    changing.told(*args, what)
    assert world.jobs("tell_changes") == [], "asked for once"
    changing.tell(world.house, job["flow_id"], job["what"], job["of"])
    told = changing.told(*args, what)
    assert told.current
    assert sentences(told) == []


def test_what_an_edit_changes_is_told_once_it_is_worked_out(world: World, opening: str) -> None:
    flow = world.flow(line(opening))
    args = (world.house, world.actor, world.client.id, flow.id)
    live = versions.listed(*args)[1][0].version
    edited(world, flow)
    what = changing.of_versions(live.id, changing.DRAFT)
    changing.told(*args, what)
    work(world)
    (said,) = sentences(changing.told(*args, what))
    assert "now goes to" in said or "now says" in said
    assert "before, it ends the call" in said


def test_a_change_of_hours_is_told_across_the_flows_it_touches(world: World, opening: str) -> None:
    flow = world.flow(line(opening, "vm"))
    args = (world.house, world.actor, world.client.id)
    hours = sets.listed(*args)[1][0].set
    sets.set_week(*args, hours.id, [("open", "Open")], week(open="Mon-Fri 9-17; Sat 6.30-9"), None)
    touched = changing.touched(*args, "hours", hours.id)
    assert [one.id for one in touched.flows] == [flow.id]
    changing.told(*args, flow.id, touched.what)
    work(world)
    (said,) = sentences(changing.told(*args, flow.id, touched.what))
    assert said.startswith("Sat 06:30-09:00, the flow now rings")
    assert "before, it goes to" in said


def test_who_may_ask_and_for_what(world: World, opening: str) -> None:
    flow = world.flow(line(opening))
    args = (world.house, world.actor, world.client.id, flow.id)
    for what in ("1:2:3:4", "x:1", "hours:99:1", "people:1:1", "999:0", ""):
        with pytest.raises(NotFound):
            changing.told(*args, what)
    with pytest.raises(NotFound):
        changing.touched(*args[:3], "team", 1)
    with pytest.raises(NotAllowed):
        changing.told(world.house, world.actors["client_viewer"], world.client.id, flow.id, "1:0")
    with pytest.raises(NotAllowed):
        changing.touched(world.house, world.actors["client_editor"], world.client.id, "hours", 1)
