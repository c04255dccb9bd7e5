"""Hold lines of live calls: order of arrival kept, a person given once, and whoever waits told when somebody is free."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from sqlalchemy import select, text

from tests.conftest import NOON
from tests.flows import document, hold, phone, ring, say, voicemail
from tests.wire import Wire
from tests.work.people.test_people import CALLED, PHONES, add, add_team
from tests.world import World
from vokari.store.calls import Call, CallLog, CallRecording
from vokari.store.holding import Hold
from vokari.store.people import PersonRow
from vokari.web.calls.transcripts import transcript
from vokari.work.agency.access import NotFound
from vokari.work.calls import history as calls
from vokari.work.holding import turns
from vokari.work.people import keeping


def held_by(world: World, team: str, number: str = CALLED, **more: Any) -> None:
    step = {**hold("h", name="Wait for the yard", **more), "team": team}
    exits = {"full": "busy", "nobody": "none", "waited": "vm"}
    flow = document(
        {**step, **exits}, voicemail(), say("busy", "The line is full", "vm"), say("none", "Nobody is here", "vm"),
        rescue="vm", name=f"Line {number[-3:]}", mark="HL",
    )  # fmt: skip
    world.number(number, world.source(f"Advert {number[-3:]}"), world.flow(flow))


@pytest.fixture
def staff(world: World) -> dict[str, PersonRow]:
    return {name: add(world, name) for name in ("Ada", "Ben")}


@pytest.fixture
def line(world: World, staff: dict[str, PersonRow]) -> World:
    held_by(world, add_team(world, "Yard", list(staff.values())).key)
    return world


def arrive(world: World, ref: str, number: str = CALLED, at: int = 0) -> Wire:
    wire = Wire(world.house, ref, NOON.replace(minute=at // 60, second=at % 60))
    wire.arrive(number)
    return wire


def rung(wire: Wire) -> str:
    """Whose phone the last commands ring."""
    found = [one["number"] for one in wire.commands if one["type"] == "ring"]
    return next((name for name, number in PHONES.items() if found and number == found[0]), "")


def pick_up(wire: Wire, after: float) -> None:
    leg = next(one["id"] for one in wire.commands if one["type"] == "ring")
    wire("leg", after, command=leg, outcome="answered")
    wire.leg = leg  # type: ignore[attr-defined]


def hang_up(wire: Wire, after: float) -> None:
    wire("leg", after, command=wire.leg, outcome="ended")  # type: ignore[attr-defined]


def pokes(world: World) -> list[str]:
    """The calls that the carrier was asked to poke, oldest first; each time only the new ones."""
    with world.house.begin() as session:
        query = "DELETE FROM procrastinate_jobs WHERE task_name = 'poke' RETURNING id, args ->> 'ref'"
        return [ref for _, ref in sorted(map(tuple, session.execute(text(query))))]


def said(wire: Wire) -> str:
    return " ".join(one["words"] for one in wire.commands if one["type"] == "play")


def test_callers_are_served_in_the_order_in_which_they_came(line: World) -> None:
    calls = [arrive(line, f"c{n}", at=n) for n in range(5)]
    assert [rung(one) for one in calls] == ["Ada", "Ben", "", "", ""]
    assert [said(one)[:24] for one in calls[2:]] == [
        "You are next in line.",
        "You are number 2 in line",
        "You are number 3 in line",
    ]
    for one in calls[:2]:
        pick_up(one, 10)
    assert pokes(line) == []
    served = []
    for turn in range(3):
        hang_up(calls[turn], 60 + turn)
        told = pokes(line)
        served += told
        waiting = calls[int(told[0][1:])]
        waiting("poked", 61 + turn)
        assert rung(waiting)
        pick_up(waiting, 66 + turn)
    assert served == ["c2", "c3", "c4"]


def test_a_later_caller_never_takes_the_person_of_one_who_came_before(line: World) -> None:
    first, second, third = (arrive(line, f"c{n}", at=n) for n in range(3))
    pick_up(first, 10)
    pick_up(second, 10)
    hang_up(first, 30)
    fourth = arrive(line, "c3", at=31)
    assert (rung(fourth), said(fourth)[:24]) == ("", "You are number 2 in line")
    third("poked", 32)
    assert rung(third) == "Ada"


def test_a_poke_that_came_too_late_changes_nothing(line: World) -> None:
    calls = [arrive(line, f"c{n}", at=n) for n in range(4)]
    for one in calls[:2]:
        pick_up(one, 10)
    hang_up(calls[0], 30)
    assert calls[3]("poked", 31) == []
    calls[2]("poked", 31)
    assert rung(calls[2]) == "Ada"


def test_at_the_same_moment_nobody_gets_two_callers(line: World) -> None:
    with ThreadPoolExecutor(6) as pool:
        wires = list(pool.map(lambda n: arrive(line, f"c{n}"), range(12)))
    assert sorted(rung(one) for one in wires if rung(one)) == ["Ada", "Ben"]
    with line.house.begin() as session:
        rows = session.scalars(select(Hold).order_by(Hold.place)).all()
    assert [bool(row.offered) for row in rows] == [True, True] + [False] * 10


def test_a_person_who_does_not_answer_is_left_alone_for_a_while_and_the_caller_keeps_the_place(line: World) -> None:
    first, second = arrive(line, "c0"), arrive(line, "c1", at=1)
    third = arrive(line, "c2", at=2)
    leg = next(one["id"] for one in first.commands if one["type"] == "ring")
    first("leg", 20, command=leg, outcome="rang_out")
    assert said(first).startswith("You are next in line"), "nobody had told them while the phone rang"
    assert third("poked", 21) == [], "Ada rests, and the first caller comes before"
    pick_up(second, 10)
    hang_up(second, 40)
    assert pokes(line) == ["c0"]
    first("poked", 41)
    assert rung(first) == "Ben"
    third("poked", 60)
    assert rung(third) == "Ada", "the rest is over"


def test_who_leaves_while_a_phone_rings_sets_the_person_free(line: World) -> None:
    calls = [arrive(line, f"c{n}", at=n) for n in range(3)]
    calls[0]("caller_gone", 8)
    assert pokes(line) == ["c2"]
    with line.house.begin() as session:
        assert session.scalar(select(Call.reason)) == "waiting"


def test_the_line_is_full_and_nobody_available_are_said(world: World, staff: dict[str, PersonRow]) -> None:
    held_by(world, add_team(world, "Yard", list(staff.values())).key, most_callers=1)
    calls = [arrive(world, f"c{n}", at=n) for n in range(4)]
    for one in calls[:2]:
        pick_up(one, 10)
    assert said(calls[3]) == "The line is full"
    for one in staff.values():
        keeping.set_duty(world.house, world.actor, world.client.id, one.id, off=True)
    assert said(arrive(world, "c9", at=50)) == "Nobody is here"


def test_switching_off_sends_those_who_wait_on_and_switching_on_serves_them(
    line: World, staff: dict[str, PersonRow]
) -> None:
    args = (line.house, line.actor, line.client.id)
    keeping.set_duty(*args, staff["Ben"].id, off=True)
    first, second = arrive(line, "c0"), arrive(line, "c1", at=1)
    keeping.set_duty(*args, staff["Ben"].id, off=False)
    assert pokes(line) == ["c1"]
    second("poked", 5)
    assert rung(second) == "Ben"
    third = arrive(line, "c2", at=6)
    for one in staff.values():
        keeping.set_duty(*args, one.id, off=True)
    assert set(pokes(line)) == {"c2"}
    third("poked", 9)
    assert said(third) == "Nobody is here"
    assert first.commands[0]["type"] != "play"


def test_somebody_of_two_lines_serves_whoever_came_first(world: World, staff: dict[str, PersonRow]) -> None:
    ada, ben = staff["Ada"], staff["Ben"]
    held_by(world, add_team(world, "Yard", [ada]).key)
    held_by(world, add_team(world, "Shop", [ada, ben]).key, "+14105550143")
    one = arrive(world, "c0")
    two = arrive(world, "c1", "+14105550143", at=1)
    assert (rung(one), rung(two)) == ("Ada", "Ben")
    pick_up(one, 5)
    pick_up(two, 5)
    shop, yard = arrive(world, "c2", "+14105550143", at=10), arrive(world, "c3", at=11)
    hang_up(one, 20)
    assert pokes(world) == ["c2"]
    shop("poked", 21)
    assert (rung(shop), yard("poked", 22)) == ("Ada", [])


def test_the_wait_is_learned_from_the_talks(line: World) -> None:
    calls = [arrive(line, f"c{n}", at=n) for n in range(3)]
    assert "wait" not in said(calls[2])
    pick_up(calls[0], 10)
    pick_up(calls[1], 10)
    hang_up(calls[0], 250)
    calls[2]("poked", 251)
    pick_up(calls[2], 255)
    assert "The wait is about 2 minutes." in said(arrive(line, "c3", at=256))


def test_stale_timers_of_the_wait_do_not_shorten_the_talk(line: World) -> None:
    call = arrive(line, "c0")
    look = [one["id"] for one in call.commands if one["type"] == "timer"][-1]
    pick_up(call, 10)
    call("timer", 20, command=look)
    hang_up(call, 70)
    with line.house.begin() as session:
        assert session.scalar(select(Call.talk_seconds)) == 60
        assert session.scalar(select(Hold.call_id)) is None


def test_a_call_that_is_over_needs_no_poke(line: World) -> None:
    turns.poke(line.house, "nobody-knows")


# a Ring step in full


def test_a_transcript_tells_of_the_name_the_whisper_and_the_recording(world: World) -> None:
    hears, notice = {"words": "It is {said name}."}, say("n", "This call is recorded", "r", notice=True)
    step = ring(
        "r", phone("Ada", PHONES["Ada"]), no_answer="vm", hears=hears, recording={"purpose": "learn", "per_week": 1}
    )
    flow = document(notice, step, voicemail(), rescue="vm", name="Named", mark="NM")
    world.number(CALLED, world.source("Harbor sign"), world.flow(flow))
    wire = arrive(world, "c0")
    wire("prompt_finished", 4, command=1)
    wire("prompt_finished", 8, command=2)
    wire("recording_finished", 11, command=3, seconds=2, voice_seconds=1.5)
    wire("leg", 20, command=4, outcome="answered")
    wire("caller_gone", 40)
    with world.house.begin() as session:
        entries = session.scalars(select(CallLog.entries)).one()
    said = [one["words"] for one in transcript(flow, entries)]
    assert "Caller says a name" in said
    assert "Rings Ada, 20 s, who first hears “It is”, the caller’s name, “.”" in said
    assert {"They talk, recorded", "They talk, kept if * is pressed"} & set(said)


def test_a_talk_is_recorded_after_a_notice_and_its_sound_kept_for_those_who_may_hear(
    world: World, staff: dict[str, PersonRow]
) -> None:
    rings = {
        **ring("r", no_answer="vm", recording={"purpose": "all", "pause_key": None}, last_spoke={"days": 30}),
        "hears": {"words": "{client}: {source}, {label}"},
        "to": [{"kind": "team", "id": "t", "team": add_team(world, "Yard", list(staff.values())).key}],
    }
    steps = (
        say("n", "This call is recorded", "l", notice=True),
        {"kind": "label", "id": "l", "labels": ["yard"], "next": "r"},
        rings,
    )
    flow = world.flow(document(*steps, voicemail(), rescue="vm", name="Recorded", mark="RC"))
    world.number(CALLED, world.source("Harbor sign"), flow)
    first = arrive(world, "c0")
    first("prompt_finished", 4, command=1)
    assert first.commands[0]["whisper"] == "Brightwater Boatyard: Harbor sign, yard"
    first("leg", 20, command=first.commands[0]["id"], outcome="rang_out")
    assert rung(first) == "Ben"
    leg = first.commands[0]["id"]
    assert first("leg", 25, command=leg, outcome="answered")[-1] == {
        "type": "connect",
        "id": leg,
        "recording": "on",
        "keep_key": None,
        "pause_key": None,
    }
    first("leg", 65, command=leg, outcome="ended", recording="c0-talk1", recorded_seconds=40.0)
    second = arrive(world, "c1", at=100)
    second("prompt_finished", 4, command=1)
    assert rung(second) == "Ben", "the caller spoke with Ben last"
    with world.house.begin() as session:
        kept = session.scalars(select(CallRecording)).one()
        queued = session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'fetch_recording'"))
    assert (kept.seconds, queued) == (40.0, 1)
    hears = (world.house, world.actors["client_viewer"], world.client.id, "talk", kept.id)
    assert calls.sound_of(*hears) is None
    with pytest.raises(NotFound):
        calls.sound_of(*hears[:-1], kept.id + 1)


def test_a_line_leads_straight_into_another(world: World, staff: dict[str, PersonRow]) -> None:
    """product.md, Hold line: one hold line may lead into another; a call has one place at a time."""
    yard, shop = (
        add_team(world, name, [person]).key for name, person in zip(("Yard", "Shop"), staff.values(), strict=True)
    )
    exits = {"full": "vm", "nobody": "vm", "longest_wait": 10, "announce_every": None}
    first = {**hold("h", **exits), "team": yard, "waited": "k", "leave_key": "2", "left": "k", "after": "k"}
    second = {**hold("k", **exits), "team": shop, "waited": "vm"}
    flow = world.flow(document(first, second, voicemail(), rescue="vm", name="Two lines", mark="TL"))
    world.number(CALLED, world.source("Sign"), flow)
    before = [arrive(world, "c0"), arrive(world, "c1")]
    pick_up(before[0], 3)
    limit = next(one["id"] for one in before[1].commands if one["type"] == "timer")
    before[1]("timer", 10, command=limit)
    assert rung(before[1]) == "Ben", "waited too long in the first, and next in the second"
    left = arrive(world, "c2", at=20)
    left("digit", 5, key="2")
    assert said(left).startswith("You are next in line")
    hang_up(before[0], 60)
    assert (rung(before[0]), said(before[0])[:24]) == ("", "You are number 2 in line"), "after a talk"
    with world.house.begin() as session:
        rows = session.execute(select(Hold.ref, Hold.team).order_by(Hold.place)).all()
        learned = session.scalar(text("SELECT mean_seconds FROM hold_lines WHERE team = :team"), {"team": yard})
    assert [tuple(row) for row in rows] == [("c1", shop), ("c2", shop), ("c0", shop)]
    assert learned == 57
