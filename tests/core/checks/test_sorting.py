"""What is wrong with conditions: each at its exit, in words."""

import pytest

from tests.flows import document, menu, say, voicemail
from vokari.core.checks import within
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.sorting import findings
from vokari.core.people.directory import Person
from vokari.core.places.document import Area, Place, Places
from vokari.core.places.whereabouts import Whereabouts

KNOWN = Places(
    places=(Place(key="yard", name="Yard", postal_code="21401"), Place(key="moor", name="Moor", postal_code="99999")),
    areas=(Area(key="bay", name="Bay", codes=("21401",), people=("ada",)), Area(key="void", name="Void")),
)  # fmt: skip
AROUND = Surroundings(
    {"mb": True}, {"van"}, people={"ada": Person(name="Ada"), "ben": Person(name="Ben")}, where=Whereabouts(KNOWN, "US"), own="main"
)  # fmt: skip


def found(*conditions: dict[str, object], **more: object) -> dict[str, str]:
    branches = [{"id": f"b{n}", "when": one, "to": "vm"} for n, one in enumerate(conditions)]
    entry = {"kind": "keypad_entry", "id": "k", "prompt": {"say": "Code"}, "store_as": "order_number"}
    flow = document(
        entry,
        {"kind": "junction", "id": "j", "name": "Sort", "branches": branches, "otherwise": "vm"},
        voicemail(),
        rescue="vm",
        **more,
    )
    return {one.kind: one.weight for one in findings(flow, AROUND)}


@pytest.mark.parametrize(
    ("condition", "kinds"),
    [
        ({"test": "value", "of": "order_number", "any_of": ["1"]}, {}), ({"test": "value", "of": "shoe_size", "any_of": ["1"]}, {"nothing_kept": "stops"}),
        ({"test": "value", "of": "order_number"}, {"nothing_kept": "stops"}), ({"test": "postal_code", "any_of": ["21401"]}, {"no_code_typed": "asks"}),
        ({"test": "within", "of": "bay"}, {}), ({"test": "within", "of": "void"}, {"no_place": "stops"}), ({"test": "within", "of": "gone"}, {"no_place": "stops"}),
        ({"test": "within", "of": "yard", "distance_km": 3}, {}), ({"test": "within", "of": "moor", "distance_km": 3}, {"no_place": "stops"}),
        ({"test": "nearest_location", "of": "places", "any_of": ["gone"]}, {"no_place": "stops"}),
        ({"test": "nearest_location", "of": "people", "any_of": ["ada"]}, {}), ({"test": "nearest_location", "of": "people", "any_of": ["ben"]}, {"no_territory": "asks"}),
        ({"test": "last_spoke_with", "any_of": ["zed"]}, {"no_person": "stops"}), ({"test": "lead_source", "any_of": ["zed"]}, {"unknown_source": "stops"}),
        ({"test": "lead_source", "any_of": ["van"]}, {}), ({"test": "label", "any_of": ["x"]}, {"not_known": "asks"}),
        ({"test": "landing_page", "any_of": ["/x"]}, {"not_known": "asks"}), ({"test": "first_call"}, {}),
    ],
)  # fmt: skip
def test_each_condition_is_looked_at(condition: dict[str, object], kinds: dict[str, str]) -> None:
    assert found(condition) == kinds
    assert found({"test": "not", "parts": [condition]}) == kinds


def test_shares_that_come_to_more_than_all_stop() -> None:
    assert found({"test": "share", "percent": 60}, {"test": "share", "percent": 40}) == {}
    assert found({"test": "share", "percent": 60}, {"test": "share", "percent": 50}) == {"shares": "stops"}


def test_numbers_that_reach_a_flow_with_nothing_to_come_back_to() -> None:
    back = document(
        menu("m", {"1": "c"}, nothing="c", wrong="c"), {"kind": "come_back", "id": "c", "way": "done"}, say("x", "Bye")
    )
    around = Surroundings({}, (), own="main", pointed=2)
    assert [(one.kind, one.weight) for one in within.pointed_at(back, around)] == [("back_to_nothing", "stops")]
    rescued = back.model_copy(update={"rescue": "m"})
    assert [(one.kind, one.weight) for one in within.pointed_at(rescued, around)] == [("back_to_nothing", "asks")]
    assert list(within.pointed_at(back, Surroundings({}, ()))) == []
