"""Parts of a flow that were built more than once are found, and made one where that changes nothing for callers."""

from typing import Any

from hypothesis import given, settings

from tests.flows import DANA, document, menu, phone, ring, voicemail
from tests.random_flows import random_documents
from vokari.core.checks.copies import copies, findings, joining
from vokari.core.checks.mends import mending
from vokari.core.flows.drafting.edits import Applied, apply
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.walks import reached


def desk(step: str, then: str, **more: Any) -> dict[str, Any]:
    return ring(step, phone("Dana", DANA), no_answer=then, **more)


def twice(**second: Any) -> FlowDocument:
    ways = menu("m", {"1": "sales", "2": "repairs"}, nothing="vm", wrong="vm")
    own = {
        "1": voicemail("vm1", greeting={"say": "Dana is out"}),
        "2": voicemail("vm2", greeting={"say": "Dana is out"}),
    }
    return document(
        ways,
        desk("sales", "vm1", name="Sales"),
        own["1"],
        desk("repairs", "vm2", name="Repairs", **second),
        own["2"],
        voicemail(),
        rescue="vm",
    )


def test_a_part_of_two_steps_that_stands_twice_is_told_and_made_one_at_a_press() -> None:
    of = twice()
    (found,) = findings(of)
    assert (found.kind, found.step, found.weight, found.mends) == ("built_again", "sales", "advises", ("join",))
    assert found.sentence == (
        "“Sales” and what follows it, 2 steps, is built 2 times alike, at rows 2 and 4: changed at one of them only, they drift apart."
    )
    done = apply(of, *mending(of, of.by_id["sales"], "join"))
    assert isinstance(done, Applied)
    assert set(done.document.by_id) == {"m", "sales", "vm1", "vm"}
    assert {one.target for one in done.document.by_id["m"].exits if one.keys} == {"sales"}
    assert list(findings(done.document)) == []


def test_parts_that_differ_and_single_steps_that_stand_twice_are_left_alone() -> None:
    assert list(findings(twice(rounds=2))) == []
    assert list(findings(document(desk("a", "b", name="A"), desk("b", "vm", name="B"), voicemail(), rescue="vm"))) == []
    alone = document(
        menu("m", {"1": "a", "2": "b", "3": "c"}, nothing="vm", wrong="vm"), *(desk(one, "vm") for one in "abc"), voicemail(), rescue="vm"
    )  # fmt: skip
    assert [len(group) for group, _ in copies(alone)] == [3]


def test_a_part_whose_step_a_kept_rehearsal_or_the_flow_itself_names_is_not_taken_away() -> None:
    of = twice()
    for named, left in (("vm2", "sales"), ("repairs", "repairs")):
        rescued = of.model_copy(update={"rescue": named})
        done = apply(rescued, *joining(rescued, rescued.by_id["sales"]))
        assert isinstance(done, Applied)
        assert done.document.rescue == named
        assert {"sales", "repairs", named} & set(done.document.by_id) == {left, named}
    kept = {
        "id": "r1",
        "name": "Repairs",
        "when": {"kind": "weekday", "day": 0, "at": "10:00"},
        "expects": {"ends_at": "vm2"},
    }
    called = FlowDocument.model_validate({**of.model_dump(mode="json"), "rehearsals": [kept]})
    assert not joining(called, called.by_id["sales"])


@settings(max_examples=200)
@given(random_documents())
def test_what_is_made_one_leaves_no_copy_of_it_and_nothing_unreached(of: FlowDocument) -> None:
    for group, _ in copies(of):
        edits = joining(of, group[0])
        if not edits:
            continue
        done = apply(of, *edits)
        assert isinstance(done, Applied)
        left = [one.id for one in group if one.id in done.document.by_id]
        assert len(left) == 1
        assert reached(done.document) == reached(of) & set(done.document.by_id)
