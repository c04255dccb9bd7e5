"""Live flows proven every night: what is found stands on Today until it is mended, and is told by mail once."""

from dataclasses import replace

import pytest

from tests.conftest import StandingClock
from tests.flows import document, ring, voicemail
from tests.hours import week
from tests.work.people.test_people import add
from tests.work.proof.test_proving import line, opening
from tests.world import World, main_line
from vokari.core.hours.document import OneOff
from vokari.store.flows import CallFlow
from vokari.store.numbers import TrackingNumber
from vokari.store.people import DutyRow, PersonRow
from vokari.work.agency import today
from vokari.work.flows import versions
from vokari.work.hours import days, sets
from vokari.work.house import apart
from vokari.work.people import on_duty
from vokari.work.proof import examples, nightly

__all__ = ["opening"]


def night(world: World) -> list[dict[str, object]]:
    """What the worker does in a night; gives the mails that go out."""
    nightly.begin(world.house)
    return after(world)


def after(world: World) -> list[dict[str, object]]:
    """What the worker does with what is asked for."""
    for job in world.jobs("prove_live"):
        nightly.prove(world.house, job["flow_id"])
    nightly.tell(world.house)
    return world.jobs("send_notice")


def found(world: World) -> list[str]:
    return [one.sentence for one in today.needs(world.house, world.actor) if one.kind == "found"]


def lossy(world: World, hours: str) -> CallFlow:
    """A live flow that loses no caller while its hours never close, and comes into them later."""
    args = (world.house, world.actor, world.client.id)
    one = sets.listed(*args)[1][0].set
    sets.set_week(*args, one.id, [("open", "Open")], week(open="Daily 0-24"), None)
    flow = world.flow(line(hours))
    world.number("+14105550142", world.source("Leaflet"), flow)
    return flow


def test_a_holiday_that_nothing_covers_goes_to_today_and_out_by_mail_once(world: World, opening: str) -> None:
    flow = lossy(world, opening)
    args = (world.house, world.actor, world.client.id)
    assert night(world) == []
    assert found(world) == []
    one = sets.listed(*args)[1][0].set
    holiday = OneOff(
        id="x1",
        name="Founders’ day",
        first=world.house.now().date().replace(day=30),
        last=world.house.now().date().replace(day=30),
    )
    assert days.keep(*args, one.id, holiday) == []
    (mail,) = night(world)
    assert (mail["to"], mail["by"]) == ("specialist@example.com", "email")
    assert "Callers are lost at “Closed”" in str(mail["words"])
    assert "Line" in str(mail["words"])
    (said,) = found(world)
    assert "Callers are lost" in said
    assert night(world) == [], "once, until it is mended"
    (standing,) = nightly.standing(*args, flow.id)
    call = examples.play_live(*args, flow.id, standing.id)
    assert call.ending is not None
    assert (call.ending.fate, call.settings["version"]) == ("lost", 1)
    assert days.remove(*args, one.id, "x1") == []
    assert nightly.look_again(world.house) == 1, "a change of the client is looked at without waiting for the night"
    assert after(world) == []
    assert (found(world), nightly.look_again(world.house)) == ([], 0)


def test_what_goes_live_is_proven_at_once_and_one_bad_flow_stops_no_night(world: World, opening: str) -> None:
    good, bad = world.flow(main_line()), lossy(world, opening)
    assert {job["flow_id"] for job in world.jobs("prove_live")} == {good.id, bad.id}
    with world.house.begin() as session:
        session.get_one(CallFlow, good.id).removed_at = world.house.now()
    assert night(world) == []
    back = versions.listed(world.house, world.actor, world.client.id, bad.id)[1]
    assert [one.version.number for one in back] == [1]
    gone = replace(world.house)
    nightly.prove(gone, 10**9)


def test_a_walk_that_fails_mends_nothing(world: World, opening: str, monkeypatch: pytest.MonkeyPatch) -> None:
    flow = lossy(world, opening)
    args = (world.house, world.actor, world.client.id)
    one = sets.listed(*args)[1][0].set
    sets.set_week(*args, one.id, [("open", "Open")], week(open="Mon-Fri 9-17"), None)
    assert len(night(world)) == 1
    monkeypatch.setattr(nightly, "LIMITS", apart.Limits(seconds=0.01, cpu_seconds=1, memory=1_500_000_000))
    (mail,) = night(world)
    assert "could not be proven" in str(mail["words"])
    assert {one.kind for one in nightly.standing(*args, flow.id)} == {"loses_callers", "not_walked"}


def test_phones_that_do_not_answer_people_who_are_off_and_numbers_that_are_gone_are_found(
    world: World, clock: StandingClock
) -> None:
    args = (world.house, world.actor, world.client.id)
    ada = add(world, "Ada")
    desk = ring(
        "desk", {"kind": "person", "id": "d1", "person": ada.key}, no_answer="vm", name="Desk", machine_detection=True
    )
    flow = world.flow(document(desk, voicemail(), rescue="vm"))
    number = world.number("+14105550142", world.source("Leaflet"), flow)
    assert night(world) == []
    with world.house.begin() as session:
        session.add(DutyRow(client_id=world.client.id, person=ada.key, missed=3, taken=0, off=False))
    (mail,) = night(world)
    assert "“Desk” rings Ada, whose phone has not answered 3 times in a row." in str(mail["words"])
    assert found(world) == [], "the person stands on Today already"
    assert nightly.look_again(world.house) == 0
    with world.house.begin() as session:
        session.get_one(DutyRow, (world.client.id, ada.key)).missed = 0
    assert nightly.look_again(world.house) == 1
    assert (after(world), nightly.standing(*args, flow.id)) == ([], [])
    with world.house.begin() as session:
        on_duty.set_off(session, world.house, session.get_one(PersonRow, ada.id), off=True)
    assert night(world) == [], "perhaps for the weekend only"
    clock.move(days=4)
    nightly.prove(world.house, flow.id)
    assert [one.kind for one in nightly.standing(*args, flow.id)] == ["switched_off"]
    with world.house.begin() as session:
        session.get_one(TrackingNumber, number.id).flow_id = None
    nightly.prove(world.house, flow.id)
    assert {one.kind for one in nightly.standing(*args, flow.id)} == {"switched_off", "no_number"}
    (uncalled,) = (one for one in today.needs(world.house, world.actor) if one.kind == "uncalled")
    assert (uncalled.sentence, uncalled.flow_id) == (f"{flow.name} is live, and no number leads to it.", flow.id)
