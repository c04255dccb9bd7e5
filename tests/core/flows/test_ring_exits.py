"""Line-ups in the engine: rung wave by wave, and the exits that follow."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.flows import document, ring, voicemail
from tests.staff import PEOPLE, World, number, team
from vokari.core.flows.model.steps import Ring
from vokari.core.flows.questions import kinds as questions
from vokari.core.flows.questions import stored as answers_stored
from vokari.core.flows.questions.kinds import CanBeRung, LineUp
from vokari.core.flows.questions.knowledge import NOTHING
from vokari.core.flows.running import engine, events, state, stored
from vokari.core.people.line_up import Duty, line_up, state_of


def test_a_line_up_is_rung_wave_by_wave_and_its_exits_follow() -> None:
    world = World(busy=[number(2)], yard=team("ada", "ben", "cleo"))
    flow = engine.prepare(
        document(
            {**ring("r", no_answer="vm"), "to": [{"kind": "team", "id": "t", "team": "yard"}]}, voicemail(), rescue="vm"
        )
    )
    step = flow.steps["r"]
    assert isinstance(step, Ring)
    asked: list[object] = []

    def source(question: questions.Question) -> questions.Answer:
        answer: questions.Answer
        if isinstance(question, CanBeRung):
            answer = tuple(state_of(one, step, world.around) for one in question.phones)
        else:
            assert isinstance(question, LineUp)
            answer = line_up(step, "step", question.round, world.around)
            asked.append(question)
        assert question.fits(answer)
        assert answers_stored.load(answers_stored.dump({question: answer})) == {question: answer}
        return answer

    following, answers = engine.run(flow, state.State(), events.Arrived(), source)
    rung = following.commands[0]
    assert (rung.destination.dialed, rung.destination.name) == (number(0), "Ada")
    assert stored.load_state(stored.dump_state(following.state)) == following.state
    following, _ = engine.run(flow, following.state, events.Leg(rung.id, "rang_out"), source)
    second = following.commands[0]
    assert second.destination.dialed == number(1)
    done, _ = engine.run(flow, following.state, events.Leg(second.id, "answered"), source)
    assert (done.state.phase, done.state.talking_to) == ("talking", "ben")
    lost, _ = engine.run(flow, following.state, events.Leg(second.id, "rang_out"), source)
    assert lost.state.at == "vm"
    assert len(asked) == 1
    assert [type(one) for one in answers] == [LineUp, CanBeRung]


def test_every_class_of_line_up_leads_somewhere() -> None:
    flow = engine.prepare(
        document(
            {**ring("r", no_answer="vm"), "to": [{"kind": "team", "id": "t", "team": "yard"}]}, voicemail(), rescue="vm"
        )
    )
    for answer, _ in LineUp("r", 1).classes(NOTHING):
        following, _ = engine.run(
            flow,
            state.State(),
            events.Arrived(),
            lambda question, answer=answer: (
                answer if isinstance(question, LineUp) else ("free",) * len(question.phones)
            ),
        )
        assert following.state.phase == ("ringing" if answer[0] else "greeting")


@given(
    st.lists(st.sampled_from(["free", "on_call", "off"]), min_size=1, max_size=4),
    st.lists(st.sampled_from(["rang_out", "busy", "unreachable", "declined"]), min_size=4, max_size=4),
    st.sampled_from(["in_order", "all_at_once", "round_robin", "longest_idle", "random"]),
)
def test_the_exit_of_a_team_follows_the_rule_whoever_of_it_is_free(
    states: list[str], outcomes: list[str], strategy: str
) -> None:
    """product.md, Ring: all off duty: nobody available; else any rang out or declined: no answer; else any busy or on a
    call: busy, also those of a team of whom others were rung; else unreachable. The rule read out anew."""
    keys = list(PEOPLE)[: len(states)]
    world = World(
        busy=[number(n) for n, one in enumerate(states) if one == "on_call"], yard=team(*keys, strategy=strategy)
    )
    world.around.duty = lambda key: Duty(off=states[keys.index(key)] == "off")
    ways = {name: name for name in ("no_answer", "busy", "unreachable", "nobody")}
    says = [{"kind": "announcement", "id": name, "prompt": {"say": name}, "next": "end"} for name in ways]
    step = {**ring("r"), **ways, "to": [{"kind": "team", "id": "t", "team": "yard"}]}
    flow = engine.prepare(document(step, *says))
    here = flow.steps["r"]
    assert isinstance(here, Ring)

    def source(question: questions.Question) -> questions.Answer:
        if isinstance(question, CanBeRung):
            return tuple(state_of(one, here, world.around) for one in question.phones)
        assert isinstance(question, LineUp)
        return line_up(here, "step", question.round, world.around)

    now = engine.run(flow, state.State(), events.Arrived(), source)[0].state
    rung = set()
    while now.at == "r":
        assert now.ring is not None
        leg = now.ring.legs[0]
        assert leg.rung is not None
        assert states[keys.index(leg.rung.who)] == "free"
        rung.add(leg.rung.who)
        outcome: Any = outcomes[keys.index(leg.rung.who)]
        now = engine.run(flow, now, events.Leg(leg.command, outcome), source)[0].state
    assert rung == {key for key, one in zip(keys, states, strict=True) if one == "free"}
    came = {outcomes[keys.index(key)] for key in rung}
    if not rung and "on_call" not in states:
        expected = "nobody"
    elif came & {"rang_out", "declined"}:
        expected = "no_answer"
    elif "busy" in came or "on_call" in states:
        expected = "busy"
    else:
        expected = "unreachable"
    assert now.at == expected
