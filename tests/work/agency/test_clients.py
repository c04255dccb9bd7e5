"""Clients: the time zone follows from country and city, and is asked where that says too little or something else."""

import pytest

from tests.world import World
from vokari.store.agency import Client
from vokari.work.agency import clients
from vokari.work.agency.clients import ClientForm
from vokari.work.house.views import ClientView


def taken(world: World, **typed: str) -> Client | list[str]:
    form = ClientForm(**{"name": "Alder Lane Cattery", "country": "US", "time_zone": "", **typed})
    made = clients.take_on(world.house, world.actor, form)
    return made if isinstance(made, ClientView) else [one.sentence for one in made]


@pytest.mark.parametrize(
    ("country", "city", "zone"),
    [
        ("GB", "London", "Europe/London"),
        ("US", "Denver", "America/Denver"),
        ("US", "Burlington, VT", "America/New_York"),
    ],
)
def test_country_and_city_choose_the_zone(world: World, country: str, city: str, zone: str) -> None:
    made = taken(world, country=country, city=city)
    assert isinstance(made, ClientView)
    assert made.time_zone == zone


def test_where_several_fit_it_is_asked(world: World) -> None:
    assert taken(world, city="Burlington") == [
        "Burlington may be in several time zones: choose one, or write the state too."
    ]
    assert taken(world) == ["United States may be in several time zones: choose one, or write the state too."]
    assert isinstance(taken(world, city="Burlington", time_zone="America/New_York"), ClientView)


def test_a_zone_that_the_place_does_not_have_is_asked_about_once(world: World) -> None:
    args = (world.house, world.actor)
    form = ClientForm("Alder Lane Cattery", "GB", "America/New_York", "London")
    assert [one.sentence for one in clients.take_on(*args, form)] == [
        "London is in Europe/London. Save again if America/New_York is right."
    ]
    made = clients.take_on(*args, form, "America/New_York")
    assert isinstance(made, ClientView)
    moved = ClientForm("Alder Lane Cattery", "US", "America/New_York", "Denver")
    (problem,) = clients.change(*args, made.id, moved)
    assert (problem.field, problem.sentence[:28]) == ("time_zone", "Denver is in America/Denver.")
    assert taken(world, time_zone="Mars/Olympus") == ["There is no such time zone. One looks like America/New_York."]
