"""Flows that are built to explode: the walk ends, says what it did not reach, and calls nothing proven that it did not walk."""

from typing import Any

import pytest

from tests.flows import asks, document, label, menu, voicemail
from tests.worlds import CLIENT, NOW
from vokari.core.checks.proof import findings
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.running.flow import Flow
from vokari.core.proof import outcomes, walk
from vokari.core.proof.claims import Claims
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import AHEAD, World


def claims(flow: FlowDocument, most: int = 2000) -> Claims:
    return Claims(Walk(Flow(flow), World(Flow(flow), CLIENT, NOW, NOW + AHEAD), most))


def nested(deep: int, at: int = 1) -> dict[str, Any]:
    parts = [nested(deep - 1, 3 * at + number) for number in range(3)] if deep else []
    return {"test": "any" if deep % 2 else "all", "parts": parts} if deep else label(f"label {at}")


def test_fifty_menus_that_all_lead_to_each_other_are_proven() -> None:
    steps = [
        menu(f"m{one}", {str(key): f"m{(one * 7 + key * 11 + 1) % 50}" for key in range(10)}, nothing="vm", wrong="m1")
        for one in range(50)
    ]
    shown = claims(document(*steps, voicemail(), rescue="vm"))
    assert shown.proven
    assert {one.came.fate for one in shown.ends} == {"message_left", "lost"}
    assert shown.losses == ()


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ((*asks("a", 14, "b0"), *asks("b", 14, "vm"), voicemail()), "situations"),
        (
            (
                {"kind": "junction", "id": "j", "branches": [{"id": f"b{n}", "when": nested(3, n + 1), "to": "vm"} for n in range(4)], "otherwise": "vm"},
                voicemail(),
            ),
            "kinds of callers",
        ),
    ],
    ids=["facts that are asked again", "hundreds of conditions at once"],
)  # fmt: skip
def test_what_is_not_walked_is_said_and_not_called_proven(
    steps: tuple[dict[str, Any], ...], said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(outcomes, "MOST_ANSWERS", 2000)
    flow = document(*steps, rescue="vm")
    shown = claims(flow)
    assert not shown.proven
    assert said in " ".join(shown.walk.unwalked)
    assert len(shown.walk.situations) < 2100
    found = {one.finding.kind: one.finding.weight for one in findings(flow, shown)}
    assert found == {"not_walked": "asks"}


def test_the_engine_takes_no_more_steps_than_the_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(walk, "MOST_STEPS", 300)
    steps = [
        menu(f"m{one}", {"1": f"m{one + 1}" if one < 99 else "vm"}, nothing="vm", wrong="vm") for one in range(100)
    ]
    shown = claims(document(*steps, voicemail(), rescue="vm"))
    assert shown.walk.outcomes.steps < 400
    assert "steps of calls" in " ".join(shown.walk.unwalked)
