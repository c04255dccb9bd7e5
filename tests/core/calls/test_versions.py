"""Whether a version loses more callers, and where callers passed and gave up."""

import pytest

from vokari.core.calls.passages import Place, passages
from vokari.core.calls.worse import Lost, is_worse


@pytest.mark.parametrize(
    ("before", "after", "worse"),
    [
        ((100, 10), (100, 10), False), ((100, 10), (100, 30), True), ((1000, 100), (1000, 140), False), ((100, 10), (19, 19), False),
        ((40, 4), (40, 8), False), ((0, 0), (50, 50), False), ((100, 30), (100, 10), False), ((30, 0), (30, 6), True), ((50, 0), (50, 0), False),
    ],
)  # fmt: skip
def test_a_share_that_grew_by_more_than_chance_is_worse(
    before: tuple[int, int], after: tuple[int, int], worse: bool
) -> None:
    """z of the pooled test: 3.54 for 10 to 30 of 100, 1.26 for 4 to 8 of 40, 2.58 for 0 to 6 of 30; 2.33 is the one-sided 1 % point."""
    assert is_worse(Lost(*before), Lost(*after)) is worse


def entry(way: list[tuple[str, str]], step: str, kind: str = "digit") -> dict[str, object]:
    return {"way": way, "step": step, "event": {"kind": kind}}


def test_steps_and_exits_are_counted_inner_ones_under_their_own_version() -> None:
    log = [
        entry([("start", "in"), ("within", "fl_a/ask")], "fl_a/ask", "arrived"), entry([("k1", "fl_a/back"), ("w1", "say")], "say"),
        entry([("next", "menu")], "menu"), entry([], "menu", "gone"),
    ]  # fmt: skip
    passed, gave_up = passages(log, 7, {"fl_a": 3}, lost=True)
    assert passed == {
        Place(7, "in"): 1, Place(3, "ask"): 1, Place(3, "back"): 1, Place(7, "say"): 1, Place(7, "menu"): 1,
        Place(7, "in", "within"): 1, Place(3, "ask", "k1"): 1, Place(7, "in", "w1"): 1, Place(7, "say", "next"): 1,
    }  # fmt: skip
    assert gave_up == {Place(7, "menu"): 1}
    assert passages(log, 7, {"fl_a": 3}, lost=False)[1] == {}
