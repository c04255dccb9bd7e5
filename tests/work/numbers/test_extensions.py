"""Extensions as lead sources: the next free one, a key for a menu, calls crossed by what is advertised and where."""

from dataclasses import replace
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.wire import Wire
from tests.world import World, main_line
from vokari.core.numbers.extensions import is_near
from vokari.work.agency import today
from vokari.work.agency.access import NotAllowed
from vokari.work.flows import open_drafts, versions
from vokari.work.house.problems import Problem
from vokari.work.house.views import LeadSourceView
from vokari.work.numbers import extensions, plan
from vokari.work.numbers.extensions import Wanted


def added(world: World, topic: str, advert: str, code: str = "") -> LeadSourceView:
    (made,) = extensions.add(world.house, world.actor, world.client.id, Wanted(topic, advert, code=code))
    assert isinstance(made, LeadSourceView), made
    return made


def test_each_gets_a_code_that_no_slip_makes_of_another(world: World) -> None:
    wanted = [("Boats", "Bay Skipper"), ("Boats", "Harbor radio"), ("Trailers", "bay skipper"), ("trailers", "Van")]
    codes = [added(world, *one).extension for one in wanted]
    assert not any(is_near(one, other) for n, one in enumerate(codes) for other in codes[:n])
    grid = extensions.grid(world.house, world.actor, world.client.id)
    assert (grid.topics, grid.adverts) == (["Boats", "Trailers"], ["Bay Skipper", "Harbor radio", "Van"])
    assert grid.missing == [("Boats", "Van"), ("Trailers", "Harbor radio")]
    twice = extensions.add(world.house, world.actor, world.client.id, Wanted("Sails", "Van"), Wanted("TRAILERS", "van"))
    assert "has the extension" in twice[0].sentence
    assert extensions.grid(world.house, world.actor, world.client.id).topics == ["Boats", "Trailers"], "all or none"


def test_an_extension_has_the_medium_of_its_advert_and_all_are_wired_at_once(world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    args = (world.house, world.actor, world.client.id)
    made = [
        one
        for topic, advert, medium in (
            ("Boats", "Harbor radio", "audio"),
            ("Lifts", "Harbor radio", ""),
            ("Boats", "Van", ""),
        )
        for one in extensions.add(*args, Wanted(topic, advert, medium))
    ]
    views = [one for one in made if isinstance(one, LeadSourceView)]
    assert [one.medium for one in views] == ["audio", "audio", "print"]
    assert {one.name for one in plan.view(*args).without_number} & {one.name for one in views} == set()
    assert not any("Boats in" in need.sentence for need in today.needs(world.house, world.actor))
    before = open_drafts.opened(*args, flow.id).flow.revision
    assert extensions.add_keys(*args, [one.id for one in views], flow.id, "m") == []
    after = open_drafts.opened(*args, flow.id)
    wired = [one for one in after.document.step("m").branches if len(one.keys) == 3]  # type: ignore[union-attr]
    assert [one.source for one in wired if one.elsewhere] == [
        one.key for one in sorted(views, key=lambda one: one.extension)
    ]
    assert after.flow.revision == before + 1


def test_a_key_is_added_to_a_menu_and_its_calls_are_crossed(world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("All print adverts"), flow)
    first, second = added(world, "Boats", "Bay Skipper", "407"), added(world, "Boats", "Van", "516")
    args = (world.house, world.actor, world.client.id)
    menu = extensions.menus(*args)[0]
    assert menu.words == "Main line, What is it about"
    for source in (first, second):
        assert extensions.add_keys(*args, [source.id], flow.id, menu.step.id) == []
    branches = {one.keys: one for one in open_drafts.opened(*args, flow.id).document.step("m").branches}  # type: ignore[union-attr]
    assert (branches["407"].elsewhere, branches["407"].source, branches["407"].to) == (True, first.key, "r")
    assert "listens for 407 already" in extensions.add_keys(*args, [first.id], flow.id, menu.step.id)[0].sentence
    assert not isinstance(versions.put_live(*args, flow.id), versions.Stopped)
    for number, keys in enumerate(("407", "516", "407", "1")):
        wire = Wire(world.house, f"c{number}", NOON + timedelta(minutes=number))
        wire.arrive()
        for place, key in enumerate(keys):
            wire("digit", 2 + place, key=key)
        if not wire.ended:
            wire("caller_gone", 40)
    grid = extensions.grid(*args)
    assert {place: cell.calls for place, cell in grid.cells.items()} == {
        ("boats", "bay skipper"): 2,
        ("boats", "van"): 1,
    }
    assert (grid.row("Boats"), grid.column("Bay Skipper"), grid.column("Van"), grid.calls) == (3, 2, 1, 3)


def test_a_scheme_of_the_clients_own_and_what_is_wrong_with_codes(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    assert extensions.shape(*args, "7?")[0].field == "scheme"
    assert extensions.shape(*args, "7 ???") == []
    first = added(world, "Boats", "Van").extension
    assert (len(first), first[0]) == (4, "7")
    near = Wanted("Boats", "Radio", code=f"{first[:3]}{(int(first[3]) + 1) % 10}")
    assert "one slip of the finger" in extensions.add(*args, near)[0].sentence
    assert isinstance(extensions.add(*args, replace(near, near=True))[0], LeadSourceView), "it is printed already"
    for topic, advert in (("", "Van"), ("Boats", "x" * 37)):
        assert isinstance(extensions.add(*args, Wanted(topic, advert))[0], Problem)


def test_who_may_see_the_grid_and_who_may_change_it(world: World) -> None:
    source = added(world, "Boats", "Van")
    assert extensions.grid(world.house, world.actors["client_viewer"], world.client.id).cells
    for role in ("client_editor", "client_viewer"):
        args = (world.house, world.actors[role], world.client.id)
        for refused in (
            lambda args=args: extensions.add(*args, Wanted("Boats", "Radio")),
            lambda args=args: extensions.shape(*args, "7???"),
            lambda args=args: extensions.menus(*args),
            lambda args=args: extensions.add_keys(*args, [source.id], 1, "m"),
        ):
            with pytest.raises(NotAllowed):
                refused()
