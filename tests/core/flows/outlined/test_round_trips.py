"""A flow as text and back, for every kind of step that text can tell of."""

from itertools import count
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.random_flows import random_documents
from vokari.core.flows.conditions.base import HoursNames
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import AnyStep, Menu, Ring
from vokari.core.flows.model.values import Accept
from vokari.core.flows.outlined.building import build
from vokari.core.flows.outlined.known import InnerFlow, Known
from vokari.core.flows.outlined.reading import read
from vokari.core.flows.outlined.writing import cannot, write

KNOWN = Known(
    teams={"crew": "Crew"}, mailboxes={"mb": "Yard box"}, sources={"adverts": "Adverts"},
    hours={"yard": HoursNames("Opening times", {"desk": "Front desk", "shop": "Shop"}, ("Fair",))}, area_code="410",
    people={"ada": "Ada"}, places={"yard": "Yard"}, areas={"bay": "Bay area"}, kept=("entry", "extension"),
    flows={"fa": InnerFlow("Visits", ("Booked",)), "fb": InnerFlow("Moor: north")},
)  # fmt: skip


def text_of(document: FlowDocument) -> str:
    return "\n".join(line.text for line in write(document, KNOWN))


def again(text: str, old: FlowDocument) -> FlowDocument:
    numbers = count(1)
    return build(read(text, KNOWN), old, lambda prefix: f"{prefix}new{next(numbers)}").document


def plain(step: AnyStep, was: AnyStep) -> dict[str, Any]:
    """A step without what the text may fill in: a name where it had none and others lead to it by one, and words of a menu that had
    none."""
    silent = isinstance(was, Menu) and was.prompt.is_empty()
    return step.model_dump(mode="json", exclude={*(() if was.name else ("name",)), *(("prompt",) if silent else ())})


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


@settings(max_examples=300)
@given(random_documents(), st.integers(0, 30), st.integers(0, 2))
def test_a_line_that_is_not_understood_stays_wherever_it_was_typed(
    document: FlowDocument, at: int, deeper: int
) -> None:
    if cannot(document, KNOWN) or document.start is None:
        return
    lines = text_of(document).split("\n")
    above = lines[: at % len(lines) + 1]
    depth = (len(above[-1]) - len(above[-1].lstrip())) // 4 + deeper
    odd = "wibble 7, wobble"
    text = "\n".join([*above, " " * 4 * depth + odd, *lines[len(above) :]])
    back = again(text, document)
    assert [one.text for one in back.unread if odd in one.text] == [odd], text
    assert [line.strip() for line in text_of(back).split("\n")].count(odd) == 1, text
    assert text_of(again(text_of(back), back)) == text_of(back), text


def test_an_exit_that_leads_to_a_name_that_is_not_there_is_written_once_however_often_it_is_kept() -> None:
    text = "ring Ada, else voicemail Yard box\n    after the call: to Nobody"
    kept = again(text, FlowDocument(name="Test", mark="TE"))
    for _ in range(3):
        kept = again(text_of(kept), kept)
    assert [line.strip() for line in text_of(kept).split("\n")].count("after the call: to Nobody") == 1
    assert "nowhere yet" not in text_of(kept)


def test_somebody_new_is_rung_without_a_verb_with_what_else_stands_on_the_line() -> None:
    text = 'ask "For sails, press 1."\n    1 sails: Mara 410-555-0162 25s, press 1\n    2 repairs: Otis 410-555-0163, all at once'
    assert [(one.name, one.phone) for one in read(text, KNOWN).people] == [
        ("Mara", "+14105550162"),
        ("Otis", "+14105550163"),
    ]
    mara, otis = (one for one in again(text, FlowDocument(name="Test", mark="TE")).steps if isinstance(one, Ring))
    assert (mara.accept, mara.to[0].seconds, otis.strategy) == (Accept(), 25, "all_at_once")


NAMES = ("Back office", "Ben, Jr.", "Ada 2", "Then else", "A and B", "Say so", "Open gate", "0 desk", "Wrong", "Silent", "Ada", "Ada 20s", "as is", "Phone box",
         'The "Yard"', "Everyone else", "Hours 9-5", "Zoë", "Ring", "Menu", "phone", "Ask")  # fmt: skip


@settings(max_examples=300)
@given(
    st.lists(st.sampled_from(NAMES), min_size=1, max_size=3, unique=True), st.sampled_from([None, 20]), st.booleans()
)
def test_whatever_people_are_called_they_are_read_back(names: list[str], seconds: int | None, keyed: bool) -> None:
    known = Known(people={f"p{NAMES.index(name)}": name for name in NAMES}, mailboxes={"mb": "Yard"})
    to = [
        {"kind": "person", "person": f"p{NAMES.index(one)}", "id": f"d{n}", "seconds": seconds}
        for n, one in enumerate(names)
    ]
    ring = {"kind": "ring", "id": "r", "to": to, "no_answer": "v"}
    menu = {
        "kind": "menu",
        "id": "m",
        "prompt": {"say": "Which?"},
        "branches": [{"id": "b", "keys": "1", "name": "", "to": "r"}],
    }
    box = {"kind": "voicemail", "id": "v", "mailbox": "mb"}
    document = FlowDocument.model_validate(
        {"name": "F", "mark": "FF", "start": "m" if keyed else "r", "steps": [*([menu] if keyed else []), ring, box]}
    )
    text = "\n".join(line.text for line in write(document, known))
    back = build(read(text, known), document, lambda prefix: f"{prefix}new").document
    assert (back.unread, back.by_id["r"]) == ((), document.by_id["r"]), text
