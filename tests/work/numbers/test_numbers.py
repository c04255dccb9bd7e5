"""Numbers: finding, taking, naming, the plan, fail-safes; and one of several takers gets the number."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pytest
from sqlalchemy.dialects.postgresql import Range
from sqlalchemy.exc import IntegrityError

from tests.conftest import NOON, StandingClock
from tests.flows import DANA
from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.standins.carrier.app import Carrier
from vokari.store.numbers import Assignment
from vokari.work.agency import clients
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm, NumberRules
from vokari.work.house.house import House
from vokari.work.house.problems import Refused
from vokari.work.house.views import TrackingNumberView
from vokari.work.numbers import fail_safes, free, number_form, numbers, plan, sources
from vokari.work.numbers.free import Found, Wanted
from vokari.work.numbers.number_form import NumberForm
from vokari.work.numbers.plan import Asked
from vokari.work.numbers.sources import SourceForm


def search(world: World, **wanted: object) -> list[str]:
    found = free.search(world.house, world.actor, world.client.id, Wanted(**wanted))  # type: ignore[arg-type]
    assert isinstance(found, list), found
    return [one.free.e164 for one in found]


def problems(world: World, **wanted: object) -> list[str]:
    found = free.search(world.house, world.actor, world.client.id, Wanted(**wanted))  # type: ignore[arg-type]
    return [one.field for one in found.problems] if isinstance(found, Refused) else []


def test_a_number_is_found_taken_given_and_gone_from_the_search(world: World) -> None:
    wanted = {"country": "US", "area_codes": "410", "digits": "42", "at_end": True}
    assert search(world, **wanted) == ["+14105550142"]
    source = world.source("Search advert", medium="cpc")
    taken = world.number("+14105550142", source)
    assert (taken.rent, taken.place, taken.state) == (3, "Annapolis, MD", "in_service")
    line = numbers.of_client(world.house, world.actor, world.client.id)[0]
    assert line.now is not None
    assert (line.number.id, line.now.source.name, line.now.since) == (taken.id, "Search advert", NOON)
    assert search(world, **wanted) == []


@pytest.mark.parametrize(
    ("wanted", "first"),
    [
        ({"country": "US", "area_codes": "410"}, "+14105550123"),
        ({"country": "US", "area_codes": "410", "pattern": "repeat"}, "+14105550111"),
        ({"country": "US", "area_codes": "410", "pattern": "palindrome"}, "+14105550105"),
        ({"country": "US", "place": "annapolis", "digits": "0101"}, "+14105550101"),
        ({"country": "US", "area_codes": "443, 410", "digits": "157", "at_end": True}, "+14105550157"),
        ({"country": "GB", "area_codes": "020", "digits": "0222", "at_end": True}, "+442079460222"),
        ({"country": "US", "kind": "toll_free", "digits": "01"}, "+18005550101"),
        ({"country": "GB", "kind": "toll_free", "pattern": "run"}, "+448081570123"),
    ],
)
def test_numbers_are_found_by_place_kind_digits_and_pattern(
    world: World, wanted: dict[str, object], first: str
) -> None:
    found = search(world, **wanted)
    assert first in found
    assert first in found[:6]


def test_letters_are_looked_for_as_they_stand_on_the_keypad(world: World) -> None:
    def spelled(word: str, **more: bool) -> list[tuple[str, str]]:
        wanted = Wanted("GB", "020", digits=word, **more)
        found = free.search(world.house, world.actor, world.client.id, wanted)
        return [(one.free.e164[-4:], one.reasons[0]) for one in found if isinstance(one, Found)]

    assert spelled("ABC", at_end=True) == [("0222", "ends in ABC")]
    assert ("0222", "ends in ABC") in spelled("abc")
    assert spelled("ZZZZ") == []


@pytest.mark.parametrize(
    ("wanted", "field"),
    [
        ({"country": "US", "area_codes": "555"}, "area_codes"),
        ({"country": "US", "area_codes": "911"}, "area_codes"),
        ({"country": "US", "area_codes": "41O"}, "area_codes"),
        ({"country": "GB", "area_codes": "123456"}, "area_codes"),
        ({"digits": "naïve"}, "digits"),
        ({"digits": "12345678901"}, "digits"),
        ({"pattern": "magic"}, "pattern"),
    ],
)
def test_what_cannot_be_looked_for_gets_words(world: World, wanted: dict[str, object], field: str) -> None:
    assert problems(world, **wanted) == [field]


def test_the_database_itself_refuses_overlapping_assignments(world: World) -> None:
    source = world.source("Search advert")
    number = world.number("+14105550142", source)
    ids = {"agency_id": world.agency_id, "client_id": world.client.id, "number_id": number.id, "source_id": source.id}
    with pytest.raises(IntegrityError), world.house.begin() as session:
        session.add(Assignment(**ids, during=Range(NOON, None)))


def test_of_several_who_take_the_same_number_at_once_one_gets_it(house: House) -> None:
    worlds = [make_world(house, f"Agency {n}", f"a{n}.example.com") for n in range(4)]
    for number in range(8):
        e164 = f"+141055501{40 + number}"
        with ThreadPoolExecutor(4) as pool:
            results = list(
                pool.map(lambda w, e164=e164: free.take(house, w.actor, w.client.id, e164, None, None), worlds)
            )
        won = [one for one in results if isinstance(one, TrackingNumberView)]
        lost = [one for one in results if isinstance(one, list)]
        assert (len(won), len(lost)) == (1, 3)
        assert all("Choose another one" in problems[0].sentence for problems in lost)


def test_who_has_a_number_is_told_within_the_agency_only(house: House) -> None:
    mine, other = make_world(house), make_world(house, "Other", "o.example.com")
    mine.number("+14105550142")
    second = clients.take_on(house, mine.actor, ClientForm("Alder Lane Cattery", "US", "America/New_York"))
    assert not isinstance(second, list)

    def refusal(world: World, client_id: int) -> str:
        result = free.take(house, world.actor, client_id, "+14105550142", None, None)
        assert isinstance(result, list)
        return result[0].sentence

    assert refusal(mine, mine.client.id) == "This client has this number already."
    assert refusal(mine, second.id) == "Brightwater Boatyard has this number already."
    assert refusal(other, other.client.id) == "This number is in use already. Choose another one."


def test_what_is_typed_wrong_gets_words_and_nothing_is_saved(world: World) -> None:
    world.source("Search advert")
    args = (world.house, world.actor, world.client.id)
    twice = sources.keep_source(*args, None, SourceForm("search ADVERT"))
    assert isinstance(twice, list)
    assert "already" in twice[0].sentence
    assert isinstance(sources.keep_source(*args, None, SourceForm("  ")), list)
    assert isinstance(sources.keep_source(*args, None, SourceForm("x", campaign="y" * 121)), list)
    assert [one.name for one in sources.lead_sources(*args)] == ["Search advert"]
    nowhere = free.take(*args, "+14105559999", None, None)
    assert isinstance(nowhere, list)
    assert "no such number" in nowhere[0].sentence


def test_the_fail_safe_is_kept_here_and_at_the_carrier(world: World, carrier: Carrier) -> None:
    number = world.number("+14105550142")
    args = (world.house, world.actor, world.client.id)
    assert carrier.inventory.fail_safe("+14105550142") == DANA
    assert number_form.keep(*args, number.id, NumberForm(fail_safe="410-555-0161")) == []
    assert plan.view(*args).numbers[0].untold == "the carrier is being told"
    world.tell_fail_safes()
    assert plan.view(*args).numbers[0].untold == ""
    assert carrier.inventory.fail_safe("+14105550142") == "+14105550161"
    assert number_form.keep(*args, number.id, NumberForm(fail_safe="410-555-0142"))[0].field == "fail_safe"
    assert number_form.keep(*args, number.id, NumberForm(fail_safe="nobody"))[0].field == "fail_safe"
    assert number_form.keep(*args, number.id, NumberForm(fail_safe="")) == []
    world.tell_fail_safes()
    assert carrier.inventory.fail_safe("+14105550142") == DANA
    carrier.inventory.give_back("+14105550142")
    fail_safes.again(*args, number.id)
    world.tell_fail_safes()
    assert plan.view(*args).numbers[0].untold == "the carrier did not take it: Nobody has taken this number."


def test_a_clients_new_fail_safe_reaches_the_carrier_for_numbers_without_their_own(
    world: World, carrier: Carrier
) -> None:
    own, plain = world.number("+14105550142"), world.number("+14105550143")
    args = (world.house, world.actor, world.client.id)
    number_form.keep(*args, own.id, NumberForm(fail_safe="410-555-0162"))
    form = ClientForm("Brightwater Boatyard", "US", "America/New_York", "Annapolis", "410-555-0165")
    assert not isinstance(clients.change(*args, form), list)
    world.tell_fail_safes()
    kept = [carrier.inventory.fail_safe(one.e164) for one in (own, plain)]
    assert kept == ["+14105550162", "+14105550165"]


def test_names_follow_the_pattern_are_unique_and_strays_are_flagged(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    assert clients.set_number_rules(*args, NumberRules("{place}, {source}")) == []
    source = world.source("Search advert")
    first, second = world.number("+14105550142", source), world.number("+14105550143", source)
    assert (first.name, second.name) == ("Annapolis, Search advert", "Annapolis, Search advert (0143)")
    assert [one.lacks for one in plan.view(*args).numbers] == [{"flow"}, {"flow"}]
    assert number_form.keep(*args, first.id, NumberForm("Old name", "Boatyard, from the advert")) == []
    assert number_form.keep(*args, second.id, NumberForm("old NAME", ""))[0].field == "name"
    lines = {one.line.number.id: one for one in plan.view(*args).numbers}
    assert lines[first.id].suggested_name == "Annapolis, Search advert"
    assert lines[first.id].lacks == {"flow", "name"}
    for wrong in (
        NumberRules("{moon}"),
        NumberRules("same for all"),
        NumberRules(rest_days=-1),
        NumberRules(rest_to="1"),
    ):
        assert clients.set_number_rules(*args, replace(wrong, likeness=wrong.likeness)) != []
    assert clients.set_number_rules(*args, NumberRules(likeness="random")) != []


@pytest.fixture
def planned(world: World) -> World:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("Search advert", medium="cpc"), flow)
    world.number("+14105550143", world.source("Van signs", placement="both vans"))
    world.number("+14105550144")
    world.source("Trade magazine")
    wire = Wire(world.house)
    wire.arrive()
    wire("caller_gone", 30)
    return world


def shown(world: World, **asked: object) -> list[str]:
    found = plan.view(world.house, world.actor, world.client.id, Asked(**asked))  # type: ignore[arg-type]
    return [one.line.number.e164[-4:] for one in found.numbers]


def test_the_plan_shows_what_each_number_brings_and_what_is_missing(planned: World, clock: StandingClock) -> None:
    found = plan.view(planned.house, planned.actor, planned.client.id)
    assert [one.line.number.e164[-4:] for one in found.numbers] == ["0142", "0143", "0144"]
    first, second, third = found.numbers
    assert (first.calls, first.by_fate, first.days_silent) == (1, {"lost": 1}, 0)
    assert [(key.keys, key.source.name) for key in first.keys] == [("7", "Bus panel")]
    assert (first.lacks, second.lacks, third.lacks) == (set(), {"flow"}, {"source", "flow"})
    assert [one.name for one in found.without_number] == ["Trade magazine"]
    clock.move(days=31)
    later = plan.view(planned.house, planned.actor, planned.client.id).numbers[0]
    assert (later.calls, later.days_silent) == (0, 31)


@pytest.mark.parametrize(
    ("asked", "ends"),
    [
        ({"text": "410-555-01"}, ["0142", "0143", "0144"]),
        ({"text": "(410) 555 0143"}, ["0143"]),
        ({"text": "+1 410 5550144"}, ["0144"]),
        ({"text": "VAN"}, ["0143"]),
        ({"text": "both vans"}, ["0143"]),
        ({"text": "bus panel"}, ["0142"]),
        ({"text": "nothing like it"}, []),
        ({"lacks": "source"}, ["0144"]),
        ({"lacks": "flow"}, ["0143", "0144"]),
        ({"state": "resting"}, []),
        ({"flow_id": 0}, ["0143", "0144"]),
        ({"sort": "number", "down": True}, ["0144", "0143", "0142"]),
        ({"sort": "calls", "down": True}, ["0142", "0143", "0144"]),
        ({"sort": "last"}, ["0142", "0143", "0144"]),
        ({"sort": "source", "down": True}, ["0144", "0143", "0142"]),
    ],
)
def test_the_plan_is_narrowed_and_ordered(planned: World, asked: dict[str, object], ends: list[str]) -> None:
    assert shown(planned, **asked) == ends


def test_only_who_works_for_the_client_sees_and_changes_its_numbers(planned: World) -> None:
    other = make_world(planned.house, "Other", "o.example.com")
    number = numbers.of_client(planned.house, planned.actor, planned.client.id)[0].number.id
    for role in ("client_editor", "client_viewer"):
        args = (planned.house, planned.actors[role], planned.client.id)
        for refused in (
            lambda args=args: plan.view(*args),
            lambda args=args: number_form.keep(*args, number, NumberForm("x", "")),
            lambda args=args: number_form.keep(*args, number, NumberForm(fail_safe="")),
            lambda args=args: fail_safes.again(*args, number),
            lambda args=args: clients.set_number_rules(*args, NumberRules()),
            lambda args=args: free.search(*args, Wanted()),
        ):
            with pytest.raises(NotAllowed):
                refused()
    with pytest.raises(NotFound):
        number_form.keep(planned.house, other.actor, other.client.id, number, NumberForm("x", ""))
    with pytest.raises(NotFound):
        plan.view(planned.house, other.actor, planned.client.id)
