"""A flow as text and back, for every kind of step that text can tell of."""

from itertools import count
from typing import Any

from hypothesis import given, settings

from tests.random_flows import random_documents
from vokari.core.flows.conditions.base import HoursNames
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import AnyStep, Menu
from vokari.core.flows.outlined.building import build
from vokari.core.flows.outlined.known import Known
from vokari.core.flows.outlined.reading import read
from vokari.core.flows.outlined.writing import cannot, write

KNOWN = Known(
    teams={"crew": "Crew"}, mailboxes={"mb": "Yard box"}, sources={"adverts": "Adverts"},
    hours={"yard": HoursNames("Opening times", {"desk": "Front desk", "shop": "Shop"})}, area_code="410",
)  # fmt: skip


def text_of(document: FlowDocument) -> str:
    return "\n".join(line.text for line in write(document, KNOWN))


def again(text: str, old: FlowDocument) -> FlowDocument:
    numbers = count(1)
    return build(read(text, KNOWN), old, lambda prefix: f"{prefix}new{next(numbers)}").document


def plain(step: AnyStep, was: AnyStep) -> dict[str, Any]:
    """A step without what the text may fill in: a name where others lead to it by one, and words of a menu that had none."""
    silent = isinstance(was, Menu) and was.prompt.is_empty()
    return step.model_dump(mode="json", exclude={"name", "prompt"} if silent else {"name"})


@settings(max_examples=300)
@given(random_documents())
def test_text_and_back_keeps_every_step_with_all_that_it_was(document: FlowDocument) -> None:
    if cannot(document, KNOWN) or document.start is None:
        return
    text = text_of(document)
    back = again(text, document)
    assert back.unread == (), text
    assert {step.id: plain(step, document.by_id[step.id]) for step in back.steps} == {
        step.id: plain(step, step) for step in document.steps
    }, text
    assert back.start == document.start
    assert text_of(again(text_of(back), back)) == text_of(back), "what is written is written alike again"
