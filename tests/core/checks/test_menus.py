"""Words and keys never part: each way in which they can is found, stops where the words are sure, and is mended at either side."""

from typing import Any

import pytest

from vokari.core.checks.finding import Finding
from vokari.core.checks.mends import mend_words, mended
from vokari.core.checks.menus import findings
from vokari.core.flows.model.document import FlowDocument

BOX = {"kind": "voicemail", "id": "v", "name": "Yard box", "mailbox": "mb"}
RING = {
    "kind": "ring",
    "id": "r",
    "name": "Chandlery",
    "to": [{"kind": "number", "id": "d1", "number": "+14105550170", "name": "Ada"}],
    "no_answer": "v",
}
BACK = {"kind": "back_to", "id": "k", "to": "m"}


def flow(words: str, *branches: dict[str, Any], before: str = "", **fields: Any) -> FlowDocument:
    ways = [{"id": f"b{n}", **one} for n, one in enumerate(branches)]
    menu = {
        "kind": "menu",
        "id": "m",
        "name": "Main",
        "prompt": {"say": words},
        "branches": ways,
        "nothing": "v",
        "wrong": "v",
        **fields,
    }
    first = [{"kind": "announcement", "id": "a", "prompt": {"say": before}, "next": "m"}] if before else []
    return FlowDocument.model_validate(
        {"name": "F", "mark": "FF", "start": "a" if before else "m", "steps": [*first, menu, RING, BOX, BACK]}
    )


LIFTS, HIRE = {"keys": "1", "name": "lifts", "to": "r"}, {"keys": "2", "name": "hire", "to": "v"}
SOUND = "For lifts, press 1. For hire, press 2."
CASES: tuple[tuple[str, FlowDocument, str], ...] = (
    ("a key said and not there", flow(f"{SOUND} For parts, press 3.", LIFTS, HIRE), "said_key"),
    ("a key there and not said", flow("For lifts, press 1.", LIFTS, HIRE), "unsaid_key"),
    ("4 said and 7 listened for", flow("For lifts, press 4. For hire, press 2.", {**LIFTS, "keys": "7"}, HIRE), "other_key"),
    ("another destination’s words", flow("For hire, press 1. For lifts, press 2.", LIFTS, HIRE), "other_words"),
    ("one key said twice", flow(f"{SOUND} For storage, press 1.", LIFTS, HIRE), "said_twice"),
    ("one name said twice", flow("For lifts, press 1. For lifts, press 2.", LIFTS, {**HIRE, "name": ""}), "said_twice"),
    ("a way back that is none", flow("For lifts, press 1. To go back, press 2.", LIFTS, HIRE), "said_back"),
    ("hearing it again that is none", flow("For lifts, press 1. To hear this again, press 2.", LIFTS, HIRE), "said_again"),
    ("staying on the line for nothing", flow(f"{SOUND} Or stay on the line.", LIFTS, HIRE, nothing=None), "said_stay"),
    ("an extension that nobody listens for", flow(f"If you know your party's extension, dial it now. {SOUND}", LIFTS, HIRE), "said_extension"),
)  # fmt: skip


@pytest.mark.parametrize(("document", "kind"), [case[1:] for case in CASES], ids=[case[0] for case in CASES])
def test_each_slip_stops_and_every_mend_ends_it(document: FlowDocument, kind: str) -> None:
    found = [one for one in findings(document) if one.kind == kind]
    assert found, list(findings(document))
    assert {one.weight for one in found} == {"stops"}
    for one in found:
        assert one.mends
        for mend in one.mends:
            assert mend_words(mend)
            better = mended(document, document.by_id[one.step], mend)
            assert better is not None, mend
            steps = tuple(better if step.id == one.step else step for step in document.steps)
            left = [other for other in findings(document.with_steps(steps)) if other.kind == kind]
            assert len(left) < len(found), (mend, better)


@pytest.mark.parametrize(
    "document",
    [
        flow(SOUND, LIFTS, HIRE),
        flow("Press 1 for lifts and 2 for hire.", LIFTS, HIRE),
        flow(SOUND, LIFTS, HIRE, {"keys": "7", "to": "v", "elsewhere": True}),
        flow("For lifts, press 1. To go back, press 0.", LIFTS, {"keys": "0", "to": "k"}),
        flow("For lifts, press 1. To hear this again, press star.", LIFTS, {"keys": "*", "hear_again": True}),
        flow(f"{SOUND} Or stay on the line.", LIFTS, HIRE),
        flow("For hire, press 2.", LIFTS, HIRE, before="For lifts, press 1."),
        flow("For the chandlery, press 1. For hire, press 2.", {**LIFTS, "name": ""}, HIRE),
        flow("For Ada, press 1. For hire, press 2.", {**LIFTS, "name": ""}, HIRE),
        flow("If you know your party's extension, dial it now. For lifts, press 1.", LIFTS, {"keys": "117", "to": "r"}),
        flow("Pour les bateaux, tapez 4.", LIFTS, prompt={"say": "Pour les bateaux, tapez 4.", "language": "fr"}),
    ],
)
def test_words_that_fit_are_left_alone(document: FlowDocument) -> None:
    assert list(findings(document)) == []


@pytest.mark.parametrize(
    ("keys", "words", "found"),
    [
        ("1 2 4", "", "key_gap"),
        ("1 2 4", "Press 1 for a, 2 for b, and 4 for d.", ""),
        ("1", "", "one_choice"),
        ("1 2 3 0 9", "", ""),
        ("1 2 *", "", ""),
    ],
)
def test_a_key_left_out_is_asked_about_unless_somebodys_own_words_leave_it_out(
    keys: str, words: str, found: str
) -> None:
    names = {"1": "a", "2": "b", "4": "d"}
    document = flow(words, *({"keys": key, "name": names.get(key, key), "to": "v"} for key in keys.split()))
    assert [(one.kind, one.weight) for one in findings(document)] == ([(found, "asks")] if found else [])


def test_words_without_branches_offer_them() -> None:
    document = flow("For lifts, press 1. For hire, press 2. To hear this again, press star.")
    (found,) = findings(document)
    assert (found.weight, found.mends) == ("asks", ("branches",))
    better = mended(document, document.by_id["m"], "branches")
    assert [(one.keys, one.name, one.hear_again) for one in better.branches] == [  # type: ignore[union-attr]
        ("1", "lifts", False), ("2", "hire", False), ("*", "", True),
    ]  # fmt: skip


def test_an_announcement_that_tells_of_keys_nobody_listens_for() -> None:
    document = flow("For lifts, press 1.", LIFTS, before="Press 9 for the night watch.")
    found = [one for one in findings(document) if one.kind == "announced_key"]
    assert [(one.step, one.weight, one.mends) for one in found] == [("a", "stops", ("unsay:9",))]
    better = mended(document, document.by_id["a"], "unsay:9")
    assert better is not None
    assert better.prompt.say == ""  # type: ignore[union-attr]


def test_where_the_reader_is_not_sure_it_asks() -> None:
    document = flow("Choose one: for lifts, 1; for hire, 2; for parts, 3.", LIFTS, HIRE)
    found: list[Finding] = [one for one in findings(document) if one.kind == "said_key"]
    assert [one.weight for one in found] == ["asks"]


@pytest.mark.parametrize(
    "mend",
    ["", "say", "say:99", "unsay:1:2", "nothing", "swap:1", "listen_as:1:2:3", "branches:1", "again:77", "swap:1:1"],
)
def test_a_mend_that_does_not_fit_changes_nothing_else(mend: str) -> None:
    document = flow(SOUND, LIFTS, HIRE)
    better = mended(document, document.by_id["m"], mend)
    assert better is None or better == document.by_id["m"]
    assert mended(document, document.by_id["v"], mend) is None
