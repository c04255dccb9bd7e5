"""The ledger of Today and the column of every page, where the clients are many."""

from datetime import date, timedelta

import pytest

from tests import history
from tests.conftest import NOON, StandingClock
from tests.world import World, add_clients, make_world
from vokari.work.agency import column, ledger
from vokari.work.agency.access import NotAllowed
from vokari.work.agency.ledger import Asked

MANY = 2 * ledger.PAGE + 3


@pytest.fixture
def ids(world: World) -> list[int]:
    """Many clients, of which some have calls: the n-th n, every third of them lost."""
    ids = add_clients(world, MANY)
    for n in range(1, 6):
        calls = (
            history.row(
                world, NOON - timedelta(hours=k), 0, client_id=ids[n], fate="lost" if k % 3 == 0 else "answered",
            )
            for k in range(n)
        )  # fmt: skip
        history.write(world, calls)
    old = history.row(world, NOON - timedelta(days=20), 0, client_id=ids[7])
    history.write(world, [old])
    return ids


def names(world: World, asked: Asked) -> list[str]:
    return [one.name for one in ledger.view(world.house, world.actor, asked).lines]


def test_pages_of_the_ledger_hold_every_client_once_in_the_order_asked_for(world: World, ids: list[int]) -> None:
    everybody = [world.client.name, *(f"Client {n:03}" for n in range(MANY))]
    for sort, first in (("name", everybody[:3]), ("calls", ["Client 005", "Client 004", "Client 003"])):
        pages = [names(world, Asked(sort=sort, start=start)) for start in range(0, MANY + ledger.PAGE, ledger.PAGE)]
        assert [len(page) for page in pages] == [ledger.PAGE, ledger.PAGE, 4, 0]
        assert sorted(name for page in pages for name in page) == sorted(everybody)
        assert pages[0][:3] == first
    assert names(world, Asked(sort="lost"))[:5] == [f"Client {n:03}" for n in (4, 5, 1, 2, 3)]
    assert names(world, Asked("CLIENT 00", "calls"))[:2] == ["Client 005", "Client 004"]
    assert names(world, Asked("%")) == []


def test_days_and_today_are_those_of_each_client(world: World, ids: list[int], clock: StandingClock) -> None:
    found = ledger.view(world.house, world.actor, Asked("Client 005"))
    assert (found.lines[0].days, found.count) == ({NOON.date(): {"answered": 3, "lost": 2}}, 1)
    assert (found.lines[0].calls, found.lines[0].lost) == (5, 2)
    assert (found.today["answered"], found.today["lost"]) == (8, 7)
    clock.move(days=1)
    found = ledger.view(world.house, world.actor, Asked("Client 005"))
    assert (found.lines[0].today, sum(found.today.values())) == (date(2026, 11, 25), 0)


def test_the_ledger_shows_nothing_of_another_agency_and_is_for_those_who_work(world: World, ids: list[int]) -> None:
    other = make_world(world.house, "Other agency", "other.example.com")
    assert names(other, Asked(sort="calls")) == [other.client.name]
    assert sum(ledger.view(other.house, other.actor, Asked()).today.values()) == 0
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            ledger.view(world.house, world.actors[role], Asked())


def test_the_column_has_all_of_few_clients_and_of_many_those_visited_last(world: World, clock: StandingClock) -> None:
    def shown(role: str, client_id: int | None = None) -> list[int]:
        return [one.id for one in column.view(world.house, world.actors[role], client_id).clients]

    few = add_clients(world, column.FEW - 1)
    assert shown("specialist") == [world.client.id, *few]
    more = add_clients(world, 1, start=100)
    assert shown("specialist") == []
    for client_id in (few[0], few[3], *more, few[0]):
        clock.move(minutes=1)
        shown("specialist", client_id)
    assert shown("specialist") == [few[0], *more, few[3]]
    assert shown("owner") == []
    assert shown("client_viewer", world.client.id) == [world.client.id]
    for client_id in few[: column.SHOWN + 1]:
        clock.move(minutes=1)
        shown("owner", client_id)
    assert shown("owner") == few[column.SHOWN : 0 : -1]
