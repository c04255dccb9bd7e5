"""One call on two lines: the simulator's and the carrier stand-in's make the same of it, event for event."""

import asyncio
import json

import httpx
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import document, phone, ring, say, voicemail
from tests.random_flows import random_documents
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions.kinds import everyone_free
from vokari.core.flows.running import engine, events
from vokari.core.flows.running.state import State
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.core.traffic.pacing import BEHAVIORS
from vokari.formats.call_control import messages as wire
from vokari.formats.call_control.sending import to_wire
from vokari.standins.carrier.line import Line
from vokari.standins.carrier.script import CallScript, Vokari

PHONES = {phone("P", f"+141055501{60 + n}")["number"]: n for n in range(3)}


class Unwatched:
    """A register that keeps nothing."""

    def __getattr__(self, name: str) -> object:
        return lambda *args, **more: None


def at_the_stand_in(flow: engine.Flow, script: CallScript) -> list[tuple[float, events.Event]]:
    """The events of a call that the stand-in plays to an application which runs the same engine."""
    heard: list[tuple[float, events.Event]] = []
    now = State()

    def answer(request: httpx.Request) -> httpx.Response:
        nonlocal now
        message = wire.EventMessage.model_validate_json(request.content)
        event = message.event.to_core()
        heard.append((round((message.at - line.start).total_seconds(), 2), event))
        following, _ = engine.run(flow, now, event, everyone_free)
        now = following.state
        commands = tuple(to_wire(command) for command in following.commands)
        reply = wire.CommandsMessage(call="c", seq=message.seq, commands=commands, ended=now.ended)
        return httpx.Response(200, json=json.loads(reply.model_dump_json()))

    client = httpx.AsyncClient(transport=httpx.MockTransport(answer))
    line = Line("c", script, Vokari("http://vokari.example", "stand-in", b"key"), "", client, Unwatched())  # type: ignore[arg-type]
    asyncio.run(line.run())
    assert not line.used_fail_safe, line.trace
    return heard


phones = st.builds(
    lambda behavior, after, talk, accepts: {"behavior": behavior, "after": after, "talk": talk, "accepts": accepts},
    st.sampled_from(BEHAVIORS), st.sampled_from([2.0, 11.0, 40.0]), st.sampled_from([5.0, 61.0]), st.booleans(),
)  # fmt: skip
messages = st.builds(
    lambda voice, then: {"voice": voice, "then": then},
    st.sampled_from([0.0, 1.0, 7.5, 200.0]), st.sampled_from(["hang_up", "key", "silence"]),
)  # fmt: skip
# Keys come and callers go at hundredths that nothing else falls on: of two things at one moment either may be the first.
presses = st.lists(
    st.tuples(st.integers(0, 60).map(lambda second: second + 0.37), st.sampled_from("1234567890*#")), max_size=5
)
leaves = st.one_of(st.none(), st.integers(1, 90).map(lambda second: second + 0.73))


_rings_then_records = document(
    ring("r", phone("P", "+14105550160"), no_answer="vm", accept={"key": "1"}, machine_detection=True, after="bye"),
    voicemail(), say("bye", "Goodbye", "end"), rescue="vm",
)  # fmt: skip


@given(
    st.one_of(random_documents(), st.just(_rings_then_records)),
    presses,
    leaves,
    st.lists(phones, min_size=3, max_size=3),
    messages,
)
def test_the_simulator_and_the_stand_in_play_a_call_alike(
    one: FlowDocument, press: list[tuple[float, str]], hangs_up: float | None, behaving: list[dict], message: dict
) -> None:
    flow = engine.prepare(one)
    press = sorted(press)
    caller = ScriptedCaller(tuple(press), hangs_up, Message(**message))
    run = run_call(flow, caller, {number: Phone(**behaving[n]) for number, n in PHONES.items()})
    script = CallScript.model_validate(
        {
            "from": "+14105550199", "to": "+14105550100", "press": press, "hangs_up": hangs_up, "speed": "fast",
            "phones": {number: behaving[n] for number, n in PHONES.items()}, "message": message,
        }
    )  # fmt: skip
    assert at_the_stand_in(flow, script) == [(entry.at, entry.event) for entry in run.log]
