"""What holds for every flow and every sequence of events."""

import json

from hypothesis import given
from hypothesis import strategies as st

from tests.flows import random_documents
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import Ring
from vokari.core.flows.running import engine, events, questions, state
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.questions import HoldTurn, LookedUp, WhoIsFree, everyone_free
from vokari.core.flows.running.steps.ring import exit_for
from vokari.core.traffic.line import BEHAVIORS, Message, Phone, ScriptedCaller, run_call

numbers = st.integers(0, 60)
any_event = st.one_of(
    st.builds(events.Finished, numbers), st.builds(events.Silence, numbers), st.builds(events.TimerFired, numbers),
    st.builds(events.Digit, st.sampled_from("0123456789*#"), st.booleans()),
    st.builds(events.Leg, numbers, st.sampled_from(["answered", "accepted", "refused", "busy", "rang_out", "machine", "ended"])),
    st.builds(events.Recorded, numbers, st.floats(0, 90), st.booleans()), st.just(events.Poked()), st.just(events.Arrived()),
    st.builds(events.Gone, st.booleans()),
)  # fmt: skip
answers = st.sampled_from(["free", "on_call", "off"])


@given(random_documents(), st.data())
def test_no_sequence_of_events_raises_or_runs_for_ever_and_a_refold_answers_the_same(
    flow: FlowDocument, data: st.DataObject
) -> None:
    prepared = engine.prepare(flow)
    now, log = state.State(), []
    for number in range(400):
        offered = inputs(prepared, now)
        if not offered:
            break
        strange = number % 4 == 3
        event = data.draw(any_event if strange else st.sampled_from(offered[:-1] or offered))
        drawn = data.draw(answers)
        held = data.draw(st.integers(0, 3))
        following, used = engine.run(
            prepared,
            now,
            event,
            lambda question, drawn=drawn, held=held: (
                question.classes()[held % len(question.classes())]
                if isinstance(question, HoldTurn | LookedUp)
                else (drawn,) * len(question.destinations)
            ),
        )
        log.append((events.dump(event), questions.dump(used), following.commands))
        now = following.state
        assert state.load(json.loads(json.dumps(state.dump(now)))) == now
        hash(now)
    again = state.State()
    for raw, used, commands in json.loads(json.dumps([(e, a, []) for e, a, _ in log])):
        result = engine.step(prepared, again, events.load(raw), questions.load(used))
        assert isinstance(result, engine.Next)
        again = result.state
        del commands
    assert again == now
    assert now.steps <= engine.STEP_LIMIT + engine.RESCUE_STEPS


def _waits(question: object) -> object:
    """A world where nobody of any team ever comes free."""
    return ("wait", 2, 90, ()) if isinstance(question, HoldTurn) else everyone_free(question)


@given(
    random_documents(),
    st.lists(st.tuples(st.floats(0, 90), st.sampled_from("123*#")), max_size=6),
    st.sampled_from(BEHAVIORS),
)
def test_every_simulated_call_ends_and_repeats_itself(
    flow: FlowDocument, press: list[tuple[float, str]], behavior: str
) -> None:
    phones = {f"+141055501{60 + n}": Phone(behavior, 5.0, 30.0) for n in range(3)}
    runs = [
        run_call(
            engine.prepare(flow), ScriptedCaller(tuple(press), None, Message(4.0, "silence")), phones, source=_waits
        )
        for _ in range(2)
    ]
    assert runs[0] == runs[1]
    assert runs[0].state.ended
    assert len(runs[0].log) < 3000


@given(st.lists(answers, min_size=1, max_size=5))
def test_the_classes_of_who_is_free_lead_to_the_same_exits_as_all_answers(states: list[str]) -> None:
    question = WhoIsFree("r", 1, tuple(f"d{n}" for n in range(len(states))))
    assert question.fits(tuple(states))
    kinds = {frozenset(answer) for answer in question.answers()}
    assert {frozenset(answer) for answer in question.classes()} == kinds
    assert len(question.classes()) <= 7


@given(st.lists(st.sampled_from(["no_answer", "busy", "unreachable", "off"]), max_size=6))
def test_turn_orders_do_not_change_the_exit(outcomes: list[str]) -> None:
    ring = Ring(id="r", no_answer="n", busy="b", unreachable="u", nobody="o")
    assert exit_for(ring, tuple(outcomes)) == exit_for(ring, tuple(reversed(outcomes)))


@given(random_documents(), st.lists(st.sampled_from("0123456789*#"), min_size=1, max_size=7))
def test_inputs_cover_what_a_key_can_do(flow: FlowDocument, keys: list[str]) -> None:
    """A key that is not among the inputs of a menu leads where the one wrong key leads."""
    prepared = engine.prepare(flow)
    now = engine.run(prepared, state.State(), events.Arrived(), questions.everyone_free)[0].state
    for key in keys:
        offered = [event.key for event in inputs(prepared, now) if isinstance(event, events.Digit)]
        after = engine.run(prepared, now, events.Digit(key), questions.everyone_free)[0].state
        if now.phase in ("saying", "waiting") and flow.step(now.at).kind == "menu" and key not in offered:
            results = [
                engine.run(prepared, now, events.Digit(one), questions.everyone_free)[0].state for one in offered
            ]
            assert state.without_counters(after) in [state.without_counters(one) for one in results]
        now = after
