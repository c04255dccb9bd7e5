"""A client's places kept, taken back, and asked for by live calls; and what is known of callers."""

from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.flows import document, ring, say, voicemail
from tests.wire import Wire
from tests.world import World
from vokari.core.flows.model.document import FlowDocument
from vokari.work.agency.access import NotAllowed
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.house.house import House
from vokari.work.places import keeping
from vokari.work.places.keeping import TypedArea, TypedPlace, TypedPlaces

FORM = TypedPlaces(
    [TypedPlace("", "Yard", "21401"), TypedPlace("", "Ramp", "21613"), TypedPlace("", "", "")],
    [TypedArea("", "Bay area", "25 miles of Yard, 216*")],
)  # fmt: skip


def typed(world: World, form: TypedPlaces, **more: object) -> dict[str, str]:
    return {one.field: one.sentence for one in keeping.keep(world.house, world.actor, world.client.id, form, **more)}  # type: ignore[arg-type]


def test_places_are_kept_shown_as_typed_and_taken_back(world: World) -> None:
    assert typed(world, FORM) == {}
    found = keeping.opened(world.house, world.actor, world.client.id)
    assert [(one.name, one.where) for one in found.typed.places] == [("Yard", "21401"), ("Ramp", "21613")]
    assert found.typed.areas[0].extent == "25 miles of Yard, 216*"
    assert found.extents[0].codes
    assert found.drawing is not None
    assert keeping.step_back(world.house, world.actor, world.client.id, "undo") == []
    assert list(keeping.opened(world.house, world.actor, world.client.id).typed.places) == []
    assert keeping.step_back(world.house, world.actor, world.client.id, "redo") == []
    with pytest.raises(NotAllowed):
        keeping.opened(world.house, world.actors["client_editor"], world.client.id)


def test_what_cannot_be_kept_is_told_at_its_place(world: World) -> None:
    wrong = TypedPlaces(
        [TypedPlace("", "Yard", "SW1A 1AA"), TypedPlace("", "Ramp", "21613"), TypedPlace("", "ramp", "21401"), TypedPlace("", "", "21401")],
        [TypedArea("", "Bay", "0 miles of Ramp"), TypedArea("", "Shore", "BN1, 216*"), TypedArea("", "Moor", "")], "12 here",
    )  # fmt: skip
    assert set(typed(world, wrong)) == {
        "places.0.where", "places.2.name", "places.3.name", "areas.0.extent", "areas.1.extent", "areas.2.extent", "codes",
    }  # fmt: skip
    assert typed(world, FORM) == {}
    was = keeping.opened(world.house, world.actor, world.client.id).was
    other = TypedPlaces([*FORM.places, TypedPlace("", "Shop", "20001")], FORM.areas)
    assert typed(world, other) == {}
    assert "was" in typed(world, TypedPlaces([TypedPlace("", "Mine", "20001")]), was=was)


def keys(world: World) -> dict[str, str]:
    found = keeping.opened(world.house, world.actor, world.client.id)
    return {one.name: one.key for one in (*found.typed.places, *found.typed.areas)}


def sorting(test: dict[str, object], **more: object) -> FlowDocument:
    junction = {"kind": "junction", "id": "j", "branches": [{"id": "b", "when": test, "to": "yes"}], "otherwise": "no"}
    return document(junction, say("yes", "Yes", "vm"), say("no", "No", "vm"), voicemail(), rescue="vm", **more)


def hears(
    house: House, ref: str, caller: str | None = "+14105550185", called: str = "+14105550142", after: int = 0
) -> str:
    wire = Wire(house, ref, NOON + timedelta(minutes=after))
    words = str(wire.arrive(called, caller)[0]["words"])
    wire("caller_gone", 20)
    return words


def test_a_postal_code_that_was_typed_counts_and_is_known_the_next_time(world: World) -> None:
    typed(world, FORM)
    near = {"test": "nearest_location", "of": "places", "any_of": [keys(world)["Ramp"]]}
    entry = {"kind": "keypad_entry", "id": "k", "prompt": {"say": "Your code"}, "shortest": 5, "longest": 5, "store_as": "postal_code",
             "typed": "j", "nothing": "j", "wrong": "j", "tries": 1}  # fmt: skip
    flow = world.flow(document(entry, *(one.model_dump(mode="json") for one in sorting(near).steps), rescue="vm"))
    world.number("+14105550142", world.source("Search advert"), flow)
    wire = Wire(world.house)
    wire.arrive()
    for n, digit in enumerate("21622"):
        wire("digit", 4 + n, key=digit)
    assert wire.commands[0]["words"] == "Yes"
    wire("caller_gone", 20)
    again = Wire(world.house, "call-2", NOON + timedelta(minutes=9))
    again.arrive()
    again("prompt_finished", 2, command=again.commands[0]["id"])
    assert again("silence", 8, command=again.commands[0]["id"])[0]["words"] == "Yes", "the code of the earlier call"
    again("caller_gone", 20)
    line = history.log(world.house, world.actor, world.client.id, CallFilter())[0]
    answers = [
        answer
        for entry in history.one(world.house, world.actor, world.client.id, line.call.id).entries
        for answer in entry["answers"]
    ]
    assert [(one["ask"], one["answer"][:2]) for one in answers] == [("where", [True, "earlier"])]


def test_the_past_of_a_caller_is_what_was_over_when_the_call_began(world: World) -> None:
    flow = world.flow(sorting({"test": "called", "any_of": ["lost"], "hours": 2}))
    world.number("+14105550142", world.source("Search advert", campaign="spring"), flow)
    assert hears(world.house, "c1") == "No"
    during = Wire(world.house, "c2", NOON + timedelta(seconds=5))
    assert during.arrive()[0]["words"] == "No", "the first call was not over then"
    during("caller_gone", 30)
    assert hears(world.house, "c3", after=3) == "Yes"
    assert hears(world.house, "c4", after=200) == "No"
    assert hears(world.house, "c5", caller=None, after=3) == "No"
    assert hears(world.house, "c6", caller="+14105550186", after=3) == "No"


@pytest.mark.parametrize(
    ("test", "words"),
    [
        ({"test": "first_call"}, "Yes"), ({"test": "withheld"}, "No"), ({"test": "number_dialled", "any_of": ["+14105550142"]}, "Yes"),
        ({"test": "campaign", "any_of": ["Spring"]}, "Yes"), ({"test": "medium", "any_of": ["email"]}, "No"),
        ({"test": "area", "any_of": ["US-MD"]}, "Yes"), ({"test": "label", "any_of": ["x"]}, "No"), ({"test": "language", "any_of": ["en"]}, "Yes"),
        ({"test": "share", "percent": 100}, "Yes"),
    ],
)  # fmt: skip
def test_live_calls_are_sorted_by_what_is_known(world: World, test: dict[str, object], words: str) -> None:
    flow = world.flow(sorting(test))
    world.number("+14105550142", world.source("Search advert", campaign="spring"), flow)
    assert hears(world.house, "c1") == words


def test_whoever_has_the_extension_that_was_dialed_is_rung(world: World) -> None:
    from vokari.work.house.views import PersonView
    from vokari.work.people import keeping as people

    ada = people.keep_person(
        world.house,
        world.actor,
        world.client.id,
        None,
        {"name": "Ada", "extension": "24", "phones": [{"to": "+14105550177"}]},
    )
    assert isinstance(ada, PersonView)
    menu = {
        "kind": "menu",
        "id": "m",
        "prompt": {"say": "Dial"},
        "dial_extensions": True,
        "extension": "r",
        "nothing": "vm",
        "wrong": "vm",
        "tries": 1,
    }
    flow = world.flow(
        document(menu, ring("r", {"kind": "dialed", "id": "d"}, no_answer="vm"), voicemail(), rescue="vm")
    )
    world.number("+14105550142", world.source("Search advert"), flow)
    wire = Wire(world.house)
    wire.arrive()
    wire("digit", 2, key="2")
    assert wire("digit", 3, key="4")[0]["number"] == "+14105550177"
    wrong = Wire(world.house, "c2", NOON + timedelta(minutes=9))
    wrong.arrive()
    assert wrong("digit", 2, key="3")[0]["type"] == "play"


def test_a_place_that_a_live_flow_sorts_by_stays(world: World) -> None:
    typed(world, FORM)
    world.flow(sorting({"test": "within", "of": keys(world)["Bay area"]}))
    assert "sorts callers by it" in typed(world, TypedPlaces(FORM.places))["was"]
