"""A draft heard by a real telephone: calls of test phones run on it for an hour and count nowhere; everybody else hears what is live."""

from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.flows import document, say, voicemail
from tests.wire import Wire
from tests.work.calls.test_live_calls import over
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.store.flows import CallFlow
from vokari.work.agency import clients
from vokari.work.agency.access import NotAllowed
from vokari.work.calls import history
from vokari.work.flows import by_telephone, drafts, open_drafts

TEST_PHONE, OTHER = "+14105550199", "+14105550188"


@pytest.fixture
def flow(world: World) -> CallFlow:
    """Live: “Good day”; the draft: “Ahoy”."""
    flow = world.flow(document(say("hello", "Good day", "vm"), voicemail(), rescue="vm", name="Line", mark="LN"))
    world.number("+14105550142", world.source("Leaflet"), flow)
    hello = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.by_id["hello"]
    other = hello.model_copy(update={"prompt": hello.prompt.model_copy(update={"say": "Ahoy"})})  # type: ignore[union-attr]
    drafts.edit(world.house, world.actor, world.client.id, flow.id, [SetStep(step=other)])
    clients.add_test_phone(world.house, world.actor, "410-555-0199", "Test", "US")
    return flow


def heard(world: World, ref: str, caller: str, minutes: int = 0) -> str:
    wire = Wire(world.house, ref, NOON + timedelta(minutes=minutes))
    (play,) = wire.arrive(caller=caller)
    following = wire("prompt_finished", 3, command=play["id"])
    assert following[0]["type"] == "play", "the call goes on after its first event"
    wire("caller_gone", 5)
    return str(play["words"])


def test_test_phones_hear_the_draft_and_nobody_else(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    assert heard(world, "a", TEST_PHONE) == "Good day"
    by_telephone.let(*args, hear=True)
    assert by_telephone.of_flow(*args).until == NOON + timedelta(hours=1)
    assert heard(world, "b", TEST_PHONE) == "Ahoy"
    assert heard(world, "c", OTHER) == "Good day"
    assert heard(world, "d", TEST_PHONE, minutes=61) == "Good day", "it ends by itself"
    line = next(one for one in over(world) if one.call.caller == TEST_PHONE and one.call.version_id is None)
    assert line.call.test
    page = history.one(world.house, world.actor, world.client.id, line.call.id)
    assert page.document.by_id["hello"].prompt.say == "Ahoy", "the page of the call shows what it ran on"  # type: ignore[union-attr]
    by_telephone.let(*args, hear=False)
    assert heard(world, "e", TEST_PHONE) == "Good day"


def test_an_edit_meanwhile_leaves_the_call_as_it_began(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    by_telephone.let(*args, hear=True)
    wire = Wire(world.house, "f")
    (play,) = wire.arrive(caller=TEST_PHONE)
    hello = open_drafts.opened(*args).document.by_id["hello"]
    drafts.edit(*args, [SetStep(step=hello.model_copy(update={"next": "end"}))])
    assert wire("prompt_finished", 3, command=play["id"])[0]["words"] == "Leave a message"


def test_who_may_let_them(world: World, flow: CallFlow) -> None:
    with pytest.raises(NotAllowed):
        by_telephone.let(world.house, world.actors["client_viewer"], world.client.id, flow.id, hear=True)
    with pytest.raises(NotAllowed):
        by_telephone.of_flow(world.house, world.actors["client_editor"], world.client.id, flow.id)
