"""Sets of hours: drawn, named, undone, removed; and who may do it."""

from datetime import timedelta

import pytest

from tests.flows import DANA, JOEL, document, phone, ring, say, voicemail
from tests.hours import week
from tests.world import World
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import Junction
from vokari.core.hours.document import EMPTY_WEEK, Hours
from vokari.core.hours.typed import write_week
from vokari.store.hours import HoursSet
from vokari.work.agency import clients, trail
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm
from vokari.work.flows import drafts, open_drafts
from vokari.work.hours import sets, switches, used
from vokari.work.hours.sets import OpenHours
from vokari.work.house.problems import Problem
from vokari.work.house.views import ClientView, HoursSetView


def sorted_line(key: str, *periods: str, **more: object) -> FlowDocument:
    """A junction with an exit for each of some periods, two phones and a voicemail."""
    branches = [
        {"id": f"b{n}", "to": "r", "when": {"test": "period", "of": key, "any_of": [period]}}
        for n, period in enumerate(periods)
    ]
    return document(
        {"kind": "junction", "id": "j", "name": "Hours", "branches": branches, "otherwise": "shut"},
        ring("r", phone("Dana", DANA), {**phone("Joel", JOEL), **more}, no_answer="vm", name="Yard office"),
        say("shut", "We are closed.", "vm"),
        voicemail(),
        rescue="vm", name="Main line", mark="ML",
    )  # fmt: skip


@pytest.fixture
def opening(world: World) -> HoursSet:
    """Front desk on weekdays, workshop on Saturdays."""
    made = sets.create(world.house, world.actor, world.client.id, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    desk = Hours.model_validate(made.document).periods[0].id
    drawn = paint(world, made.id, {desk: ("Front desk", "Mon-Fri 9-17"), "p_shop": ("Workshop", "Sat 9-13")})
    return drawn.set


def paint(world: World, hours_id: int, periods: dict[str, tuple[str, str]], base: int | None = None) -> OpenHours:
    done = sets.set_week(
        world.house, world.actor, world.client.id, hours_id, [(key, name) for key, (name, _) in periods.items()],
        week(**{key: text for key, (_, text) in periods.items()}), base,
    )  # fmt: skip
    assert isinstance(done, OpenHours), done
    return done


def opened(world: World, hours_id: int) -> OpenHours:
    return sets.opened(world.house, world.actor, world.client.id, hours_id)


def problems(result: object) -> list[str]:
    assert isinstance(result, list), result
    return [one.sentence for one in result if isinstance(one, Problem)]


def test_the_first_set_is_the_one_of_the_top_line(world: World, opening: HoursSet) -> None:
    second = sets.create(world.house, world.actor, world.client.id, "Evening line", "client")
    joel = sets.create(world.house, world.actor, world.client.id, "Joel", "own")
    assert isinstance(second, HoursSetView)
    assert isinstance(joel, HoursSetView)
    assert [opening.is_main, second.is_main, joel.is_main] == [True, False, False]
    line = switches.top_line(world.house, world.actors["client_viewer"], world.client.id)
    assert line.sentence == "Front desk open, closes 17:00"
    assert sets.set_details(world.house, world.actor, world.client.id, second.id, "Evening line", "", main=True) == []
    assert (
        switches.top_line(world.house, world.actor, world.client.id).sentence
        == "Closed, with no opening in the next year"
    )


def test_a_set_like_another_has_its_week_and_a_name_of_its_own(world: World, opening: HoursSet) -> None:
    twin = sets.create(world.house, world.actor, world.client.id, "Summer office", "client", like=opening.id)
    assert isinstance(twin, HoursSetView)
    assert opened(world, twin.id).hours.week == opened(world, opening.id).hours.week
    again = sets.create(world.house, world.actor, world.client.id, " summer  OFFICE ", "client")
    assert problems(again) == ["Another set of hours of this client has this name already."]
    assert problems(sets.create(world.house, world.actor, world.client.id, "", "client")) == [
        "Hours have a name of 1 to 60 letters."
    ]
    assert "what these hours are for" in problems(sets.create(world.house, world.actor, world.client.id, "A", "x"))[0]


def test_a_saved_week_can_be_taken_back_and_done_again(world: World, opening: HoursSet) -> None:
    before = opened(world, opening.id)
    desk = before.hours.periods[0].id
    paint(world, opening.id, {desk: ("Front desk", "Mon-Fri 7-19"), "p_shop": ("Workshop", "Sat 9-13")})
    now = opened(world, opening.id)
    assert write_week(now.hours.week) == "Mon-Fri 07:00-19:00; Sat 09:00-13:00"
    assert now.undo_words == "drew Front desk anew"
    assert now.edited
    assert now.edited[1] == "Specialist"
    undone = sets.step_back(world.house, world.actor, world.client.id, opening.id, "undo")
    assert isinstance(undone, OpenHours)
    assert undone.hours == before.hours
    assert undone.redo_words == "drew Front desk anew"
    redone = sets.step_back(world.house, world.actor, world.client.id, opening.id, "redo")
    assert isinstance(redone, OpenHours)
    assert redone.hours == now.hours
    assert problems(sets.step_back(world.house, world.actor, world.client.id, opening.id, "redo")) == [
        "There is nothing to redo."
    ]
    said = [line.words for line in trail.listed(world.house, world.actor, world.client.id)]
    assert said[:2] == [
        "Opening times: did again: drew Front desk anew",
        "Opening times: took back: drew Front desk anew",
    ]
    log = sets.log_of(world.house, world.actor, world.client.id, opening.id)
    assert [what.split(":")[0] for _, _, what in log[:2]] == ["did again", "took back"]


def test_two_people_at_one_week_do_not_overwrite_each_other_unasked(world: World, opening: HoursSet) -> None:
    start = opened(world, opening.id)
    desk = start.hours.periods[0].id
    base = start.set.revision
    paint(world, opening.id, {desk: ("Front desk", "Mon 9-12"), "p_shop": ("Workshop", "")}, base)
    late = sets.set_week(
        world.house, world.actor, world.client.id, opening.id, [(desk, "Front desk")], week(**{desk: "Sun 9-12"}), base
    )
    assert "changed meanwhile" in problems(late)[0]
    assert write_week(opened(world, opening.id).hours.week) == "Mon 09:00-12:00"


@pytest.mark.parametrize(
    ("periods", "texts", "says"),
    [
        ([("desk", "A"), ("shop", "B")], {"desk": "Mon 9-17", "shop": "Mon 16-18"}, "A and B overlap on Mon from 16:00."),
        ([("desk", "A"), ("shop", "a")], {"desk": "", "shop": ""}, "Two periods have the same name."),
        ([("desk", " ")], {"desk": ""}, "A period has a name of 1 to 60 letters."),
        ([("desk", "A" * 61)], {"desk": ""}, "A period has a name of 1 to 60 letters."),
        ([], {}, "Hours have at least one period."),
        ([("closed", "A")], {}, "No period can have the id closed."),
        ([("Front desk", "A")], {}, "String should match pattern"),
        ([("desk", "A")], {"shop": "Mon 9-17"}, "There is no period shop."),
    ],
)  # fmt: skip
def test_a_week_that_cannot_be_is_refused_and_nothing_is_saved(
    world: World, opening: HoursSet, periods: list[tuple[str, str]], texts: dict[str, str], says: str
) -> None:
    before = opened(world, opening.id)
    done = sets.set_week(
        world.house, world.actor, world.client.id, opening.id, periods, week(**texts) if texts else EMPTY_WEEK, None
    )
    assert says in problems(done)[0]
    after = opened(world, opening.id)
    assert (after.hours, after.set.revision) == (before.hours, before.set.revision)


# in flows


def test_a_period_keeps_its_exits_under_another_name(world: World, opening: HoursSet) -> None:
    desk = opened(world, opening.id).hours.periods[0].id
    flow = world.flow(sorted_line(opening.key, desk, "p_shop"))
    paint(world, opening.id, {desk: ("Reception", "Mon-Fri 9-17"), "p_shop": ("Workshop", "Sat 9-13")})
    draft = open_drafts.opened(world.house, world.actor, world.client.id, flow.id)
    step = draft.shown.step("j")
    assert isinstance(step, Junction)
    assert [branch.name for branch in step.branches] == ["Reception", "Workshop"]


def test_a_period_in_use_says_where_and_is_removed_with_what_should_happen(world: World, opening: HoursSet) -> None:
    desk = opened(world, opening.id).hours.periods[0].id
    flow = world.flow(sorted_line(opening.key, desk, "p_shop"))
    places = [place for place in opened(world, opening.id).places if "p_shop" in place.periods]
    assert [(place.words, place.draft, place.live) for place in places] == [("Main line, row 1 Hours", True, True)]
    kept = sets.set_week(
        world.house, world.actor, world.client.id, opening.id, [(desk, "Front desk")], week(**{desk: "Mon 9-12"}), None
    )
    assert problems(kept) == ["A period you took out is used by Main line, row 1 Hours. Remove it with its own button."]
    gone = sets.remove_period(
        world.house, world.actor, world.client.id, opening.id, "p_shop", desk, take_exits_out=True
    )
    assert gone == []
    now = opened(world, opening.id)
    assert [period.id for period in now.hours.periods] == [desk]
    assert write_week(now.hours.week) == "Mon-Fri 09:00-17:00; Sat 09:00-13:00"
    draft = open_drafts.opened(world.house, world.actor, world.client.id, flow.id)
    step = draft.document.step("j")
    assert isinstance(step, Junction)
    assert [branch.when.any_of for branch in step.branches] == [(desk,)]
    assert [(place.draft, place.live) for place in now.places if "p_shop" in place.periods] == [(False, True)]
    undone = drafts.undo(world.house, world.actor, world.client.id, flow.id)
    assert not isinstance(undone, list)
    assert len(undone.document.step("j").branches) == 2


def test_a_period_is_not_removed_into_nothing(world: World, opening: HoursSet) -> None:
    args = (world.house, world.actor, world.client.id, opening.id)
    assert problems(sets.remove_period(*args, "p_none", "", take_exits_out=False)) == [
        "This period was removed already."
    ]
    assert "Choose another period" in problems(sets.remove_period(*args, "p_shop", "p_none", take_exits_out=False))[0]
    assert sets.remove_period(*args, "p_shop", "", take_exits_out=False) == []
    last = opened(world, opening.id).hours.periods[0].id
    assert problems(sets.remove_period(*args, last, "", take_exits_out=False)) == ["Hours have at least one period."]


def test_a_set_in_use_stays_and_one_that_was_removed_comes_back(world: World, opening: HoursSet) -> None:
    desk = opened(world, opening.id).hours.periods[0].id
    world.flow(sorted_line(opening.key, desk))
    args = (world.house, world.actor, world.client.id)
    assert "is used by Main line, row 1 Hours" in problems(sets.remove(*args, opening.id))[0]
    spare = sets.create(*args, "Spare", "client")
    assert isinstance(spare, HoursSetView)
    assert sets.remove(*args, spare.id) == []
    with pytest.raises(NotFound):
        opened(world, spare.id)
    assert [one.name for one in sets.listed(*args)[2]] == ["Spare"]
    other = sets.create(*args, "Spare", "client")
    assert isinstance(other, HoursSetView)
    assert "has this name meanwhile" in problems(sets.bring_back(*args, spare.id))[0]
    assert sets.set_details(*args, other.id, "Another", "", main=False) == []
    assert sets.bring_back(*args, spare.id) == []
    assert {line.set.name for line in sets.listed(*args)[1]} == {"Opening times", "Another", "Spare"}


def test_own_times_are_laid_over_the_clients_hours(world: World, opening: HoursSet) -> None:
    args = (world.house, world.actor, world.client.id)
    joel = sets.create(*args, "Joel", "own")
    assert isinstance(joel, HoursSetView)
    duty = Hours.model_validate(joel.document).periods[0].id
    paint(world, joel.id, {duty: ("On duty", "Mon-Fri 9-12, 13-17")})
    desk = opened(world, opening.id).hours.periods[0].id
    world.flow(sorted_line(opening.key, desk, hours=joel.key), live=False)
    assert used.covers(*args, opening.id) == [], "Dana can always be rung"
    only = document(
        ring("r", {**phone("Joel", JOEL), "hours": joel.key}, no_answer="vm", name="Yard office"), voicemail(), rescue="vm",
        name="Joel alone", mark="JA",
    )  # fmt: skip
    world.flow(only, live=False)
    found = used.covers(*args, opening.id)
    assert [one.words for one in found] == ["Joel alone, row 1 Yard office"]
    lunch = found[0].cover.gaps[0]
    assert [f"{one.astimezone(opened(world, opening.id).table.zone):%a %H:%M}" for one in lunch] == [
        "Tue 12:00",
        "Tue 13:00",
    ]
    assert any(place.words.endswith("(own times of Joel)") for place in opened(world, joel.id).places)


def test_a_zone_of_its_own_moves_a_set_and_an_unknown_one_is_refused(world: World, opening: HoursSet) -> None:
    args = (world.house, world.actor, world.client.id, opening.id)
    refused = sets.set_details(*args, "", "Mars/Base", main=False)
    assert {one.field for one in refused} == {"name", "time_zone"}
    assert sets.set_details(*args, "Opening times", "America/Los_Angeles", main=False) == []
    one = opened(world, opening.id)
    assert sets.zone_for(one.table, world.client) is not None
    assert one.table.at(world.house.now()).is_open
    assert not one.table.at(world.house.now() - timedelta(minutes=1)).is_open, "noon in New York is nine there"


# who may


def test_who_may_change_hours(world: World, opening: HoursSet) -> None:
    client_id, house = world.client.id, world.house
    other = clients.take_on(house, world.actor, ClientForm("Alder Lane Cattery", "US", "America/New_York"))
    assert isinstance(other, ClientView)
    changes = [
        lambda actor, at: sets.listed(house, actor, at),
        lambda actor, at: sets.opened(house, actor, at, opening.id),
        lambda actor, at: sets.create(house, actor, at, "More", "client"),
        lambda actor, at: sets.set_week(house, actor, at, opening.id, [], EMPTY_WEEK, None),
        lambda actor, at: sets.set_details(house, actor, at, opening.id, "", "", main=False),
        lambda actor, at: sets.remove_period(house, actor, at, opening.id, "p_none", "", take_exits_out=False),
        lambda actor, at: sets.step_back(house, actor, at, opening.id, "redo"),
        lambda actor, at: sets.log_of(house, actor, at, opening.id),
        lambda actor, at: used.covers(house, actor, at, opening.id),
    ]
    for change in changes:
        change(world.actors["client_editor"], client_id)
        with pytest.raises(NotAllowed):
            change(world.actors["client_viewer"], client_id)
        with pytest.raises(NotFound):
            change(world.actors["client_editor"], other.id)
    for change in changes[1:2] + changes[6:]:
        with pytest.raises(NotFound):
            change(world.actor, other.id)
    with pytest.raises(NotAllowed):
        sets.remove_period(
            house, world.actors["client_editor"], client_id, opening.id, "p_shop", "", take_exits_out=True
        )
