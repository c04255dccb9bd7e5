"""The way a call took: which exits of its flow the map lights."""

from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from vokari.core.flows.running import engine
from vokari.core.flows.shown.way import way_of
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.formats import call_log

DOCUMENT = document(
    menu("m", {"1": "lab", "2": "r", "*": {"hear_again": True}}, nothing="r", wrong="r"),
    {"kind": "label", "id": "lab", "labels": ["boats"], "next": "r"},
    ring("r", phone("Dana", DANA, 20), no_answer="vm"),
    voicemail(message_left="thanks"),
    say("thanks", "Thank you", "end"),
    rescue="vm",
)


def taken(press: str, behavior: str = "busy", voice: float = 5.0) -> tuple[set[tuple[str, str]], frozenset[str], str]:
    keys = tuple((1.0 + n, key) for n, key in enumerate(press))
    phones = {DANA: Phone(behavior, 2.0)}  # type: ignore[arg-type]
    run = run_call(engine.prepare(DOCUMENT), ScriptedCaller(keys, None, Message(voice, "key")), phones)
    log = [call_log.entry(one.seq, one.at, one.event, one.answers, one.following) for one in run.log]
    way = way_of(DOCUMENT, log)
    return set(way.taken), way.fates, way.last


def test_of_several_exits_to_one_step_only_the_one_taken_is_lit() -> None:
    exits, fates, last = taken("2", "answers")
    assert exits == {("m", "k1"), ("r", "after")}
    assert (fates, last) == ({"r"}, "r")


def test_steps_that_wait_for_nothing_are_on_the_way_too() -> None:
    exits, fates, last = taken("*1")
    assert exits == {
        ("m", "k2"),
        ("m", "k0"),
        ("lab", "next"),
        ("r", "no_answer"),
        ("vm", "message_left"),
        ("thanks", "next"),
    }
    assert (fates, last) == ({"vm"}, "thanks")


def test_a_message_too_short_to_be_one_lights_no_fate() -> None:
    assert taken("2", voice=0.5)[1] == frozenset()
