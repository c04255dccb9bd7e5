"""Rehearsals: what the person who is rung hears first, filled in as in a live call."""

from tests.conftest import NOON
from tests.flows import document, phone, ring, voicemail
from tests.world import World
from vokari.work.flows import rehearsals
from vokari.work.flows.open_rehearsals import OpenRehearsal

CALLED, CALLER = "+14105550142", "+14105550185"


def test_what_the_person_hears_first_is_filled_in_as_in_a_live_call(world: World) -> None:
    rings = ring("r", phone("Dana", "+14105550160"), no_answer="vm", hears={"words": "{client}: {source}, {caller}."})
    flow = world.flow(document(rings, voicemail(), rescue="vm", name="Line", mark="LN"), live=False)
    world.number(CALLED, world.source("Harbor sign"), flow)
    args = (world.house, world.actor, world.client.id, flow.id)
    for called, source in ((CALLED, "Harbor sign"), ("", "")):
        begun = rehearsals.begin(*args, called=called, caller=CALLER, at=NOON)
        assert isinstance(begun, OpenRehearsal)
        (leg,) = (one for one in begun.log[-1]["commands"] if one["type"] == "ring")
        assert leg["whisper"] == f"Brightwater Boatyard: {source}, 410-555-0185."
