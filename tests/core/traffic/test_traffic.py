"""The simulator: the same seed makes the same season, and what a caller does is what was scripted."""

from collections import Counter
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from tests.flows import DANA, JOEL, document, menu, phone, ring, voicemail
from vokari.core.calls.fates import ending
from vokari.core.flows.running import engine
from vokari.core.traffic.callers import PhoneHabit
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.core.traffic.season import Line, MadeCall, season

FLOW = engine.prepare(
    document(
        menu("m", {"1": "r"}, nothing="r", wrong="vm"),
        ring("r", phone("Dana", DANA), phone("Joel", JOEL, 15), no_answer="vm", accept={"key": "1"}),
        voicemail(),
        rescue="vm",
    )
)
HABITS = {DANA: PhoneHabit(), JOEL: PhoneHabit(own_mailbox_after=10.0, open_chance=0.3)}


def made(seed: int) -> list[MadeCall]:
    line = Line("+14105550142", FLOW, 12.0, date(2026, 3, 1), date(2026, 3, 20))
    until = datetime(2026, 3, 21, tzinfo=UTC)
    return list(season(seed, ZoneInfo("America/New_York"), [line], HABITS, ["+14105550180", "+14105550181"], until))


def test_a_season_repeats_itself_and_another_seed_makes_another() -> None:
    assert made(7) == made(7)
    assert made(7) != made(8)
    calls = made(7)
    assert 150 < len(calls) < 330
    assert [call.at for call in calls] == sorted(call.at for call in calls)
    fates = Counter(ending(call.run.state, call.run.seconds).fate for call in calls)
    assert fates["answered"] > fates["lost"] > 0


def test_a_scripted_call_takes_the_seconds_it_should() -> None:
    run = run_call(
        FLOW,
        ScriptedCaller(((3.0, "1"),)),
        {DANA: Phone("rings_out"), JOEL: Phone("answers", 5.0, 30.0)},
        speaking=lambda _: 4.0,
    )
    assert [entry.at for entry in run.log] == [0.0, 3.0, 23.0, 28.0, 31.0, 61.0]
    assert run.talks == ((31.0, 61.0, JOEL),)
    assert ending(run.state, run.seconds).fate == "answered"


def test_an_accept_key_keeps_the_call_from_a_phones_own_mailbox() -> None:
    run = run_call(
        FLOW, ScriptedCaller(((1.0, "1"),), None, Message(5.0)), {DANA: Phone("busy"), JOEL: Phone("mailbox", 10.0)}
    )
    assert ending(run.state, run.seconds).fate == "message_left"


def test_a_caller_who_hangs_up_while_ringing_is_lost_there() -> None:
    run = run_call(FLOW, ScriptedCaller(((1.0, "1"),), hangs_up=12.0), {})
    assert (run.seconds, ending(run.state, run.seconds).reason) == (12.0, "ringing")
