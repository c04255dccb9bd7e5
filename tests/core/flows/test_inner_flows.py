"""A flow inside a flow: ways back, counters, rescues, early keys, and extensions of people."""

import pytest

from tests.flows import document, menu, say, voicemail
from vokari.core.checks import within
from vokari.core.checks.finding import Inner, Surroundings
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions.kinds import Answer, Extensions, LineUp, Question, Rung, everyone_free
from vokari.core.flows.running import engine
from vokari.core.flows.running.commands import RingLeg
from vokari.core.flows.running.events import Arrived, Digit, Event, Silence
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.state import State

INNER = document(
    menu("ask", {"1": "yes", "2": "no", "3": "ask2"}, nothing="no"), {"kind": "back_to", "id": "ask2", "to": "ask"},
    {"kind": "come_back", "id": "yes", "way": "Booked"}, {"kind": "come_back", "id": "no", "way": "not  booked"}, voicemail("ivm"),
    rescue="ivm", entry_limit=3, language="es",
)  # fmt: skip


def outer(**more: object) -> FlowDocument:
    returns = [{"id": "w1", "name": "booked", "to": "thanks"}, {"id": "w2", "name": "Not booked", "to": "again"}]
    return document(
        {"kind": "continue_in", "id": "in", "flow": "visits", "returns": returns}, say("thanks", "Thanks", "end"),
        say("again", "Once more", "in2"), {"kind": "back_to", "id": "in2", "to": "in"}, voicemail(), rescue="vm", **more,
    )  # fmt: skip


def run(flow: Flow, *events: Event, source=everyone_free) -> engine.Next:  # type: ignore[no-untyped-def]
    result = engine.run(flow, State(), Arrived(), source)[0]
    for event in events:
        result = engine.run(flow, result.state, event, source)[0]
    return result


def said(result: engine.Next) -> list[str]:
    return [one.prompt.say for one in result.commands if hasattr(one, "prompt")]


def test_a_call_goes_in_and_comes_back_by_the_exit_of_its_way() -> None:
    flow = engine.prepare(outer(), {"visits": INNER})
    first = run(flow)
    assert first.state.at == "visits/ask"
    assert first.state.stack == ("in",)
    assert first.commands[0].language == "es", "words are spoken in the language of the flow they stand in"  # type: ignore[union-attr]
    assert first.way == (("start", "in"), ("within", "visits/ask"))
    booked = run(flow, Digit("1"))
    assert said(booked) == ["Thanks"]
    assert booked.way == (("k0", "visits/yes"), ("w1", "thanks"))
    assert booked.state.stack == ()
    assert booked.commands[0].language == "en-US"  # type: ignore[union-attr]


def test_counters_are_kept_by_flow_and_step_and_the_inner_rescue_applies() -> None:
    flow = engine.prepare(outer(), {"visits": INNER})
    around = run(flow, Digit("3"), Digit("3"), Digit("3"))
    assert around.way[-1] == ("rescue", "visits/ivm")
    bare = INNER.model_copy(update={"rescue": None})
    outside = run(engine.prepare(outer(), {"visits": bare}), Digit("3"), Digit("3"), Digit("3"))
    assert outside.way[-1] == ("rescue", "vm"), "a flow without a rescue has the one around it"
    assert outside.state.stack == ()
    twice = run(flow, Digit("2"), Digit("9"), Digit("9"))
    assert dict(twice.state.entries)["visits/ask"] >= 1


@pytest.mark.parametrize(
    ("document_", "inner"),
    [
        (outer(), {}), (outer(), {"visits": document()}),
        (outer(), {"visits": document({"kind": "come_back", "id": "c", "way": "lost"})}),
        (document({"kind": "come_back", "id": "c", "way": "x"}, voicemail(), rescue="vm"), {}),
    ],
)  # fmt: skip
def test_what_cannot_be_gone_into_or_come_back_from_goes_to_the_rescue(
    document_: FlowDocument, inner: dict[str, FlowDocument]
) -> None:
    assert run(engine.prepare(document_, inner)).state.at == "vm"


def test_two_flows_that_continue_in_each_other_come_to_an_end() -> None:
    ring = {"kind": "continue_in", "id": "in", "flow": "visits", "returns": []}
    flow = engine.prepare(
        document(ring, voicemail(), rescue="vm"), {"visits": document(ring, voicemail(), rescue="vm")}
    )
    assert run(flow).state.at == "visits/vm"


def test_keys_pressed_early_are_kept_into_the_inner_flow() -> None:
    start = say("hello", "Hello", "in")
    steps = (start, *(step.model_dump(mode="json") for step in outer().steps))
    flow = engine.prepare(document(*steps, rescue="vm"), {"visits": INNER})
    assert said(run(flow, Digit("1"))) == ["Thanks"]


AROUND = Surroundings({"mb": True}, (), own="main", flows={"main": Inner("Main"), "visits": Inner("Visits", INNER)})


def findings(flow: FlowDocument, **flows: Inner) -> dict[str, str]:
    around = Surroundings({"mb": True}, (), own="main", flows={**AROUND.flows, **flows})
    return {one.kind: one.weight for one in within.findings(flow, around)}


def test_findings_between_a_flow_and_those_inside_it() -> None:
    assert findings(outer()) == {}
    assert findings(outer(), visits=Inner("Visits")) == {"no_live_flow": "stops"}
    lost = document({"kind": "come_back", "id": "c", "way": "lost"})
    assert findings(outer(), visits=Inner("Visits", lost)) == {"unnamed_way": "stops", "gone_way": "asks"}
    gone = outer().with_steps(
        tuple(one.model_copy(update={"flow": "gone"}) if one.id == "in" else one for one in outer().steps)
    )
    assert findings(gone) == {"no_flow": "stops"}
    itself = gone.with_steps(
        tuple(one.model_copy(update={"flow": "main"}) if one.id == "in" else one for one in gone.steps)
    )
    assert findings(itself) == {"flow_ring": "stops"}
    through = document({"kind": "continue_in", "id": "x", "flow": "main"})
    assert findings(outer(), visits=Inner("Visits", through)) == {"flow_ring": "stops"}
    assert findings(outer(), visits=Inner("Visits", through), main=Inner("Main", outer())) == {"flow_ring": "stops"}


def test_putting_an_inner_flow_live_looks_at_the_flows_around_it() -> None:
    flows = {"main": Inner("Main", outer()), "visits": Inner("Visits", INNER)}
    assert list(within.broken_outside(INNER, "visits", flows)) == []
    more = document({"kind": "come_back", "id": "c", "way": "moved"})
    assert [one.kind for one in within.broken_outside(more, "visits", flows)] == ["breaks_outer"]


RING = {"kind": "ring", "id": "r", "to": [{"kind": "dialed", "id": "d"}], "no_answer": "vm"}
DIALING = document(
    menu("m", {"2": "two", "21": "two"}, dial_extensions=True, extension="r", nothing="vm", wrong="vm", tries=1), RING,
    say("two", "Two", "end"), voicemail(),
)  # fmt: skip


def _with_extensions(question: Question) -> Answer:
    if isinstance(question, Extensions):
        return ("204", "31")
    if isinstance(question, LineUp):
        return (((Rung("ada", "Ada", f"+1410555{question.dialed:>04}", 20),),), (), False)
    return everyone_free(question)


@pytest.mark.parametrize(
    ("keys", "rung"),
    [("204", "+14105550204"), ("31", "+14105550031"), ("2#", "Two"), ("21", "Two"), ("205", ""), ("9", "")],
)
def test_a_caller_dials_a_persons_extension(keys: str, rung: str) -> None:
    result = run(engine.prepare(DIALING), *map(Digit, keys), source=_with_extensions)
    if not rung:
        assert result.state.at == "vm"
        return
    legs = [one for one in result.commands if isinstance(one, RingLeg)]
    assert [one.destination.dialed for one in legs] == ([rung] if rung != "Two" else [])
    assert rung != "Two" or said(result) == ["Two"]


def test_a_key_that_begins_an_extension_waits_for_the_next_digit() -> None:
    waiting = run(engine.prepare(DIALING), Digit("2"), source=_with_extensions)
    assert waiting.state.pending == "2"
    taken = engine.run(engine.prepare(DIALING), waiting.state, Silence(waiting.state.awaiting), _with_extensions)[0]
    assert said(taken) == ["Two"]
