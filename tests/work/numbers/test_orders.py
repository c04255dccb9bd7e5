"""Many numbers in one go: proposed by the client's rule, taken by the worker, refused, stopped and tried again."""

from collections.abc import Mapping

import pytest

from tests.world import World
from vokari.core.numbers.choosing import confusable
from vokari.formats import source_lists
from vokari.standins.carrier.app import Carrier
from vokari.store.numbers import NumberOrder, TrackingNumber
from vokari.work.agency import clients
from vokari.work.agency.access import NotAllowed
from vokari.work.agency.clients import NumberRules
from vokari.work.house.ports import FreeNumber
from vokari.work.house.views import NumberOrderView
from vokari.work.numbers import numbers, orders
from vokari.work.numbers.free import Wanted
from vokari.work.numbers.orders import Offer, Row
from vokari.work.numbers.sources import SourceForm

NINE = "\n".join(f"Advert {n}, cpc, campaign {n}" for n in range(1, 10))


def rows(world: World, text: str, wanted: Wanted) -> list[Row]:
    """What a person orders who takes the proposals as they are."""
    table = source_lists.read(text)
    assert not isinstance(table, str)
    lines = source_lists.lines(table, source_lists.guess(table))
    offer = orders.propose(world.house, world.actor, world.client.id, wanted, len(lines))
    assert isinstance(offer, Offer)
    return [Row(one.free.e164, orders.form_of(line)) for one, line in zip(offer.proposals, lines, strict=True)]


def placed(world: World, wanted: list[Row]) -> NumberOrder:
    order = orders.place(world.house, world.actor, world.client.id, wanted, None)
    assert isinstance(order, NumberOrderView), order
    return order


def states(world: World, order: NumberOrder) -> list[str]:
    progress = orders.progress(world.house, world.actor, world.client.id, order.id)
    return [one.line.state for one in progress.lines]


def test_nine_sources_become_nine_numbers(world: World) -> None:
    order = placed(world, rows(world, NINE, Wanted("US", "410, 443")))
    assert states(world, order) == ["waiting"] * 9
    orders.run(world.house, order.id)
    assert states(world, order) == ["taken"] * 9
    lines = numbers.of_client(world.house, world.actor, world.client.id)
    assert sorted(line.now.source.name for line in lines if line.now) == [f"Advert {n}" for n in range(1, 10)]
    assert orders.progress(world.house, world.actor, world.client.id, order.id).order.state == "done"
    assert orders.latest(world.house, world.actor, world.client.id) is None


def test_numbers_are_chosen_by_the_clients_rule(world: World) -> None:
    world.number("+14105550101")

    def choose(likeness: str, count: int) -> list[str]:
        assert clients.set_number_rules(world.house, world.actor, world.client.id, NumberRules(likeness=likeness)) == []
        offer = orders.propose(world.house, world.actor, world.client.id, Wanted("US", "410"), count)
        assert isinstance(offer, Offer)
        return [one.free.e164 for one in offer.proposals]

    unlike = choose("unlike", 4)
    everyone = [*unlike, "+14105550101"]
    assert not any(confusable(one, other) for one in unlike for other in everyone if one != other)
    alike = sorted(choose("alike", 5))
    assert [int(one) - int(alike[0]) for one in alike] == [0, 1, 2, 3, 4]
    assert orders.usual_area_codes(world.house, world.actor, world.client.id) == "410"


def test_what_the_carrier_refuses_is_told_and_the_others_stand(world: World, carrier: Carrier) -> None:
    order = placed(world, rows(world, NINE, Wanted("US", "410, 443")))
    progress = orders.progress(world.house, world.actor, world.client.id, order.id)
    gone, _ = progress.lines[2].line, progress.lines[3].line
    carrier.inventory.take(gone.e164, "somebody else", "")
    orders.run(world.house, order.id)
    found = orders.progress(world.house, world.actor, world.client.id, order.id)
    assert (found.count("taken"), found.count("refused")) == (8, 1)
    assert "Somebody took this number" in found.lines[2].line.reason
    assert (
        orders.again(world.house, world.actor, world.client.id, order.id, {gone.id: "no number"})[0].field == "number"
    )
    assert orders.again(world.house, world.actor, world.client.id, order.id, {gone.id: "443-555-0155"}) == []
    orders.run(world.house, order.id)
    assert states(world, order) == ["taken"] * 9


def test_a_run_that_is_killed_and_run_again_pays_nothing_twice(
    world: World, carrier: Carrier, monkeypatch: pytest.MonkeyPatch
) -> None:
    order = placed(world, rows(world, NINE, Wanted("US", "410, 443")))
    asked: list[Mapping[str, str]] = []
    real = world.house.carrier.take_many

    def counting(keys: Mapping[str, str], *, fail_safe: str) -> dict[str, FreeNumber | str]:
        answers = real(keys, fail_safe=fail_safe)
        asked.append(keys)
        if len(asked) == 2:
            raise KeyboardInterrupt
        return answers

    monkeypatch.setattr(orders, "CHUNK", 4)
    monkeypatch.setattr(world.house.carrier, "take_many", counting)
    with pytest.raises(KeyboardInterrupt):
        orders.run(world.house, order.id)
    orders.run(world.house, order.id)
    assert states(world, order) == ["taken"] * 9
    assert asked[1] == asked[2], "what was asked for when it was killed is asked for again, by the same keys"
    assert [len(keys) for keys in asked] == [4, 4, 4, 1]
    assert len(carrier.inventory.taken()) == 9


def test_a_row_that_was_written_first_refuses_its_line_only(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    held = world.number("+14105550101")
    wanted = rows(world, NINE, Wanted("US", "410, 443"))
    order = placed(world, wanted)
    real = world.house.carrier.take_many

    def overtaken(keys: Mapping[str, str], *, fail_safe: str) -> dict[str, FreeNumber | str]:
        with world.house.begin() as session:
            session.get_one(TrackingNumber, held.id).e164 = wanted[4].e164
        return real(keys, fail_safe=fail_safe)

    monkeypatch.setattr(world.house.carrier, "take_many", overtaken)
    orders.run(world.house, order.id)
    assert states(world, order) == ["taken"] * 4 + ["refused"] + ["taken"] * 4
    refused = orders.progress(world.house, world.actor, world.client.id, order.id).lines[4].line
    assert "a moment ago" in refused.reason
    lines = numbers.of_client(world.house, world.actor, world.client.id)
    assert len([line for line in lines if line.now]) == 8


def test_an_order_is_stopped_and_goes_on(world: World) -> None:
    order = placed(world, rows(world, NINE, Wanted("US", "410, 443")))
    orders.stop(world.house, world.actor, world.client.id, order.id)
    orders.run(world.house, order.id)
    assert states(world, order) == ["waiting"] * 9
    assert numbers.of_client(world.house, world.actor, world.client.id) == []
    assert orders.again(world.house, world.actor, world.client.id, order.id, {}) == []
    orders.run(world.house, order.id)
    assert states(world, order) == ["taken"] * 9


def test_what_cannot_be_ordered_leaves_nothing_behind(world: World) -> None:
    world.source("Search advert")
    args = (world.house, world.actor, world.client.id)
    for wrong in (
        [],
        [Row("+14105550142", SourceForm("A")), Row("+14105550142", SourceForm("B"))],
        [Row("+14105550142", SourceForm("New")), Row("+14105550143", SourceForm("search advert"))],
        [Row("+14105550142", SourceForm(""))],
        [Row(f"+1410555{n:04d}", SourceForm(f"S{n}")) for n in range(501)],
    ):
        assert isinstance(orders.place(*args, wrong, None), list)
    assert orders.known_names(*args) == {"search advert": "the client has this lead source already"}
    assert orders.latest(*args) is None


def test_who_may_order(world: World) -> None:
    for role in ("client_editor", "client_viewer"):
        args = (world.house, world.actors[role], world.client.id)
        for refused in (
            lambda args=args: orders.place(*args, [Row("+14105550142", SourceForm("A"))], None),
            lambda args=args: orders.propose(*args, Wanted(), 1),
            lambda args=args: orders.known_names(*args),
        ):
            with pytest.raises(NotAllowed):
                refused()
