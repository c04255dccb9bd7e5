"""A lost caller who was rung back, told by hand, leaves Today and the list, until they are lost again."""

from datetime import timedelta

import pytest

from tests import history as past
from tests.conftest import NOON, StandingClock
from tests.flows import document, phone, ring, voicemail
from tests.wire import Wire
from tests.world import World, make_world
from vokari.work.agency import today
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import calling_back, history
from vokari.work.calls.history import CallFilter
from vokari.work.house.views import CallView

CALLER, OTHER = "+14105550185", "+14105550186"


@pytest.fixture
def lost(world: World) -> World:
    """Two calls of one lost caller, one of another, and one that was answered."""
    number = world.number("+14105550142", world.source("Search advert"))
    calls = [
        past.row(world, NOON - timedelta(hours=hours), number.id, caller=caller, fate=fate, reason="menu" if fate == "lost" else "")
        for hours, caller, fate in ((3, CALLER, "lost"), (2, CALLER, "lost"), (1, OTHER, "lost"), (4, OTHER, "answered"))
    ]  # fmt: skip
    past.write(world, calls)
    return world


def waiting(world: World) -> list[str]:
    found = history.log(world.house, world.actor, world.client.id, CallFilter(waiting=True))
    return [line.call.caller for line in found]


def call_of(world: World, caller: str, fate: str = "lost") -> CallView:
    return history.log(world.house, world.actor, world.client.id, CallFilter(caller=caller, fate=fate))[0].call


def test_who_was_rung_back_leaves_today_and_can_be_put_back(lost: World, clock: StandingClock) -> None:
    args = (lost.house, lost.actors["client_editor"], lost.client.id)
    assert waiting(lost) == [OTHER, CALLER, CALLER]
    call = call_of(lost, CALLER)
    assert history.one(*args, call.id).back.waits
    assert calling_back.done(*args, call.id) == []
    assert waiting(lost) == [OTHER]
    back = history.one(*args, call.id).back
    assert (back.waits, back.by, back.at) == (False, "Client_Editor", clock.now())
    assert calling_back.done(*args, call_of(lost, OTHER).id) == []
    assert "lost" not in {need.kind for need in today.needs(lost.house, lost.actor)}
    calling_back.undone(*args, call.id)
    assert waiting(lost) == [CALLER, CALLER]
    clock.move(minutes=5)
    assert calling_back.done(*args, call.id) == []
    clock.move(minutes=5)
    past.write(lost, [past.row(lost, clock.now(), call.number_id, caller=CALLER, fate="lost", reason="menu")])
    assert waiting(lost) == [CALLER], "lost again, after somebody rang back"


def test_only_a_lost_call_of_the_client_is_marked_and_by_whom_may(lost: World) -> None:
    args = (lost.house, lost.actor, lost.client.id)
    answered = call_of(lost, OTHER, fate="answered")
    assert "Only a lost caller" in calling_back.done(*args, answered.id)[0].sentence
    call = call_of(lost, CALLER)
    other = make_world(lost.house, "Other agency", "other.example.com")
    for do in (calling_back.done, calling_back.undone):
        with pytest.raises(NotAllowed):
            do(lost.house, lost.actors["client_viewer"], lost.client.id, call.id)
        with pytest.raises(NotFound):
            do(lost.house, other.actor, lost.client.id, call.id)
        with pytest.raises(NotFound):
            do(lost.house, other.actor, other.client.id, call.id)


def test_what_an_answering_service_took_stays_open_until_somebody_dealt_with_it(
    world: World, clock: StandingClock
) -> None:
    """product.md: what it takes stays open until the client has dealt with it; also when the caller gets through later."""
    service = {**phone("Night desk", "+14105550161"), "answered": "service"}
    flow = world.flow(document(ring("r", service, no_answer="vm"), voicemail(), rescue="vm", name="Night", mark="NT"))
    world.number("+14105550142", world.source("Harbor sign"), flow)
    call = Wire(world.house)
    call.arrive("+14105550142", CALLER)
    call("leg", 9, command=call.commands[-1]["id"], outcome="answered")
    call("caller_gone", 60)
    wanted = CallFilter(fate="service")
    (line,) = history.log(world.house, world.actor, world.client.id, wanted)
    assert (line.call.fate, line.call.reason, line.is_open) == ("answered", "service", True)
    assert [need.kind for need in today.needs(world.house, world.actor)].count("service") == 1
    args = (world.house, world.actors["client_editor"], world.client.id, line.call.id)
    assert history.one(*args).back.waits
    assert calling_back.done(*args) == []
    assert not history.log(world.house, world.actor, world.client.id, wanted)[0].is_open
    assert "service" not in {need.kind for need in today.needs(world.house, world.actor)}
    assert history.one(*args).back.by == "Client_Editor"
    calling_back.undone(*args)
    assert history.one(*args).back.waits
