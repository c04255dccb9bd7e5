"""What a walk over all ways of a call meets: every situation that makes a difference, and few that make none."""

from typing import Any

from tests.flows import document, menu, phone, ring, say, voicemail
from tests.random_flows import KNOWN
from vokari.core.calls.fates import ending
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.running import engine
from vokari.core.flows.running.canonical import canonical
from vokari.core.flows.running.inputs import inputs
from vokari.core.flows.running.state import State


def walked(flow: FlowDocument, most: int = 20_000) -> tuple[set[State], set[str]]:
    """Every situation that can be come to, and the steps that were entered."""
    prepared = engine.prepare(flow)
    seen = {canonical(prepared, State())}
    todo, steps = list(seen), set[str]()
    while todo:
        now = todo.pop()
        for event in inputs(prepared, now):
            open_: list[Any] = [engine.step(prepared, now, event, {})]
            while open_:
                result = open_.pop()
                if isinstance(result, engine.Ask):
                    open_ += [engine.resume(prepared, result, answer) for answer, _ in result.question.classes(KNOWN)]
                    continue
                steps |= {step for _, step in result.way}
                after = canonical(prepared, result.state)
                if after not in seen:
                    seen.add(after)
                    todo.append(after)
        assert len(seen) < most
    return seen, steps


def test_keys_that_no_later_step_can_use_make_no_situations() -> None:
    """A notice, a menu of three keys, a voicemail: keys pressed in the notice are told apart as far as the menu can use them."""
    flow = document(
        say("n", "Calls may be recorded", "m", notice=True), menu("m", {"1": "vm", "2": "vm", "3": "r"}, nothing="vm", wrong="vm"),
        ring("r", phone("P", "+14105550160"), no_answer="vm"), voicemail(), rescue="vm",
    )  # fmt: skip
    seen, steps = walked(flow)
    assert steps == {"n", "m", "r", "vm"}
    assert len(seen) < 400
    kept = {one.kept for one in seen if one.at == "n"}
    assert {"1", "2", "3", "91", "99"} <= kept, "a key, or a wrong one and then a key"
    assert not any(len(one) > 2 for one in kept), "after the second key the menu is left"


def test_an_entry_that_a_condition_looks_for_is_reached() -> None:
    when = {"test": "value", "of": "entry", "any_of": ["2468"]}
    flow = document(
        {"kind": "keypad_entry", "id": "k", "shortest": 2, "longest": 6, "typed": "j", "nothing": "vm", "wrong": "vm"},
        {"kind": "junction", "id": "j", "branches": [{"id": "b", "when": when, "to": "known"}], "otherwise": "vm"},
        say("known", "Welcome back", "vm"), voicemail(), rescue="vm",
    )  # fmt: skip
    seen, steps = walked(flow)
    assert "known" in steps
    assert len(seen) < 200
    assert {dict(one.values).get("entry") for one in seen if one.at == "j"} <= {"2468", "?"}


def test_hanging_up_after_half_an_answer_is_a_fate_of_its_own() -> None:
    flow = document(say("a", "We are open from nine to five", "vm", counts_as="served"), voicemail(), rescue="vm")
    seen, _ = walked(flow)
    fates = {ending(one, 60).fate for one in seen if one.ended and one.ended_by == "caller"}
    assert fates == {"served", "lost", "message_left"}
