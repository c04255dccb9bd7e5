"""Advice from practice: each rule where its bound is passed, and not before (common practice, no source)."""

from typing import Any

import pytest

from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from vokari.core.checks.practice import findings
from vokari.core.flows.model.document import FlowDocument

LONG = "word " * 40
"""Sixteen seconds at 150 words a minute."""


def of(*steps: dict[str, Any]) -> list[tuple[str, str]]:
    flow: FlowDocument = document(*steps, voicemail(), rescue="vm")
    found = list(findings(flow))
    assert {one.weight for one in found} <= {"advises"}
    assert all("common practice" in one.sentence for one in found)
    return [(one.kind, one.step) for one in found]


def keys(count: int, to: str = "vm") -> dict[str, Any]:
    return {str(number + 1): to for number in range(count)}


def in_a_row(count: int, *, back: bool) -> list[dict[str, Any]]:
    """Menus behind each other, each with a way back or not."""
    steps = []
    for number in range(count):
        following = f"m{number + 1}" if number + 1 < count else "vm"
        ways = {"1": following, **({"9": f"m{number - 1}"} if back and number else {})}
        steps.append(menu(f"m{number}", ways, nothing="vm", wrong="vm"))
    return steps


@pytest.mark.parametrize(
    ("steps", "says"),
    [
        ([menu("m", keys(5), nothing="vm", wrong="vm")], []),
        ([menu("m", keys(6), nothing="vm", wrong="vm")], [("menu_too_long", "m")]),
        ([menu("m", {**keys(5), "*": {"hear_again": True}}, nothing="vm", wrong="vm")], []),
        (in_a_row(3, back=True), []),
        (in_a_row(4, back=True), [("menu_too_deep", "m3")]),
        (in_a_row(2, back=False), [("no_way_back", "m1")]),
        ([say("a", LONG, "m"), menu("m", keys(2), nothing="vm", wrong="vm")], []),
        ([say("a", LONG, "b"), say("b", LONG, "m"), menu("m", keys(2), nothing="vm", wrong="vm")], [("long_greeting", "a")]),
        ([say("a", LONG, "b"), say("b", LONG, "vm")], []),
        ([ring("r", phone("Dana", DANA, 20), no_answer="vm")], []),
        ([ring("r", phone("Dana", DANA, 70), no_answer="vm")], [("long_ring", "r")]),
        ([ring("r", phone("Dana", DANA, 6), no_answer="vm")], [("short_ring", "r")]),
        ([menu("m", keys(2), nothing="vm", wrong="vm", wait=2)], [("short_wait", "m")]),
    ],
)  # fmt: skip
def test_what_is_unusual_is_advised_against(steps: list[dict[str, Any]], says: list[tuple[str, str]]) -> None:
    assert of(*steps) == says
