"""Each structural finding, and what is not one."""

from typing import Any

import pytest

from tests.flows import DANA, JOEL, document, hold, menu, phone, ring, say, voicemail
from vokari.core.checks.finding import ORDER, Finding, Surroundings, alike
from vokari.core.checks.flows import findings
from vokari.core.checks.mends import mend_words, mended
from vokari.core.flows.model.document import FlowDocument
from vokari.core.prompts import moments

AROUND = Surroundings({"mb": True, "quiet": False}, {"ls_bus"}, {"+14105550142"})
SOUND = (
    say("a", next_="m"),
    menu("m", {"1": "r"}, nothing="r", wrong="r"),
    ring("r", phone("Dana", DANA), no_answer="vm", machine_detection=True),
    voicemail(),
)


def kinds(flow: FlowDocument) -> list[str]:
    return [one.kind for one in findings(flow, AROUND)]


def test_a_sound_flow_has_no_findings() -> None:
    assert kinds(document(*SOUND, rescue="vm")) == []


@pytest.mark.parametrize("step", [ring("r", phone("Dana", DANA), no_answer="vm"), hold("r")])
def test_a_step_that_cannot_tell_a_person_from_a_mailbox_is_found_and_mended_at_one_press(step: dict[str, Any]) -> None:
    flow = document(step, voicemail(), rescue="vm")
    (found,) = [one for one in findings(flow, AROUND) if one.kind == "unconfirmed"]
    assert (found.weight, found.step) == ("asks", "r")
    for mend in found.mends:
        better = mended(flow, flow.steps[0], mend)
        assert better is not None
        assert mend_words(mend)
        mended_flow = flow.model_copy(update={"steps": (better, *flow.steps[1:])})
        assert "unconfirmed" not in kinds(mended_flow)
    assert mended(flow, flow.steps[1], found.mends[0]) is None


@pytest.mark.parametrize(
    ("steps", "kind"),
    [
        ((say("a"), voicemail()), "open_exit"),
        ((say("a", next_="vm"), voicemail(), say("z", next_="vm")), "unreached"),
        ((ring("r", no_answer="vm"), voicemail()), "rings_nobody"),
        ((ring("r", phone("X", "+1410"), no_answer="vm"), voicemail()), "bad_number"),
        ((ring("r", phone("X", "+14105550142"), no_answer="vm"), voicemail()), "rings_itself"),
        ((say("a", words="", next_="vm"), voicemail()), "no_words"),
        ((menu("m", {}, nothing="vm", wrong="vm"), voicemail()), "no_branches"),
        ((menu("m", {"1": "vm"}, nothing="end", wrong="vm"), voicemail()), "silent_end"),
        ((say("a", next_="h"), {"kind": "hang_up", "id": "h"}, voicemail()), "silent_end"),
        ((say("a", next_="vm"), voicemail(mailbox=None)), "no_mailbox"),
        ((say("a", next_="vm"), voicemail(mailbox="quiet")), "untold"),
        (
            (menu("m", {"1": {"to": "vm", "source": "ls_gone"}}, nothing="vm", wrong="vm"), voicemail()),
            "unknown_source",
        ),
        (
            (menu("m", {"1": "b"}, nothing="b", wrong="vm"), {"kind": "back_to", "id": "b", "to": "m"}, voicemail()),
            "silent_round",
        ),
        ((ring("r", phone("Dana", DANA), no_answer="r"), voicemail()), "silent_round"),
    ],
)
def test_each_finding(steps: tuple[dict[str, object], ...], kind: str) -> None:
    flow = document(*steps, rescue="vm")
    assert kind in kinds(flow)
    found = next(one for one in findings(flow, AROUND) if one.kind == kind)
    assert found.weight == "stops"
    assert flow.step(found.step) is not None
    assert found.sentence[0].isupper() or found.sentence[0] == "“"
    assert found.sentence.endswith(".")


@pytest.mark.parametrize(
    ("steps", "kind"),
    [
        ((say("a", words="Hello {caller}", next_="vm"), voicemail()), "spoken_field"),
        ((say("a", next_="vm"), voicemail(greeting={"say": "Speak after the beep"}, beep=False)), "promised_beep"),
        ((say("a", next_="vm"), voicemail(greeting={"say": "Press star when you are done"})), "promised_key"),
        ((menu("m", {"1": "vm"}, nothing="b", wrong="vm"), say("b", "Goodbye", "end"), voicemail()), "sent_away"),
        ((menu("m", {"1": "vm"}, nothing="vm", wrong="h"), {"kind": "hang_up", "id": "h"}, voicemail()), "sent_away"),
        (
            (
                say("a", words="I am putting you through to Joel", next_="r"),
                ring("r", phone("Dana", DANA), no_answer="r2"),
                ring("r2", phone("Joel", JOEL), no_answer="vm"),
                voicemail(),
            ),
            "somebody_else",
        ),
        (
            (
                say("a", words="Speak after the beep", next_="vm"),
                voicemail(greeting={"say": "Leave a message after the beep"}),
            ),
            "two_beeps",
        ),
        ((say("a", next_="v2"), voicemail(no_message="vm") | {"id": "v2"}, voicemail()), "two_beeps"),
        ((say("a", next_="vm"), voicemail(greeting={"say": moments.STEP_WORDS["voicemail"]["en"]})), "as_shipped"),
        ((ring("r", {**phone("Desk", DANA), "number": f"{DANA};ext=24"}, no_answer="vm"), voicemail()), "attendant"),
        ((ring("r", {**phone("Desk", DANA), "answered": "dialed"}, no_answer="vm"), voicemail()), "attendant"),
    ],
)
def test_words_that_the_flow_does_not_keep_ask(steps: tuple[dict[str, object], ...], kind: str) -> None:
    (found,) = [one for one in findings(document(*steps, rescue="vm"), AROUND) if one.kind == kind]
    assert found.weight == ("advises" if kind == "as_shipped" else "asks")


def test_who_is_announced_by_any_name_of_theirs_is_no_finding() -> None:
    to_dana = ring("r", phone("Dana Fisk", DANA), phone("Joel", JOEL), no_answer="vm", accept={"key": "1"})
    for words in ("I am putting you through to Dana", "Joel will be with you", "One moment please"):
        assert kinds(document(say("a", words=words, next_="r"), to_dana, voicemail(), rescue="vm")) == []


def test_findings_stand_worst_first_and_those_that_say_the_same_together() -> None:
    rings = [ring(one, phone("Dana", DANA), no_answer="vm") for one in ("r1", "r2")]
    flow = document(menu("m", {"1": "r1", "2": "r2", "3": None}, nothing="v2", wrong="v2"), *rings, voicemail(), voicemail("v2"), rescue="vm")  # fmt: skip
    found = findings(flow, AROUND)
    assert [one.weight for one in found] == sorted((one.weight for one in found), key=ORDER.index)
    assert {one.weight for one in found} == {"stops", "asks"}
    words = [Finding("words", "They are the usual ones.", step, weight="advises") for step in ("vm", "v2")]
    mend = [Finding("key", "It asks for no key.", step, weight="asks", mends=("detect",)) for step in ("r1", "r2")]
    assert alike([*mend, *words]) == [[mend[0]], [mend[1]], words], "each has a mend of its own"


def test_words_that_keep_their_promise_are_no_finding() -> None:
    greeting = {"say": "After the beep leave a message; press pound to end it, or 410-555-0160 in the day."}
    assert kinds(document(say("a", next_="vm"), voicemail(greeting=greeting), rescue="vm")) == []


def test_a_branch_without_a_name_is_told_by_its_place() -> None:
    week = {"kind": "junction", "id": "j", "name": "Week", "otherwise": "vm", "branches": [
        {"id": "b1", "when": {"test": "period", "any_of": ["open"], "of": "h"}, "to": None},
    ]}  # fmt: skip
    (found,) = [one for one in findings(document(week, voicemail(), rescue="vm"), AROUND) if one.kind == "open_exit"]
    assert found.sentence.startswith("Branch 1 of “Week” leads nowhere")


def test_the_rescue_must_be_there_off_every_round_and_take_calls() -> None:
    assert "no_rescue" in kinds(document(*SOUND))
    assert "weak_rescue" in kinds(document(*SOUND, rescue="a"))
    back = {"kind": "back_to", "id": "b", "to": "a"}
    assert "rescue_in_round" in kinds(document(say("a", next_="vm"), voicemail(message_left="b"), back, rescue="vm"))


def test_an_empty_flow_is_a_finding() -> None:
    assert kinds(FlowDocument(name="Empty", mark="EM")) == ["empty"]


def test_a_way_round_that_a_key_leaves_is_no_silent_round() -> None:
    back = {"kind": "back_to", "id": "b", "to": "m"}
    flow = document(
        menu("m", {"1": "t", "2": "vm"}, nothing="vm", wrong="vm"), say("t", next_="b"), back, voicemail(), rescue="vm"
    )
    assert kinds(flow) == []


def test_a_branch_that_states_a_known_source_is_fine() -> None:
    flow = document(
        menu("m", {"1": {"to": "vm", "source": "ls_bus"}}, nothing="vm", wrong="vm"), voicemail(), rescue="vm"
    )
    assert kinds(flow) == []


@pytest.mark.parametrize(
    ("before", "silent"),
    [
        ({"after": "l"}, []), ({"no_answer": "l"}, ["l"]), ({"after": "l", "busy": "l"}, ["l"]),
    ],
)  # fmt: skip
def test_a_call_may_end_at_a_step_nobody_hears_once_it_was_talked_over(before: dict, silent: list[str]) -> None:
    steps = (
        {**ring("r", phone("Dana", DANA), no_answer="vm"), **before}, {"kind": "label", "id": "l", "labels": ["x"], "next": "n"},
        {"kind": "label", "id": "n", "labels": ["y"], "next": "end"}, voicemail(),
    )  # fmt: skip
    found = findings(document(*steps, rescue="vm"), Surroundings({"mb": True}, []))
    assert [one.step for one in found if one.kind == "silent_end"] == ["n" for _ in silent]
