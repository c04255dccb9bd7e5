"""Flows removed and brought back; never one that a number uses."""

import pytest

from tests.flows import document, ring, voicemail
from tests.world import World, main_line
from vokari.work.agency import search
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import history
from vokari.work.flows import client_flows, open_drafts, removing
from vokari.work.house.views import CallFlowView


def names(world: World) -> list[str]:
    return [flow.name for flow, _, _ in client_flows.listed(world.house, world.actor, world.client.id)]


def test_a_flow_that_a_number_uses_stays_and_any_other_goes_and_comes_back(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    used, spare = (
        world.flow(main_line(), sources={"ls_bus": "Bus"}),
        world.flow(
            document(ring("r", no_answer="vm"), voicemail(), rescue="vm", name="Spare line", mark="SP"), live=False
        ),
    )
    world.number("+14105550142", world.source("Sign"), used)
    assert "410-555-0142 uses Main line" in removing.remove(*args, used.id)[0].sentence
    assert removing.remove(*args, spare.id) == []
    assert names(world) == ["Main line"]
    assert [one.name for one in removing.removed(*args)] == ["Spare line"]
    with pytest.raises(NotFound):
        open_drafts.opened(*args, spare.id)
    with pytest.raises(NotFound):
        removing.remove(*args, spare.id)
    assert "Spare line" not in str(search.find(world.house, world.actor, "Spare"))
    assert [one.name for one in history.choices(*args)["flows"]] == ["Main line"]
    assert removing.bring_back(*args, spare.id) == []
    assert names(world) == ["Main line", "Spare line"]
    assert removing.removed(*args) == []


def test_a_name_that_is_taken_meanwhile_keeps_the_removed_flow_away(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    assert removing.remove(*args, flow.id) == []
    assert isinstance(client_flows.create(*args, "Main line", ""), CallFlowView), "its name is free"
    assert "has this name now" in removing.bring_back(*args, flow.id)[0].sentence


@pytest.mark.parametrize("role", ["client_viewer", "client_editor"])
def test_only_whoever_works_for_the_client_removes_flows(world: World, role: str) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    args = (world.house, world.actors[role], world.client.id)
    for refused in (removing.remove, removing.bring_back):
        with pytest.raises(NotAllowed):
            refused(*args, flow.id)
    with pytest.raises(NotAllowed):
        removing.removed(*args)
