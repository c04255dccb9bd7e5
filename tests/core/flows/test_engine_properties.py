"""What holds for every flow and every sequence of events."""

import json
from collections.abc import Sequence
from itertools import permutations, product

from hypothesis import given
from hypothesis import strategies as st

from tests.flows import document, phone, ring
from tests.random_flows import KNOWN, answered, random_documents, random_flows
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions import stored as answers_stored
from vokari.core.flows.questions.kinds import (
    Answer,
    CanBeRung,
    HoldTurn,
    LineUp,
    Question,
    Rung,
    WhoIsFree,
    everyone_free,
)
from vokari.core.flows.running import engine, events, stored, turn
from vokari.core.flows.running.canonical import canonical
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.state import State
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.core.traffic.pacing import BEHAVIORS

numbers = st.integers(0, 60)
any_event = st.one_of(
    st.builds(events.Finished, numbers), st.builds(events.Silence, numbers), st.builds(events.TimerFired, numbers),
    st.builds(events.Digit, st.sampled_from("0123456789*#"), st.booleans()),
    st.builds(events.Leg, numbers, st.sampled_from(["answered", "accepted", "refused", "busy", "rang_out", "machine", "ended"])),
    st.builds(events.Recorded, numbers, st.floats(0, 90), st.booleans()), st.just(events.Poked()), st.just(events.Arrived()),
    st.builds(events.Gone, st.booleans()),
)  # fmt: skip
choices = st.integers(0, 11)


@given(random_flows(), st.data())
def test_no_sequence_of_events_raises_or_runs_for_ever_and_a_refold_answers_the_same(
    prepared: Flow, data: st.DataObject
) -> None:
    now, log = State(), []
    for number in range(400):
        offered = inputs(prepared, now)
        if not offered:
            break
        strange = number % 4 == 3
        event = data.draw(any_event if strange else st.sampled_from(offered[:-1] or offered))
        following, used = engine.run(prepared, now, event, answered(data.draw(choices)))
        log.append((stored.dump_event(event), answers_stored.dump(used), stored.dump_state(following.state)))
        now = following.state
        hash(now)
    again = State()
    for raw, used_raw, after in json.loads(json.dumps(log)):
        result = engine.step(prepared, again, stored.load_event(raw), answers_stored.load(used_raw))
        assert isinstance(result, engine.Next)
        again = result.state
        assert stored.load_state(after) == again
    assert again == now
    assert now.steps <= turn.STEP_LIMIT + turn.RESCUE_STEPS


@given(random_flows(), st.lists(choices, min_size=1, max_size=12), choices)
def test_a_turn_that_goes_on_from_its_questions_is_the_turn_that_knew_all_answers(
    prepared: Flow, picks: list[int], other: int
) -> None:
    now = State()
    for pick in picks:
        offered = inputs(prepared, now)
        if not offered:
            break
        event = offered[pick % len(offered)]
        answers: dict[Question, Answer] = {}
        result = engine.step(prepared, now, event, answers)
        while isinstance(result, engine.Ask):
            assert result.question not in answers
            engine.resume(prepared, result, answered(other)(result.question))
            answers[result.question] = answered(pick)(result.question)
            result = engine.resume(prepared, result, answers[result.question])
        assert engine.step(prepared, now, event, answers) == result
        now = result.state


@given(random_flows(), st.lists(choices, min_size=1, max_size=25))
def test_a_canonical_state_can_be_stepped_and_leads_where_its_own_state_leads(prepared: Flow, picks: list[int]) -> None:
    now = State()
    for pick in picks:
        plain = canonical(prepared, now)
        assert canonical(prepared, plain) == plain
        offered, same = inputs(prepared, now), inputs(prepared, plain)
        if not offered:
            assert not same
            break
        own = sorted(range(len(offered)), key=lambda index: _which(offered[index], now))
        theirs = sorted(range(len(same)), key=lambda index: _which(same[index], plain))
        assert len(own) == len(theirs)
        at = pick % len(own)
        after, used = engine.run(prepared, now, offered[own[at]], answered(pick))
        likewise, asked = engine.run(prepared, plain, same[theirs[at]], answered(pick))
        if after.state.steps < turn.STEP_LIMIT and not _met_a_limit(prepared, after.state):
            assert canonical(prepared, likewise.state) == canonical(prepared, after.state)
            assert [type(one) for one in asked] == [type(one) for one in used]
            assert [by for by, _ in likewise.way] == [by for by, _ in after.way]
        now = after.state


def _met_a_limit(flow: Flow, state: State) -> bool:
    """Whether a step was entered as often as it may be: from then on counters make a difference."""
    return state.rescued or any(times >= flow.home(step).entry_limit for step, times in state.entries)


def _which(event: events.Event, state: State) -> tuple[str, ...]:
    """An event by what it is about, not by the id of its command."""
    command = getattr(event, "command", 0)
    legs = state.ring.legs if state.ring else ()
    rung = next((f"{leg.destination} {leg.rung}" for leg in legs if leg.command == command), "")
    hold = state.hold
    timer = next((name for name in ("limit", "tell", "look") if hold and getattr(hold, name) == command), "")
    other = [str(value) for name, value in stored.dump_event(event).items() if name != "command"]
    return (rung, timer, str(command == state.awaiting), *other)


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


def _rung_out(flow: engine.Flow, source: engine.AnswerSource, outcomes: Sequence[str]) -> str:
    """The step that a call comes to when its phones, in the order of their names, end so."""
    now = engine.run(flow, State(), events.Arrived(), source)[0].state
    while now.phase == "ringing" and now.ring:
        leg = now.ring.legs[0]
        name = leg.rung.who if leg.rung else f"d{leg.destination}"
        now = engine.run(flow, now, events.Leg(leg.command, outcomes[int(name[-1])]), source)[0].state
    return now.at


EXITS = {name: name for name in ("no_answer", "busy", "unreachable", "nobody")}


def _leading_everywhere(**step: object) -> engine.Flow:
    ends = [{"kind": "voicemail", "id": name, "mailbox": "mb", "greeting": {"say": name}} for name in EXITS]
    return engine.prepare(document({**ring("r"), **EXITS, **step}, *ends, rescue="nobody"))


@given(st.integers(1, 3), st.sampled_from(["in_order", "all_at_once"]))
def test_the_classes_of_who_is_free_lead_to_the_same_exits_as_all_answers(count: int, strategy: str) -> None:
    """Every state of every phone, with every outcome of those that ring, against one answer of each class."""
    flow = _leading_everywhere(
        to=[phone("P", f"+141055501{60 + n}") for n in range(count)], strategy=strategy
    )  # fmt: skip
    question = WhoIsFree("r", 1, tuple(f"d{n}" for n in range(count)))

    def exits(answers: Sequence[tuple[str, ...]]) -> set[tuple[frozenset[str], str]]:
        found = set()
        for states in answers:
            of = dict(zip(question.destinations, states, strict=True))
            for outcomes in product(["rang_out", "busy", "unreachable"], repeat=count):
                rung = frozenset(what for what, state in zip(outcomes, states, strict=True) if state == "free")
                at = _rung_out(flow, lambda asked, of=of: tuple(of[_nth(one)] for one in asked.destinations), outcomes)
                found.add((rung | (set(states) - {"free"}), at))
        return found

    every = exits(list(product(["free", "on_call", "off"], repeat=count)))
    assert {at for _, at in every} == {at for _, at in exits([answer for answer, _ in question.classes(KNOWN)])}
    assert len(dict(every)) == len(every), "what comes of the phones decides the exit"


def _nth(destination: str) -> str:
    return f"d{int(destination[1:]) - 160}"


@given(st.lists(st.sampled_from(["rang_out", "busy", "unreachable"]), min_size=2, max_size=4), st.integers(0, 2))
def test_turn_orders_do_not_change_the_exit(outcomes: list[str], off: int) -> None:
    """Everybody of a team is rung in every order there is; only what came of them decides the exit."""
    flow = _leading_everywhere(to=[{"kind": "team", "id": "t", "team": "crew"}], strategy="round_robin")
    people = [Rung(f"p{n}", "", f"+1410555016{n}", 20) for n in range(len(outcomes))]
    found = set()
    for order in permutations(people):

        def source(question: Question, order: Sequence[Rung] = order) -> Answer:
            if isinstance(question, LineUp):
                return (tuple((one,) for one in order), ("off",) * off, False)
            assert isinstance(question, CanBeRung)
            return ("free",) * len(question.phones)

        found.add(_rung_out(flow, source, outcomes))
    assert len(found) == 1
    wanted = "no_answer" if "rang_out" in outcomes else "busy" if "busy" in outcomes else "unreachable"
    assert found == {wanted}


@given(random_documents(), st.lists(st.sampled_from("0123456789*#"), min_size=1, max_size=7))
def test_inputs_cover_what_a_key_can_do(flow: FlowDocument, keys: list[str]) -> None:
    """A key that is not among the inputs of a step leads where one of its inputs leads, as far as any later step can tell."""
    prepared = engine.prepare(flow)
    now = engine.run(prepared, State(), events.Arrived(), everyone_free)[0].state
    for key in keys:
        offered = [event for event in inputs(prepared, now) if isinstance(event, events.Digit)]
        after = engine.run(prepared, now, events.Digit(key), everyone_free)[0].state
        if offered and not now.gone and not _met_a_limit(prepared, after):
            results = [engine.run(prepared, now, one, everyone_free)[0].state for one in offered]
            assert canonical(prepared, after) in [canonical(prepared, one) for one in results]
        now = after
