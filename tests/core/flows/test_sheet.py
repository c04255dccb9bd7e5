"""The outline, the map and the edits: what the sheet of a flow stands on."""

import json
from dataclasses import asdict
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from tests.random_flows import IDS, random_documents
from vokari.core.flows.drafting import edits
from vokari.core.flows.drafting.typed_lines import Line, read_line
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.walks import reached
from vokari.core.flows.shown import drawing, outline
from vokari.core.flows.shown.words import speaking_seconds, summary
from vokari.demo.american import AMERICAN
from vokari.demo.british import BRITISH


def rows(flow: FlowDocument) -> list[tuple[int, int, str, str]]:
    return [
        (row.depth, row.number, row.exit.keys or row.exit.id if row.exit else "", row.step.id if row.step else "")
        for row in outline.outline(flow)
    ]


def test_steps_stand_under_their_exit_and_shared_ones_at_the_trunk() -> None:
    flow = document(
        say("a", next_="m"),
        menu("m", {"1": "r", "2": "q"}, nothing="r", wrong="vm"),
        ring("r", phone("Dana", DANA), no_answer="vm"),
        ring("q", phone("Dana", DANA), no_answer="vm"),
        voicemail(),
        rescue="vm",
    )
    assert rows(flow) == [
        (0, 1, "", "a"), (0, 2, "next", "m"), (1, 3, "1", "r"), (2, 0, "no_answer", ""), (1, 4, "2", "q"), (2, 0, "no_answer", ""),
        (1, 0, "nothing", ""), (1, 0, "wrong", ""), (0, 5, "", "vm"),
    ]  # fmt: skip


@given(random_documents())
def test_every_step_stands_once_in_the_outline_and_once_in_the_map(flow: FlowDocument) -> None:
    ids = sorted(step.id for step in flow.steps)
    shown = [row for row in outline.outline(flow) if row.step]
    assert sorted(row.step.id for row in shown) == ids
    assert [row.number for row in shown] == list(range(1, len(ids) + 1))
    drawn = drawing.draw(flow)
    assert sorted(box.step for box in drawn.boxes) == ids
    for box in drawn.boxes:
        assert box.x >= 0
        assert box.x + box.width <= drawn.width
        assert 0 <= box.y <= drawn.height


@given(random_documents())
def test_no_two_boxes_of_the_map_cover_each_other(flow: FlowDocument) -> None:
    boxes = drawing.draw(flow).boxes
    for i, one in enumerate(boxes):
        for other in boxes[i + 1 :]:
            apart = one.x + one.width <= other.x or other.x + other.width <= one.x
            assert apart or abs(one.y - other.y) >= drawing.BOX


def test_an_open_exit_is_a_broken_line() -> None:
    drawn = drawing.draw(document(say("a", next_="m"), menu("m", {"4": None}, nothing="a", wrong="a")))
    assert [wire.exit for wire in drawn.wires if wire.broken] == ["k0"]
    assert [mark.shape for mark in drawn.ends] == ["lost"]


def test_a_long_flow_is_drawn_without_overflow() -> None:
    steps = [say(f"s{n}", next_=f"s{n + 1}" if n < 1400 else None) for n in range(1401)]
    flow = document(*steps)
    assert len(outline.outline(flow)) == 1402
    assert len(drawing.draw(flow).boxes) == 1401


fill = st.fixed_dictionaries({"name": st.sampled_from(["", "New"])})
edit = st.one_of(
    st.builds(edits.AddStep, id=st.sampled_from(["n1", "n2"]), kind=st.sampled_from(["announcement", "menu", "ring", "voicemail", "label"]),
              at_step=st.sampled_from([*IDS[:3], ""]), at_exit=st.sampled_from(["start", "next", "nothing", "no_answer", "k0"]), fill=fill),
    st.builds(edits.RemoveStep, id=st.sampled_from(IDS[:4]), along=st.booleans()),
    st.builds(edits.Connect, step=st.sampled_from(IDS[:4]), exit=st.sampled_from(["next", "nothing", "wrong", "no_answer"]), to=st.sampled_from([None, "s0", "end"])),
    st.builds(edits.SetFlow, name=st.sampled_from(["Other", "Test"]), entry_limit=st.integers(2, 9)),
)  # fmt: skip


@given(random_documents(), st.lists(edit, max_size=6))
def test_edits_can_be_taken_back_one_by_one(flow: FlowDocument, wanted: list[edits.Edit]) -> None:
    stack = []
    now = flow
    for one in wanted:
        result = edits.apply(now, one)
        if isinstance(result, edits.Applied):
            stack.append((now, result.changes))
            now = result.document
    for before, changes in reversed(stack):
        logged = json.loads(json.dumps([asdict(change) for change in changes]))
        undone = edits.undo(now, tuple(edits.RowChange(**one) for one in logged), {})
        assert isinstance(undone, edits.Applied)
        now = undone.document
        assert (edits.flow_row(now), now.by_id) == (edits.flow_row(before), before.by_id)


def test_a_step_that_is_added_in_between_keeps_what_followed() -> None:
    flow = document(say("a", next_="vm"), voicemail(), rescue="vm")
    added = edits.apply(flow, edits.AddStep(id="n", kind="ring", at_step="a", at_exit="next"))
    assert isinstance(added, edits.Applied)
    assert added.document.step("a").next == "n"
    assert added.document.step("n").no_answer == "vm"
    removed = edits.apply(added.document, edits.RemoveStep(id="n"))
    assert isinstance(removed, edits.Applied)
    assert removed.document.step("a").next == "vm"


def test_an_end_that_was_chosen_stays_behind_a_step_with_one_way_on() -> None:
    for kind, way in (("label", "next"), ("notify", "next"), ("announcement", "next"), ("ring", "no_answer")):
        flow = document(say("a", next_="end"))
        added = edits.apply(flow, edits.AddStep(id="n", kind=kind, at_step="a", at_exit="next"))
        assert isinstance(added, edits.Applied)
        assert getattr(added.document.step("n"), way) == (None if kind == "ring" else "end")


def test_a_menu_is_removed_with_what_only_it_leads_to() -> None:
    flow = document(
        say("s", next_="m"), menu("m", {"1": "a", "2": "vm"}, nothing="vm", wrong="vm"), say("a", next_="c"), say("c", next_="vm"),
        voicemail(), rescue="vm",
    )  # fmt: skip
    assert edits.hanging(flow, "m") == ["a", "c"]
    assert edits.hanging(flow, "s") == edits.hanging(flow, "c") == edits.hanging(flow, "gone") == []
    removed = edits.apply(flow, edits.RemoveStep(id="m", along=True))
    assert isinstance(removed, edits.Applied)
    assert ([one.id for one in removed.document.steps], removed.document.step("s").next) == (["s", "vm"], "vm")
    assert removed.words.endswith("and 2 below it")
    back = edits.undo(removed.document, removed.changes, {})
    assert isinstance(back, edits.Applied)
    assert back.document.by_id == flow.by_id


@given(random_documents(), st.sampled_from(IDS[:4]))
def test_nothing_is_left_hanging_that_was_not_before(flow: FlowDocument, step: str) -> None:
    removed = edits.apply(flow, edits.RemoveStep(id=step, along=True))
    if isinstance(removed, edits.Applied):
        left = {one.id for one in removed.document.steps}
        assert left - reached(removed.document) <= {one.id for one in flow.steps} - reached(flow)
        assert {one.id for one in flow.steps} - left - {step} <= reached(flow)


def test_the_first_voicemail_becomes_the_rescue() -> None:
    added = edits.apply(document(say("a")), edits.AddStep(id="v", kind="voicemail", at_step="a", at_exit="next"))
    assert isinstance(added, edits.Applied)
    assert added.document.rescue == "v"


def test_an_edit_that_cannot_be_is_refused_in_words() -> None:
    flow = document(say("a"))
    for wanted in (
        edits.AddStep(id="n", kind="juggle"), edits.RemoveStep(id="zz"), edits.Connect(step="a", exit="next", to="zz"),
        edits.SetStep(step=flow.step("a").model_copy(update={"id": "zz"})),
    ):  # fmt: skip
        assert isinstance(edits.apply(flow, wanted), edits.Refused)


def test_what_somebody_changed_since_cannot_be_taken_back() -> None:
    first = edits.apply(document(say("a")), edits.SetStep(step=document(say("a", "Mine")).steps[0]))
    assert isinstance(first, edits.Applied)
    second = edits.apply(first.document, edits.SetStep(step=document(say("a", "Theirs")).steps[0]))
    assert isinstance(second, edits.Applied)
    assert isinstance(edits.undo(second.document, first.changes, {"a": "Welcome"}), edits.Refused)


def test_lines_in_plain_words() -> None:
    line = read_line("4 ring Boat lifts 25s", "US")
    assert isinstance(line, Line)
    assert (line.key, line.kind, line.fill["name"]) == ("4", "ring", "Boat lifts")
    dana = read_line("ring Dana (410) 555-0160 25s", "US")
    assert isinstance(dana, Line)
    assert dana.fill["to"][0] == {"kind": "number", "id": "d1", "name": "Dana", "number": "+14105550160", "seconds": 25}
    said = read_line("say We are closed today.", "US")
    assert isinstance(said, Line)
    assert said.fill["prompt"]["say"] == "We are closed today."
    assert read_line("back to 3", "US") == Line("", "back_to", {}, 3)
    for wrong in ("juggle boats", "ring Dana 410-555-01 25s", "ring Bea 300s", "back to harbor", ""):
        assert isinstance(read_line(wrong, "US"), str)


def test_text_is_read_at_about_150_words_a_minute() -> None:
    """Common practice, no source."""
    assert speaking_seconds("word " * 150) == 60


def test_the_demo_flows_are_sound_and_speak_for_themselves() -> None:
    for make in (*AMERICAN, *BRITISH):
        plan = make()
        for flow in plan.flows:
            words = [
                summary(step, flow, {key: name for key, (name, _) in plan.mailboxes.items()}) for step in flow.steps
            ]
            assert all("yet" not in one for one in words), flow.name


def test_every_exit_can_be_led_elsewhere() -> None:
    for make in AMERICAN:
        for step in make().flows[0].steps:
            for exit_ in step.exits:
                changed = step.with_target(exit_.id, "end")
                assert {one.id: one.target for one in changed.exits}[exit_.id] == "end"


def test_the_schema_in_docs_is_the_format() -> None:
    from vokari.formats.flow_file import json_schema

    kept = json.loads((Path(__file__).parents[3] / "docs" / "flow-file.schema.json").read_text())
    assert kept == json.loads(json.dumps(json_schema()))
