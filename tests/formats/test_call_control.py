"""The messages of call control: what the engine says and hears survives the wire, and anything else is refused."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from vokari.core.flows.model.values import Accept, NumberDestination, Prompt
from vokari.core.flows.running import commands, stored
from vokari.formats.call_control import messages as wire
from vokari.formats.call_control.records import read_records, read_standings
from vokari.formats.call_control.sending import to_wire
from vokari.formats.call_control.signature import VALID_SECONDS, check, sign

ids = st.integers(1, 10_000)
legs = st.sampled_from(
    ["answered", "accepted", "refused", "busy", "declined", "unreachable", "rang_out", "machine", "ended"]
)
EVENTS = st.one_of(
    st.builds(wire.PromptFinished, command=ids),
    st.builds(wire.DigitPressed, key=st.sampled_from("0123456789*#"), heard_half=st.booleans()),
    st.builds(wire.SilenceHeard, command=ids),
    st.builds(wire.LegChanged, command=ids, outcome=legs),
    st.builds(
        wire.RecordingFinished, command=ids, seconds=st.floats(0, 600), voice_seconds=st.floats(0, 600),
        caller_gone=st.booleans(),
    ),
    st.builds(wire.TimerFired, command=ids),
    st.builds(wire.Poked),
    st.builds(wire.CallerGone, heard_half=st.booleans()),
)  # fmt: skip
phones = st.builds(
    NumberDestination,
    id=st.just("d1"),
    name=st.just("Dana"),
    number=st.just("+14105550160"),
    seconds=st.integers(1, 60),
)
COMMANDS = st.one_of(
    st.builds(commands.Play, ids, st.builds(Prompt, say=st.text("ab ", max_size=30)), st.booleans(), st.just("en-US")),
    st.builds(commands.Listen, ids, st.integers(1, 30)),
    st.builds(
        commands.RingLeg, ids, phones, st.integers(1, 60), st.sampled_from(["caller", "tracking_number"]),
        st.none() | st.builds(Accept), st.booleans(),
    ),
    st.builds(commands.Drop, ids, st.text(max_size=20)),
    st.builds(commands.Connect, ids),
    st.builds(commands.Record, ids, st.none(), st.booleans(), st.integers(5, 600), st.sampled_from([None, "#"]), st.none()),
    st.builds(commands.Timer, ids, st.integers(1, 600)),
    st.builds(commands.HangUpCall, ids),
)  # fmt: skip


@given(EVENTS)
def test_an_event_survives_the_wire_and_the_log(event: wire.CallEvent) -> None:
    message = {"call": "c1", "seq": 2, "at": "2026-11-24T17:00:00Z", "event": event.model_dump()}
    read = wire.EventMessage.model_validate_json(json.dumps(message))
    assert read.event == event
    core = read.event.to_core()
    assert stored.load_event(json.loads(json.dumps(stored.dump_event(core)))) == core


@given(COMMANDS)
def test_a_command_survives_the_wire(command: commands.Command) -> None:
    sent = to_wire(command, whisper="Boatyard")
    message = {"call": "c1", "seq": 1, "commands": [sent.model_dump(mode="json")], "ended": False}
    read = wire.CommandsMessage.model_validate_json(json.dumps(message))
    assert read.commands == (sent,)
    assert sent.id == command.id
    if isinstance(sent, wire.RingCommand):
        assert (sent.number, sent.whisper) == ("+14105550160", "Boatyard")


@pytest.mark.parametrize(
    "change",
    [
        {"seq": 0}, {"seq": "two"}, {"at": "2026-11-24T17:00:00"}, {"at": "noon"}, {"call": "a b"}, {"more": 1},
        {"event": {"type": "digit", "key": "12"}}, {"event": {"type": "digit", "key": "1", "more": 1}},
        {"event": {"type": "leg", "command": 1, "outcome": "sings"}}, {"event": {"type": "dance"}}, {"event": {}},
        {"event": {"type": "recording_finished", "command": 1, "seconds": -1, "voice_seconds": 0}},
        {"event": {"type": "call_arrived", "called": "410-555-0142"}},
    ],
)  # fmt: skip
def test_a_message_of_another_form_is_refused(change: dict[str, object]) -> None:
    good = {"call": "c1", "seq": 1, "at": "2026-11-24T17:00:00Z", "event": {"type": "poked"}}
    wire.EventMessage.model_validate(good)
    with pytest.raises(ValidationError):
        wire.EventMessage.model_validate({**good, **change})


@given(st.binary(max_size=80), st.integers(0, 2**31), st.integers(-400, 400))
def test_a_signature_holds_for_its_body_and_its_time(body: bytes, wall: int, later: int) -> None:
    header = sign(b"secret", body, wall)
    assert check(b"secret", body, header, wall + later) == ("good" if abs(later) <= VALID_SECONDS else "stale")
    assert check(b"other", body, header, wall) == "wrong"
    assert check(b"secret", body + b"x", header, wall) == "wrong"
    assert check(b"secret", body, None, wall) == "missing"
    assert check(b"secret", body, header.replace("t=", "t=x"), wall) == "malformed"


def test_one_odd_record_is_left_out_and_stops_no_other() -> None:
    record = {"number": 1, "call": "a", "called": "+14105550142", "at": "2026-11-24T17:00:00Z", "ended_at": "2026-11-24T17:01:00Z",
              "by": "caller", "reached": True}  # fmt: skip
    odd = [{**record, "number": 2, "at": "0001-01-01T00:00:00Z"}, {"call": "b"}, 7]
    body = json.dumps({"calls": [record, *odd], "last": 4, "more": True}).encode()
    found, wrong = read_records(body)
    assert ([one.call for one in found.calls], found.last, found.more, len(wrong)) == (["a"], 4, True, 3)
    assert "2000 to 2099" in wrong[0]
    standings, wrong = read_standings(
        b'{"calls": [{"call": "a", "state": "exists"}, {"call": "b", "state": "asleep"}]}'
    )
    assert ([one.state for one in standings.calls], len(wrong)) == (["exists"], 1)
    for nonsense in (b"hello", b"[]", b'{"calls": 3}', b'{"calls": [], "last": -1}'):
        with pytest.raises(ValueError):
            read_records(nonsense)
