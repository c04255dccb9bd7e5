"""Two documents of a flow compared, as sentences."""

from hypothesis import given

from tests.flows import DANA, JOEL, document, menu, phone, ring, say, voicemail
from tests.random_flows import random_documents
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.shown.differences import differences

OLD = document(
    say("hello", "Hello", "m", name="Welcome"), menu("m", {"1": {"to": "r", "name": "Yard"}, "2": "vm"}, nothing="r", wrong="r", name="What for"),
    ring("r", phone("Dana", DANA), no_answer="vm", name="Yard office"), voicemail(name="Box"), say("old", "Gone", "vm", name="Old words"), rescue="vm",
)  # fmt: skip


def changed(**steps: dict[str, object]) -> FlowDocument:
    raw = [
        one.model_dump(mode="json") | steps.get(one.id, {}) for one in OLD.steps if steps.get(one.id, {}) is not None
    ]
    return OLD.model_validate(OLD.model_dump(mode="json") | {"steps": raw})


def said(new: FlowDocument) -> list[tuple[str, str, str]]:
    return [(one.what, one.step, one.sentence) for one in differences(OLD, new)]


def test_each_edit_is_told_once_and_at_its_row() -> None:
    branches = [one.model_dump(mode="json") for one in OLD.by_id["m"].branches]  # type: ignore[union-attr]
    assert said(OLD) == []
    assert said(changed(hello={"prompt": {"say": "Good day"}})) == [
        ("changed", "hello", "“Welcome” says “Good day”; before: “Hello”.")
    ]
    assert said(changed(r={"name": "Desk"}))[0][2] == "“Yard office” is called “Desk” now."
    two = [phone("Dana", DANA), phone("Joel", JOEL, 15)]
    assert "rings Dana and Joel" in said(changed(r={"to": two}))[0][2]
    assert said(changed(m={"branches": [{**branches[0], "to": "vm"}, branches[1]]})) == [
        ("changed", "m", "Key 1 (Yard) of “What for” leads to “Box”, before to “Yard office”.")
    ]
    gone = said(changed(m={"branches": branches[:1]}))
    assert [one[2] for one in gone][1:] == ["Key 2 of “What for” is gone; it led to “Box”."]
    assert said(changed(r={"shows": "tracking_number"})) == [("changed", "r", "“Yard office”: shows changed.")]
    assert said(changed(r={"note": "Ask Dana"})) == [("changed", "r", "The note of “Yard office” is changed.")]


def test_steps_that_come_and_go_and_the_flow_itself() -> None:
    less = OLD.model_copy(update={"steps": OLD.steps[:-1], "name": "Other", "entry_limit": 4})
    assert said(less) == [
        ("flow", "", "The name is Other, before Test."), ("flow", "", "The limit of entries is 4, before 10."),
        ("removed", "old", "Removed “Old words”: says “Gone”."),
    ]  # fmt: skip
    assert [(one.what, one.step) for one in differences(less, OLD)][-1] == ("added", "old")


@given(random_documents(), random_documents())
def test_any_two_documents_can_be_compared_and_no_change_is_kept_silent(one: FlowDocument, other: FlowDocument) -> None:
    found = differences(one, other)
    assert differences(one, one) == []
    told = {one.step for one in found}
    changed = {step.id for step in other.steps if one.step(step.id) != step} | {
        step.id for step in one.steps if other.step(step.id) is None
    }
    assert told - {""} == changed
    assert all(one.sentence.endswith(".") for one in found)
