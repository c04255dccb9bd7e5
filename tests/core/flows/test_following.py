"""Everyone else: silence, wrong keys and no answer lead there until they are given their own."""

from typing import Any

from tests.flows import document, menu, phone, ring, say, voicemail
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.checks.mends import mended
from vokari.core.flows.drafting import edits
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.shown.outline import outline

FLOW = document(
    menu("m", {"1": "a", "2": "r"}, nothing="desk", wrong="box"), say("a", "Hello", "r"), ring("r", phone("Ada", "+14105550170"), no_answer="desk"),
    ring("desk", phone("Ben", "+14105550171"), no_answer="box"), voicemail("box"), rescue="box", everyone_else="desk",
)  # fmt: skip


def done(flow: FlowDocument, *wanted: edits.Edit) -> Any:
    result = edits.apply(flow, *wanted)
    assert isinstance(result, edits.Applied), result
    return result.document.by_id


def test_new_steps_and_exits_left_open_follow_and_what_hangs_below_it_does_not() -> None:
    steps = done(FLOW, edits.AddStep(id="n", kind="menu", at_step="a", at_exit="next"))
    assert (steps["n"].nothing, steps["n"].wrong) == ("r", "desk"), "what stood there goes on from silence"
    assert done(FLOW, edits.Connect(step="m", exit="wrong", to=None))["m"].wrong == "desk"
    assert done(FLOW, edits.Connect(step="desk", exit="no_answer", to=None))["desk"].no_answer is None


def test_another_everyone_else_takes_those_that_followed_and_leaves_those_of_their_own() -> None:
    steps = done(FLOW, edits.SetFlow(everyone_else="box"))
    assert (steps["m"].nothing, steps["m"].wrong, steps["r"].no_answer, steps["desk"].no_answer) == ("box",) * 4
    steps = done(FLOW.model_copy(update={"everyone_else": None}), edits.SetFlow(everyone_else="desk"))
    assert steps["m"].wrong == "box"
    bare = FLOW.model_copy(update={"rescue": None, "everyone_else": None})
    named = edits.apply(bare, edits.SetFlow(everyone_else="desk"))
    assert isinstance(named, edits.Applied)
    assert named.document.rescue == "desk", "it is the rescue unless another is named"


def test_the_sheet_tells_exits_that_follow_from_those_of_their_own() -> None:
    rows = {
        (row.parent.id, row.exit.id): row.follows
        for row in outline(FLOW)
        if row.step is None and row.parent and row.exit
    }
    assert (rows["m", "nothing"], rows["m", "wrong"], rows["r", "no_answer"]) == (True, False, True)


def test_a_row_removed_along_takes_the_key_that_led_only_there() -> None:
    steps = done(FLOW, edits.RemoveStep(id="a", along=True))
    assert "a" not in steps
    assert [one.keys for one in steps["m"].branches] == ["2"]
    assert [one.keys for one in done(FLOW, edits.RemoveStep(id="a"))["m"].branches] == ["1", "2"]
    assert [one.keys for one in done(FLOW, edits.RemoveStep(id="r", along=True))["m"].branches] == ["1", "2"], (
        "two lead there"
    )


def test_an_exit_that_leads_nowhere_is_sent_to_everyone_else_at_one_press() -> None:
    flow = document(menu("m", {"1": None}, nothing="vm", wrong="vm"), voicemail(), rescue="vm", everyone_else="vm")
    (found,) = [one for one in findings(flow, Surroundings({"mb": True}, ())) if one.kind == "open_exit"]
    assert found.mends == ("everyone:k0",)
    better = mended(flow, flow.by_id["m"], found.mends[0])
    assert better is not None
    assert better.branches[0].to == "vm"  # type: ignore[union-attr]
    assert mended(flow, flow.by_id["m"], "everyone:nothing") is None
