"""Walks that take over what stands of an earlier one: the same as if all had been walked."""

import pickle
from dataclasses import replace
from datetime import timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.proof.test_walk import RANDOM
from tests.flows import document, menu, say, voicemail
from tests.random_flows import random_documents, random_flows
from tests.worlds import CLIENT, LATE, NOW, PEOPLE, UNTIL, ZONE
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.values import PersonDestination, Prompt
from vokari.core.flows.running.flow import Flow
from vokari.core.hours.timetable import Timetable
from vokari.core.people.directory import Person, Phone
from vokari.core.proof.earlier import Standing, standing
from vokari.core.proof.walk import Walk
from vokari.core.proof.world import Client, World

ADA, BO = PEOPLE["ada"], PEOPLE["bo"]
CLEO = Person(name="Cleo", phones=(Phone(id="p3", to="+14105550173", answered="key"),), extension="34")
CLIENTS = st.sampled_from(
    [
        *[CLIENT] * 3,
        replace(CLIENT, people={**PEOPLE, "ada": ADA.model_copy(update={"hours": None})}),
        replace(CLIENT, people={**PEOPLE, "bo": BO.model_copy(update={"extension": "739"})}),
        replace(CLIENT, people={**PEOPLE, "cleo": CLEO}),
        replace(CLIENT, people={name: one.model_copy(update={"extension": "739"}) for name, one in PEOPLE.items()}),
        replace(CLIENT, hours={**CLIENT.hours, "early": Timetable(LATE, ZONE)}),
        replace(CLIENT, numbers=CLIENT.numbers[:1]),
    ]
)


@st.composite
def edits(draw: st.DrawFn, flow: Flow) -> Flow:
    """A flow after some edits: other words, steps led elsewhere, made anew or of another kind, another start or rescue, another flow within."""
    inner = dict(flow.inner)
    for key in inner:
        if draw(st.integers(0, 4)) == 0:
            inner[key] = draw(edited(inner[key]))
    return Flow(draw(edited(flow.document)), inner)


@st.composite
def edited(draw: st.DrawFn, before: FlowDocument) -> FlowDocument:
    raw = before.model_dump(mode="json")
    known = [step["id"] for step in raw["steps"]]
    others = {step["id"]: step for step in draw(random_documents()).model_dump(mode="json")["steps"]}
    for place in draw(st.lists(st.integers(0, len(known) - 1), min_size=1, max_size=2, unique=True)):
        step = raw["steps"][place]
        match draw(st.sampled_from(["words", "led", "other"])):
            case "words":
                step |= {"name": "Other", **({"prompt": {"say": "Other words"}} if "prompt" in step else {})}
            case "led":
                target = draw(st.sampled_from([None, "end", *known]))
                raw["steps"][place] = _led(step, target)
            case "other":
                raw["steps"][place] = _within(others.get(step["id"], step), known)
    match draw(st.integers(0, 9)):
        case 0:
            raw["start"] = draw(st.sampled_from(known))
        case 1:
            raw["rescue"] = draw(st.sampled_from([None, *known]))
    return FlowDocument.model_validate(raw)


def _led(step: dict[str, Any], target: str | None) -> dict[str, Any]:
    """A step with one of its exits led elsewhere."""
    if step.get("branches"):
        return {**step, "branches": [{**step["branches"][0], "to": target}, *step["branches"][1:]]}
    name = next((one for one in ("no_answer", "next", "to", "after", "otherwise", "wrong", "found") if one in step), "")
    return {**step, name: target} if name else step


def _within(step: dict[str, Any], known: list[str]) -> dict[str, Any]:
    """A step of another flow, led to what is there."""
    ids = {f"s{n}" for n in range(8)} - set(known)

    def there(raw: dict[str, Any]) -> dict[str, Any]:
        return {name: None if isinstance(value, str) and value in ids else value for name, value in raw.items()}

    ways = {field: [there(one) for one in step[field]] for field in ("branches", "returns") if field in step}
    return there({**step, **ways})


def stands(walk: Walk, flow: Flow, world: World) -> Standing | None:
    """What stands of a walk, handed to another process."""
    left = pickle.loads(pickle.dumps(walk.left()))
    return standing(left, flow, world) if left else None


def alike(one: Walk, other: Walk) -> bool:
    def found(walk: Walk) -> tuple[Any, ...]:
        return walk.situations, walk.edges, walk.awaited, walk.rounds, walk.unwalked

    return found(one) == found(other)


@given(random_flows(), st.lists(CLIENTS, min_size=3, max_size=3), st.data())
@RANDOM
def test_a_walk_that_takes_over_what_stands_finds_what_one_of_all_finds(
    flow: Flow, clients: list[Client], data: Any
) -> None:
    last = Walk(flow, World(flow, clients[0], NOW, UNTIL), 800)
    for client in clients[1:]:
        flow = data.draw(edits(flow))
        world = World(flow, client, NOW, UNTIL)
        walk = Walk(flow, world, 800, standing=stands(last, flow, world))
        assert alike(walk, Walk(flow, world, 800))
        last = walk


SORTS = {
    "kind": "junction",
    "id": "by",
    "branches": [{"id": "k", "when": {"test": "period", "of": "yard", "any_of": ["desk"]}, "to": "m"}],
}
MENU = menu("m", {"1": "ada", "2": "two"}, nothing="vm", wrong="vm")
RINGS = {"kind": "ring", "id": "ada", "to": [{"kind": "person", "id": "d", "person": "ada"}], "no_answer": "vm"}
FLOW = document(say("hello", "Good day", "by"), {**SORTS, "otherwise": "m"}, MENU, RINGS, say("two", "Two", "m"), voicemail(), rescue="vm")  # fmt: skip


def walked(client: Client = CLIENT, until: timedelta = timedelta(), **edits: Any) -> set[str]:
    """The steps at which calls are in the situations that are walked again once the fields of some steps, by id, are others."""
    steps = tuple(one.model_copy(update=edits.get(one.id, {})) for one in FLOW.steps)
    flow, before = Flow(FLOW.with_steps(steps)), Walk(Flow(FLOW), World(Flow(FLOW), CLIENT, NOW, UNTIL))
    world = World(flow, client, NOW, UNTIL + until)
    walk = Walk(flow, world, standing=stands(before, flow, world))
    return {walk.situations[one].state.at for one in walk.anew}


def test_only_what_an_edit_bears_on_is_walked_again() -> None:
    every = {"", "hello", "m", "ada", "two", "vm"}
    words = Prompt(say="Other words")
    assert walked() == set()
    assert walked(vm={"name": "Box", "note": "Ask Dana", "to_do": True}) == set()
    assert walked(two={"prompt": words}) == {"m", "two"}, "the words, and where callers come to them from"
    assert walked(hello={"prompt": words}) == {"", "hello"}
    assert walked(hello={"next": "m"}) == {"", "hello", "two"}, "keys pressed early in any words may lead elsewhere now"
    assert walked(m={"nothing": "ada"}) == {"m", "hello", "two"}
    assert walked(m={"tries": 1}) == {"m", "hello", "two"}
    assert walked(ada={"rounds": 2}) == {"m", "ada"}
    assert walked(until=timedelta(days=20)) == every, "in more time there is more to tell apart"


def test_after_a_change_of_the_client_that_bears_on_a_flow_nothing_stands() -> None:
    every = {"", "hello", "m", "ada", "two", "vm"}
    ada, bo = (one.model_copy(update={"hours": None}) for one in (ADA, BO))
    assert walked(replace(CLIENT, people={**PEOPLE, "bo": bo})) == set()
    assert walked(replace(CLIENT, people={**PEOPLE, "ada": ada})) == every
    assert walked(replace(CLIENT, hours={**CLIENT.hours, "early": Timetable(LATE, ZONE)})) == every
    assert walked(replace(CLIENT, numbers=CLIENT.numbers[:1])) == every
    to_bo = RINGS["to"][0] | {"person": "bo"}
    assert walked(ada={"to": (PersonDestination(**to_bo),)}) == every, "other people come and go at other times"


def test_where_whoever_was_dialed_is_rung_it_matters_who_has_an_extension() -> None:
    asks = menu("m", {"1": "vm"}, nothing="vm", wrong="vm", dial_extensions=True, extension="r")
    dialed = {"kind": "ring", "id": "r", "to": [{"kind": "dialed", "id": "d"}], "no_answer": "vm"}
    flow = Flow(document(asks, dialed, voicemail(), rescue="vm"))
    people = {**PEOPLE, "bo": BO.model_copy(update={"extension": "12"})}
    one, two = replace(CLIENT, people=people), replace(CLIENT, people={**people, "cleo": CLEO})
    before = Walk(flow, World(flow, one, NOW, UNTIL))
    assert stands(before, flow, World(flow, one, NOW, UNTIL)) is not None
    assert stands(before, flow, World(flow, two, NOW, UNTIL)) is None


def test_a_walk_that_did_not_reach_all_leaves_nothing() -> None:
    assert Walk(Flow(FLOW), World(Flow(FLOW), CLIENT, NOW, UNTIL), 3).left() is None
