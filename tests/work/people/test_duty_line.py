"""The duty line: who may switch whom by phone, and what is kept of such a call."""

import hashlib

import pytest
from sqlalchemy import text

from tests.wire import Wire
from tests.work.people.test_people import CALLED, PHONES, add
from tests.world import World
from vokari.store.people import DutyRow, PersonRow
from vokari.work.agency import today, trail
from vokari.work.agency.access import NotAllowed
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.people import duty_line


@pytest.fixture
def ada(world: World) -> PersonRow:
    return add(world, "Ada")


@pytest.fixture
def line(world: World, ada: PersonRow) -> World:
    world.number(CALLED)
    assert duty_line.choose(world.house, world.actor, world.client.id, CALLED) == []
    return world


def call(world: World, ref: str, caller: str | None = PHONES["Ada"]) -> Wire:
    wire = Wire(world.house, ref)
    wire.arrive(CALLED, caller)
    return wire


def key(wire: Wire, pressed: str) -> str:
    for one in pressed:
        wire("digit", 5, key=one)
    return " ".join(one["words"] for one in wire.commands if one["type"] == "play")


def is_off(world: World, person: PersonRow) -> bool:
    with world.house.begin() as session:
        duty = session.get(DutyRow, (world.client.id, person.key))
        return bool(duty and duty.off)


def test_somebody_switches_themselves_off_and_on_from_their_own_phone(line: World, ada: PersonRow) -> None:
    pin = duty_line.pin(line.house, ada)
    first = call(line, "a")
    assert key(first, pin) == "You are on duty. To switch off, press 1. To leave it so, hang up."
    assert key(first, "1") == "You are switched off now. Goodbye."
    assert is_off(line, ada)
    second = call(line, "b")
    assert "You are switched off." in key(second, pin)
    second("caller_gone", 9)
    assert is_off(line, ada), "who hangs up leaves it so"
    third = call(line, "c")
    key(third, f"{pin}1")
    assert not is_off(line, ada)
    said = [one.words for one in trail.listed(line.house, line.actor, line.client.id)]
    assert said[:2] == ["Ada switched themselves on by phone", "Ada switched themselves off by phone"]


@pytest.mark.parametrize("caller", [None, "+14105550199"])
def test_a_phone_that_is_nobodys_is_turned_away(line: World, caller: str | None) -> None:
    assert call(line, "x", caller).commands[0]["words"].startswith("This line is for staff")


def test_wrong_pins_shut_the_line_until_the_pin_is_renewed(line: World, ada: PersonRow) -> None:
    pin = duty_line.pin(line.house, ada)
    wrong = "000000" if pin != "000000" else "000001"
    for ref in ("a", "b", "c", "d"):
        wire = call(line, ref)
        for _ in range(3):
            if not wire.ended and wire.commands and wire.commands[-1]["type"] != "hang_up":
                assert key(wire, wrong) == "That is not your PIN."
                wire("prompt_finished", 6, command=wire.commands[0]["id"])
        if not wire.ended:
            wire("caller_gone", 9)
    assert call(line, "e").commands[0]["words"].startswith("There were too many wrong PINs")
    duty_line.renew(line.house, line.actors["client_editor"], line.client.id, ada.id)
    with line.house.begin() as session:
        renewed = session.get_one(PersonRow, ada.id)
    fresh = duty_line.pin(line.house, renewed)
    assert fresh != pin
    assert "You are on duty" in key(call(line, "f"), fresh)


def test_nothing_is_kept_of_such_a_call_that_tells_the_pin_and_it_counts_nowhere(line: World, ada: PersonRow) -> None:
    pin = duty_line.pin(line.house, ada)
    wire = call(line, "a")
    assert history.in_progress(line.house, line.actor, line.client.id) == []
    for n, one in enumerate(pin, start=1):
        wire("digit", 5, key=one)
        with line.house.begin() as session:
            kept = [dict(row) for row in session.execute(text("SELECT context, state FROM live_calls")).mappings()]
            logged = list(session.scalars(text("SELECT entry FROM live_events")))
        assert pin not in str(kept)
        assert [entry["event"] for entry in logged][1:] == [{"kind": "digit"}] * n, (
            "a call under way tells no key either"
        )
        assert set(kept[0]["state"]) == {"sealed"}
        bodies = [wire.body(wire.seq, 5, {"type": "digit", "key": key}) for key in "0123456789"]
        tried = {hashlib.sha256(body).hexdigest() for body in bodies}
        assert not tried & {entry["digest"] for entry in logged}, "no key can be tried out"
    last = wire.body(wire.seq + 1, 9, {"type": "caller_gone"})
    assert wire.post(last).status_code == 200
    assert wire.post(last).status_code == 200, "a repeated event gets its stored answer"
    assert history.log(line.house, line.actor, line.client.id, CallFilter(with_tests=True)) == []
    with line.house.begin() as session:
        kept = str(session.scalar(text("SELECT entries FROM call_logs")))
        assert session.scalar(text("SELECT count(*) FROM live_calls")) == 0
    assert pin not in kept
    assert "'key'" not in kept


def test_only_a_number_that_nothing_else_uses_can_be_the_line(line: World) -> None:
    line.number("+14105550143", line.source("Search advert"))
    (problem,) = duty_line.choose(line.house, line.actor, line.client.id, "+14105550143")
    assert problem.sentence == "Choose a number in service that no flow and no lead source has."
    with pytest.raises(NotAllowed):
        duty_line.choose(line.house, line.actors["client_editor"], line.client.id, "")
    assert duty_line.choose(line.house, line.actor, line.client.id, "") == []


def test_the_line_itself_needs_no_flow_and_a_silent_phone_stands_on_today(line: World, ada: PersonRow) -> None:
    assert [one.kind for one in today.needs(line.house, line.actor)] == []
    with line.house.begin() as session:
        session.add(DutyRow(client_id=line.client.id, person=ada.key, missed=3, taken=0, off=False))
    (need,) = today.needs(line.house, line.actor)
    assert (need.sentence, need.person_id) == ("Ada’s phone has not answered 3 times in a row.", ada.id)
    assert [one.id for one in today.clients_in_need(line.house, line.actor)] == [line.client.id]
