"""Finding anything by a few letters or digits, and nobody finding what is not theirs."""

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.work.agency import clients, search
from vokari.work.agency.clients import ClientForm


@pytest.fixture
def town(world: World) -> World:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("Search advert", campaign="spring lifts"), flow)
    clients.take_on(world.house, world.actor, ClientForm("Upper Brightwater Kayaks", "US", "America/New_York"))
    wire = Wire(world.house)
    wire.arrive(caller="+14105550185")
    wire("caller_gone", 30)
    return world


def found(world: World, typed: str, role: str = "specialist") -> list[tuple[str, str]]:
    hits = search.find(world.house, world.actors[role], typed)  # type: ignore[index]
    return [(hit.kind, hit.name) for hit in hits]


@pytest.mark.parametrize(
    ("typed", "hits"),
    [
        ("bright", [("client", "Brightwater Boatyard"), ("client", "Upper Brightwater Kayaks")]),
        ("MAIN", [("flow", "ML Main line")]),
        ("ml", [("flow", "ML Main line")]),
        ("spring", [("source", "Search advert")]),
        ("0142", [("number", "410-555-0142")]),
        ("(410) 555-0142", [("number", "410-555-0142")]),
        ("+1 410 555 0185", [("call", "410-555-0185")]),
        ("410-555-0185", [("call", "410-555-0185")]),
        ("14", []),
        ("100%", []),
        ("_", []),
        ("  ", []),
    ],
)
def test_what_is_typed_finds_what_it_names(town: World, typed: str, hits: list[tuple[str, str]]) -> None:
    assert found(town, typed) == hits


def test_another_agency_finds_nothing_of_ours(town: World) -> None:
    other = make_world(town.house, "Other agency", "other.example.com")
    for typed in ("main", "spring", "0142", "410-555-0185"):
        assert found(other, typed) == []
    assert found(other, "boatyard") == [("client", "Brightwater Boatyard")]


def test_a_clients_own_people_find_their_calls_and_nothing_else(town: World) -> None:
    assert found(town, "410-555-0185", "client_viewer") == [("call", "410-555-0185")]
    for typed in ("bright", "main", "0142", "spring"):
        assert found(town, typed, "client_viewer") == []


@given(st.text(max_size=80))
@hypothesis_settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_nothing_typed_makes_it_fail(town: World, typed: str) -> None:
    search.find(town.house, town.actor, typed)
