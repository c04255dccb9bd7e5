"""Calls that neither side saw to their end: what the carrier says of them becomes their record."""

from datetime import date, timedelta
from typing import Any

import pytest
from sqlalchemy import select, text, update
from sqlalchemy.exc import OperationalError

from tests.conftest import NOON, StandingClock
from tests.flows import DANA, JOEL
from tests.wire import Wire
from tests.world import World, main_line
from vokari.formats.call_control.messages import EventMessage
from vokari.formats.call_control.records import CallRecord, FailSafeUse
from vokari.standins.carrier.app import Carrier
from vokari.store.calls import Call, CallDay, CallDifference, LiveCall, VoiceMessage
from vokari.store.database import PARTITIONED
from vokari.work.calls import reconciling
from vokari.work.house import maintenance
from vokari.work.house.sweeps import each
from vokari.work.people import ringers

CALLED, CALLER = "+14105550142", "+14105550185"


@pytest.fixture
def line(world: World) -> World:
    world.number(CALLED, world.source("Search advert"), world.flow(main_line(), sources={"ls_bus": "Bus panel"}))
    return world


@pytest.fixture
def talk(line: World, carrier: Carrier) -> Wire:
    """A call in which Joel talks with the caller, here and at the carrier."""
    wire = Wire(line.house)
    carrier.register.begin(wire.ref, CALLER, CALLED, NOON)
    wire.arrive()
    wire("digit", 2, key="2")
    wire("leg", 4, command=wire.commands[0]["id"], outcome="answered")
    carrier.register.told(wire.ref, NOON + timedelta(seconds=4))
    return wire


def busy(world: World) -> bool:
    with world.house.begin() as session:
        return JOEL in ringers.on_call(session, world.house, world.agency_id)([JOEL])


def history(world: World) -> list[Call]:
    with world.house.begin() as session:
        return list(session.scalars(select(Call).order_by(Call.started_at)))


def record(
    ref: str, *, reached: bool = False, use: FailSafeUse | None = None, after: float = 40, **more: Any
) -> CallRecord:
    fields = {"number": 1, "call": ref, "caller": CALLER, "called": CALLED, "at": NOON, "by": "carrier", **more}
    return CallRecord.model_validate(
        {**fields, "ended_at": NOON + timedelta(seconds=after), "reached": reached, "fail_safe": use}
    )


def test_a_talk_counts_as_busy_only_while_it_is_confirmed(line: World, talk: Wire, clock: StandingClock) -> None:
    assert busy(line)
    clock.move(seconds=60)
    assert reconciling.settle(line.house) == 0
    clock.move(seconds=85)
    assert busy(line), "the carrier said after a minute that it goes on"
    clock.move(seconds=10)
    assert not busy(line), "nobody has confirmed it for 90 seconds: no ghost keeps a phone from ringing"


def test_a_call_whose_end_nobody_was_told_gets_its_true_end(
    line: World, talk: Wire, carrier: Carrier, clock: StandingClock
) -> None:
    gone = {"call": talk.ref, "seq": 4, "at": NOON + timedelta(seconds=50), "event": {"type": "caller_gone"}}
    carrier.register.end(talk.ref, NOON + timedelta(seconds=50), "caller", None, [EventMessage.model_validate(gone)])
    clock.move(minutes=20)
    assert reconciling.settle(line.house) == 1
    (call,) = history(line)
    assert (call.fate, call.seconds, call.talk_seconds) == ("answered", 50, 46)
    assert reconciling.settle(line.house) == 0


@pytest.mark.parametrize("at_fail_safe", [False, True])
def test_a_message_that_nobody_was_told_of_is_kept(
    line: World, carrier: Carrier, clock: StandingClock, at_fail_safe: bool
) -> None:
    wire = Wire(line.house)
    carrier.register.begin(wire.ref, CALLER, CALLED, NOON)
    wire.arrive()
    wire("digit", 2, key="2")
    wire("leg", 4, command=wire.commands[0]["id"], outcome="busy")
    record_id = wire("prompt_finished", 9, command=wire.commands[0]["id"])[0]["id"]
    finished = {
        "type": "recording_finished",
        "command": record_id,
        "seconds": 9,
        "voice_seconds": 7,
        "recording": "r-1",
    }
    told = EventMessage.model_validate(
        {"call": wire.ref, "seq": 5, "at": NOON + timedelta(seconds=19), "event": finished}
    )
    use = FailSafeUse(to=DANA, outcome="not_answered") if at_fail_safe else None
    carrier.register.end(wire.ref, NOON + timedelta(seconds=20), "carrier", use, [told])
    clock.move(minutes=2)
    (reconciling.take_records if at_fail_safe else reconciling.settle)(line.house)
    assert [call.fate for call in history(line)] == ["message_left"]
    with line.house.begin() as session:
        assert session.scalars(select(VoiceMessage.seconds)).all() == [7]


def test_a_call_that_the_carrier_lost_in_a_crash_is_over_and_one_it_never_knew_too(
    line: World, talk: Wire, carrier: Carrier, clock: StandingClock
) -> None:
    Wire(line.house, "never-known").arrive()
    clock.move(minutes=2)
    type(carrier.register)(carrier.inventory)
    assert reconciling.settle(line.house) == 2
    assert [(call.fate, call.reason) for call in history(line)] == [("answered", "unconfirmed"), ("lost", "carrier")]
    assert not busy(line)


@pytest.mark.parametrize(
    ("use", "expected"),
    [
        (FailSafeUse(to=DANA, outcome="answered", talk_seconds=30), ("answered", "unconfirmed", DANA, 30)),
        (FailSafeUse(to=DANA, outcome="not_answered"), ("lost", "unreached", "", 0)),
        (FailSafeUse(outcome="none"), ("lost", "unreached", "", 0)),
    ],
)
def test_a_call_that_never_reached_the_flow_has_a_record_credited_once(
    line: World, use: FailSafeUse, expected: tuple[Any, ...]
) -> None:
    with line.house.begin() as session:
        carrier_id = session.scalar(text("SELECT id FROM carriers")) or 0
    assert reconciling.record(line.house, carrier_id, record("c-1", use=use)) is not None
    assert reconciling.record(line.house, carrier_id, record("c-1", use=use)) is None
    (call,) = history(line)
    assert (call.fate, call.reason, call.answered_by, call.talk_seconds) == expected
    assert (call.caller, call.seconds, call.fail_safe, call.source_by) == (CALLER, 40, "instead", "assignment")
    with line.house.begin() as session:
        assert session.scalar(select(CallDay.calls)) == 1
    late = Wire(line.house, "c-1")
    late.arrive()
    assert (late.ended, late.commands) == (True, []), "an event that comes after all starts no second call"


def test_a_call_that_left_its_flow_ends_with_what_the_fail_safe_made_of_it(
    line: World, talk: Wire, carrier: Carrier, clock: StandingClock
) -> None:
    wire = Wire(line.house, "left")
    carrier.register.begin("left", CALLER, CALLED, NOON)
    wire.arrive()
    carrier.register.told("left", NOON)
    carrier.register.leaves("left")
    clock.move(minutes=1)
    assert reconciling.settle(line.house) == 0, "it still goes on, elsewhere"
    use = FailSafeUse(to=DANA, outcome="answered", talk_seconds=12)
    carrier.register.end("left", NOON + timedelta(seconds=30), "carrier", use, [])
    assert reconciling.take_records(line.house) == 1
    assert reconciling.take_records(line.house) == 0
    (call,) = history(line)
    assert (call.fate, call.reason, call.fail_safe, call.answered_by) == ("answered", "unconfirmed", "after", DANA)


def test_every_night_the_carriers_list_and_ours_are_compared(
    line: World, carrier: Carrier, clock: StandingClock
) -> None:
    carrier.register.load([(record("missing", reached=True), False, False)])
    wire = Wire(line.house, "unknown-there")
    wire.arrive()
    wire("caller_gone", 8)
    both = Wire(line.house, "both")
    both.arrive()
    both("caller_gone", 9)
    carrier.register.load([(record("both", reached=True), False, False)])
    assert reconciling.reconcile(line.house, date(2026, 11, 24)) == 2
    assert reconciling.reconcile(line.house, date(2026, 11, 24)) == 0, "each is told once"
    with line.house.begin() as session:
        found = session.execute(select(CallDifference.ref, CallDifference.kind).order_by(CallDifference.id)).all()
    assert [tuple(one) for one in found] == [("missing", "missing_here"), ("unknown-there", "missing_there")]
    assert len(history(line)) == 3


def test_one_odd_call_stops_no_sweep(line: World, clock: StandingClock, carrier: Carrier) -> None:
    for ref in ("one", "odd", "two"):
        Wire(line.house, ref).arrive()
    with line.house.begin() as session:
        session.execute(update(LiveCall).where(LiveCall.ref == "odd").values(context={"nonsense": True}))
    clock.move(minutes=5)
    assert reconciling.settle(line.house) == 2
    clock.move(hours=5)
    assert reconciling.close_abandoned(line.house) == 0
    with line.house.begin() as session:
        assert session.scalars(select(LiveCall.ref)).all() == ["odd"]


def test_calls_that_came_before_their_months_partition_are_moved_into_it(line: World, clock: StandingClock) -> None:
    clock.moment = NOON.replace(year=2031)
    wire = Wire(line.house, "early", NOON.replace(year=2031))
    wire.arrive()
    wire("caller_gone", 20)
    for _ in range(2):
        maintenance.make_months(line.house)
    with line.house.begin() as session:
        for table in PARTITIONED:
            assert session.scalar(text(f"SELECT count(*) FROM {table}_y2031m11")) == 1
            assert session.scalar(text(f"SELECT count(*) FROM {table}_other")) == 0
    assert [call.fate for call in history(line)] == ["lost"]


def test_a_database_that_goes_away_ends_a_sweep_so_that_nothing_is_taken_for_done() -> None:
    def do(thing: int) -> bool:
        if thing == 2:
            raise OperationalError("", {}, Exception("gone"))
        if thing == 1:
            raise ValueError(thing)
        return True

    assert each("odd", [0, 1, 3], do) == 2
    with pytest.raises(OperationalError):
        each("odd", [0, 1, 2, 3], do)
