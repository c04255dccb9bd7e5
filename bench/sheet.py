"""(j) A flow of 800 steps: its outline, and what findings, the drawing and an edit take beyond it."""

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass

from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.drafting import edits
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.shown.drawing import draw
from vokari.core.flows.shown.outline import outline

STEPS = 800
TOGETHER = 20
"""How many edits are carried out as one."""


@dataclass(frozen=True, slots=True)
class Measured:
    """Milliseconds of the outline, and of each of the others beyond it; `edits` are `TOGETHER` edits at once."""

    steps: int
    outline: float
    findings: float
    drawing: float
    edit: float
    edits: float


def large_flow(steps: int = STEPS) -> FlowDocument:
    """Menus of four keys in menus, with an announcement, a ring and a voicemail behind each key of the last."""
    made: list[dict[str, object]] = []

    def menu(depth: int) -> str:
        at = f"m{len(made)}"
        row: dict[str, object] = {"kind": "menu", "id": at, "name": f"Menu {at}", "prompt": {"say": "Choose by key"}}
        made.append(row)
        row["branches"] = [
            {"id": f"{at}_k{key}", "keys": str(key), "name": f"Way {key}", "to": menu(depth - 1) if depth else way()}
            for key in range(1, 5)
        ]
        row["nothing"] = row["wrong"] = "vm"
        return at

    def way() -> str:
        at = len(made)
        made.append({"kind": "announcement", "id": f"a{at}", "prompt": {"say": "One moment please"}, "next": f"r{at}"})
        phone = {"kind": "number", "id": "d1", "name": "Desk", "number": f"+1410555{100 + at % 100:04d}", "seconds": 20}
        made.append({"kind": "ring", "id": f"r{at}", "to": [phone], "no_answer": f"v{at}", "accept": {"key": "1"}})
        made.append(
            {
                "kind": "voicemail",
                "id": f"v{at}",
                "mailbox": "mb",
                "greeting": {"say": "Leave word"},
                "message_left": "end",
                "no_message": "end",
            }
        )
        return f"a{at}"

    start = menu(3)
    made.append(
        {
            "kind": "voicemail",
            "id": "vm",
            "mailbox": "mb",
            "greeting": {"say": "Leave word"},
            "message_left": "end",
            "no_message": "end",
        }
    )
    raw = {"name": "Large", "mark": "LA", "start": start, "rescue": "vm", "steps": made}
    document = FlowDocument.model_validate(raw)
    assert len(document.steps) >= steps, len(document.steps)
    return document


def measure() -> Measured:
    """Of a document as it comes out of the database, read anew for each round; but for the first, its outline is made before."""
    raw = large_flow().model_dump(mode="json")
    around = Surroundings({"mb": True}, ())
    changes = [edits.SetStep(step=step.model_copy(update={"name": "Other"})) for step in large_flow().steps[:TOGETHER]]

    def taken(work: Callable[[FlowDocument], object], first: Callable[[FlowDocument], object] = outline) -> float:
        found = []
        for _ in range(7):
            document = FlowDocument.model_validate(raw)
            first(document)
            began = time.perf_counter()
            work(document)
            found.append((time.perf_counter() - began) * 1000)
        return statistics.median(found)

    return Measured(
        len(raw["steps"]), taken(outline, lambda _: None), taken(lambda one: findings(one, around)), taken(draw),
        taken(lambda one: edits.apply(one, changes[0])), taken(lambda one: edits.apply(one, *changes)),
    )  # fmt: skip


if __name__ == "__main__":
    print(measure())
