"""Extensions as lead sources: the next free one, a key for a menu, calls crossed by what is advertised and where."""

from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.wire import Wire
from tests.world import World, main_line
from vokari.store.numbers import LeadSource
from vokari.work.agency import today
from vokari.work.agency.access import NotAllowed
from vokari.work.flows import drafts, versions
from vokari.work.house.views import LeadSourceView
from vokari.work.numbers import extensions, plan


def added(world: World, topic: str, advert: str) -> LeadSource:
    made = extensions.add(world.house, world.actor, world.client.id, topic, advert)
    assert isinstance(made, LeadSourceView), made
    return made


def test_series_keep_their_digits(world: World) -> None:
    wanted = [("Boats", "Bay Skipper"), ("Boats", "Harbor radio"), ("Trailers", "bay skipper"), ("trailers", "Van")]
    assert [added(world, *one).extension for one in wanted] == ["101", "102", "201", "203"]
    grid = extensions.grid(world.house, world.actor, world.client.id)
    assert grid.pattern.topics == {"1": "Boats", "2": "Trailers"}
    assert grid.pattern.adverts == {"01": "Bay Skipper", "02": "Harbor radio", "03": "Van"}
    again = extensions.add(world.house, world.actor, world.client.id, "Boats", "Van")
    assert isinstance(again, LeadSourceView)
    assert again.extension == "103"
    twice = extensions.add(world.house, world.actor, world.client.id, "BOATS", "van")
    assert isinstance(twice, list)
    assert "has the extension 103 already" in twice[0].sentence


def test_an_extension_has_the_medium_of_its_advert_and_all_are_wired_at_once(world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    args = (world.house, world.actor, world.client.id)
    made = [
        extensions.add(*args, topic, advert, medium)
        for topic, advert, medium in (
            ("Boats", "Harbor radio", "audio"),
            ("Lifts", "Harbor radio", ""),
            ("Boats", "Van", ""),
        )
    ]
    views = [one for one in made if isinstance(one, LeadSourceView)]
    assert [(one.extension, one.medium) for one in views] == [("101", "audio"), ("201", "audio"), ("102", "print")]
    assert {one.name for one in plan.view(*args).without_number} & {one.name for one in views} == set()
    assert not any("Boats in" in need.sentence for need in today.needs(world.house, world.actor))
    before = drafts.opened(*args, flow.id).flow.revision
    assert extensions.add_keys(*args, [one.id for one in views], flow.id, "m") == []
    after = drafts.opened(*args, flow.id)
    wired = [one for one in after.document.step("m").branches if len(one.keys) == 3]  # type: ignore[union-attr]
    assert [one.source for one in wired if one.elsewhere] == [
        one.key for one in sorted(views, key=lambda one: one.extension)
    ]
    assert after.flow.revision == before + 1


def test_a_key_is_added_to_a_menu_and_its_calls_are_crossed(world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("All print adverts"), flow)
    first, second = added(world, "Boats", "Bay Skipper"), added(world, "Boats", "Van")
    args = (world.house, world.actor, world.client.id)
    menu = extensions.menus(*args)[0]
    assert menu.words == "Main line, What is it about"
    for source in (first, second):
        assert extensions.add_keys(*args, [source.id], flow.id, menu.step.id) == []
    branches = {one.keys: one for one in drafts.opened(*args, flow.id).document.step("m").branches}  # type: ignore[union-attr]
    assert (branches["101"].elsewhere, branches["101"].source, branches["101"].to) == (True, first.key, "r")
    assert "listens for 101 already" in extensions.add_keys(*args, [first.id], flow.id, menu.step.id)[0].sentence
    assert not isinstance(versions.put_live(*args, flow.id), versions.Stopped)
    for number, keys in enumerate(("101", "102", "101", "1")):
        wire = Wire(world.house, f"c{number}", NOON + timedelta(minutes=number))
        wire.arrive()
        for place, key in enumerate(keys):
            wire("digit", 2 + place, key=key)
        if not wire.ended:
            wire("caller_gone", 40)
    grid = extensions.grid(*args)
    assert {code: cell.calls for code, cell in grid.cells.items()} == {("1", "01"): 2, ("1", "02"): 1}
    assert (grid.row("1"), grid.column("01"), grid.column("02"), grid.calls) == (3, 2, 1, 3)


def test_the_pattern_cannot_change_once_extensions_are_printed(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    assert extensions.shape(*args, 4, 3)[0].field == "digits"
    assert extensions.shape(*args, 0, 3)[0].field == "digits"
    assert extensions.shape(*args, 2, 2) == []
    assert added(world, "Boats", "Van").extension == "0101"
    assert extensions.shape(*args, 2, 2) == []
    assert extensions.shape(*args, 1, 2)[0].sentence.startswith("Extensions are printed already")
    for topic, advert in (("", "Van"), ("Boats", "x" * 37)):
        assert isinstance(extensions.add(*args, topic, advert), list)


def test_who_may_see_the_grid_and_who_may_change_it(world: World) -> None:
    source = added(world, "Boats", "Van")
    assert extensions.grid(world.house, world.actors["client_viewer"], world.client.id).cells
    for role in ("client_editor", "client_viewer"):
        args = (world.house, world.actors[role], world.client.id)
        for refused in (
            lambda args=args: extensions.add(*args, "Boats", "Radio"),
            lambda args=args: extensions.shape(*args, 1, 2),
            lambda args=args: extensions.menus(*args),
            lambda args=args: extensions.add_keys(*args, [source.id], 1, "m"),
        ):
            with pytest.raises(NotAllowed):
                refused()
