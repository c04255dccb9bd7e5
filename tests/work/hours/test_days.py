"""Exceptions of one set and those shared by many: what comes, what changes, and whom a change reaches."""

from datetime import date

import pytest

from tests.conftest import StandingClock
from tests.hours import closed, season, week
from tests.world import World, make_world
from vokari.core.hours.document import EMPTY_WEEK, Exception_, Hours, OneOff, Pick, PublicHolidays, Span
from vokari.store.agency import Client
from vokari.store.hours import ExceptionList, HoursSet
from vokari.work.agency import clients, trail
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm
from vokari.work.hours import calendars, days, sets, shared_days
from vokari.work.hours.shared_days import OpenList
from vokari.work.house.problems import Problem
from vokari.work.house.views import ClientView, ExceptionListView, HoursSetView

NOBODY_OFF = PublicHolidays(
    id="us", name="US holidays", country="US", picked=(Pick(name="Thanksgiving Day"),), seen_until=2027
)


@pytest.fixture
def opening(world: World) -> HoursSet:
    return made_for(world, world.client)


def made_for(world: World, client: Client) -> HoursSet:
    made = sets.create(world.house, world.actor, client.id, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    first = Hours.model_validate(made.document).periods[0].id
    done = sets.set_week(
        world.house, world.actor, client.id, made.id, [(first, "Front desk")], week(**{first: "Mon-Fri 9-17"}), None
    )
    assert not isinstance(done, list)
    return done.set


def args(world: World, one: HoursSet) -> tuple[object, ...]:
    return (world.house, world.actor, one.client_id, one.id)


def said(result: object) -> list[str]:
    assert isinstance(result, list), result
    return [one.sentence for one in result if isinstance(one, Problem)]


def test_the_next_twelve_months_say_what_comes_and_why(world: World, opening: HoursSet) -> None:
    at = args(world, opening)
    summer = week(**{Hours.model_validate(opening.document).periods[0].id: "Mon-Sat 6-14"})
    for one in (
        closed("2026-12-24", "2026-12-26", name="Christmas"),
        season("2027-06-01", "2027-06-30", summer, name="Summer"),
        NOBODY_OFF,
        closed("2026-03-02", name="Long ago"),
        closed("2026-11-28", name="A Saturday"),
    ):
        assert days.keep(*at, one) == []
    view = days.overview(*at)
    assert [(line.first.isoformat(), line.last.isoformat(), line.name, line.says, line.outdone) for line in view.coming] == [
        ("2026-11-26", "2026-11-26", "Thanksgiving Day", "closed", False),
        ("2026-11-28", "2026-11-28", "A Saturday", "closed", False),
        ("2026-12-24", "2026-12-26", "Christmas", "closed", False),
        ("2027-06-01", "2027-06-30", "Summer", "Mon-Sat 06:00-14:00", False),
        ("2027-11-25", "2027-11-25", "Thanksgiving Day", "closed", False),
    ]  # fmt: skip
    warned = {line.exception.name: line.warnings for line in view.own if line.warnings}
    assert warned == {
        "Long ago": ["“Long ago” is past."],
        "A Saturday": ["“A Saturday” changes nothing: the same holds without it."],
    }
    assert days.remove(*at, "x20260302") == []
    assert len(days.overview(*at).own) == 4


def test_a_weaker_exception_is_marked_where_a_stronger_one_holds(world: World, opening: HoursSet) -> None:
    at = args(world, opening)
    assert days.keep(*at, NOBODY_OFF) == []
    assert days.set_day(*at, date(2026, 11, 26), (Span(start=600, end=720),), "Short day") == []
    lines = days.overview(*at).coming
    assert [(line.name, line.outdone) for line in lines][:2] == [("Thanksgiving Day", True), ("Short day", False)]


def test_holidays_of_next_year_that_nobody_looked_at_are_named(world: World, opening: HoursSet) -> None:
    unseen = NOBODY_OFF.model_copy(update={"seen_until": 2026})
    assert days.keep(*args(world, opening), unseen) == []
    warnings = days.overview(*args(world, opening)).own[0].warnings
    assert warnings == ["The holidays of 2027 in “US holidays” have not been looked at yet."]


def test_a_day_is_closed_changed_and_as_usual_again(world: World, opening: HoursSet) -> None:
    at, day = args(world, opening), date(2026, 12, 1)

    def spans() -> list[tuple[int, int]]:
        _, weeks = days.month_of(*at, 2026, 12)
        found = next(cell for line in weeks for cell in line if cell.on == day)
        return [(span.start, span.end) for span in found.spans]

    assert spans() == [(540, 1020)]
    assert days.set_day(*at, day, (), "Staff outing") == []
    assert spans() == []
    assert days.set_day(*at, day, (Span(start=600, end=660),)) == []
    assert spans() == [(600, 660)]
    assert len(days.overview(*at).own) == 1, "the day has one exception, not two"
    assert days.set_day(*at, day, None) == []
    assert spans() == [(540, 1020)]
    said_ = [line.words for line in trail.listed(world.house, world.actor, opening.client_id)][:3]
    assert said_ == [
        "Opening times: Dec 1, 2026 is as usual again", "Opening times: changed Dec 1, 2026", "Opening times: closed Dec 1, 2026"
    ]  # fmt: skip
    back = sets.step_back(*at, "undo")
    assert not isinstance(back, list)
    assert spans() == [(600, 660)]


@pytest.mark.parametrize(
    ("one", "says"),
    [
        (PublicHolidays(id="x", country="QZ", picked=()), "There is no country QZ in the holidays library."),
        (PublicHolidays(id="x", country="US", region="XX", picked=()), "United States has no region XX."),
        (OneOff(id="x", first=date(2027, 1, 1), last=date(2027, 1, 1), spans=(Span(period="p_none", start=0, end=60),)), "no period"),
    ],
)  # fmt: skip
def test_an_exception_that_cannot_be_is_refused(world: World, opening: HoursSet, one: Exception_, says: str) -> None:
    refused = days.keep(*args(world, opening), one)
    assert says in said(refused)[0]
    assert days.overview(*args(world, opening)).own == []


# shared


@pytest.fixture
def holidays(world: World) -> ExceptionList:
    made = shared_days.name_list(world.house, world.actor, None, "Public holidays")
    assert isinstance(made, ExceptionListView)
    return made


def test_a_change_of_a_shared_list_reaches_every_set_and_says_whom(
    world: World, opening: HoursSet, holidays: ExceptionList, clock: StandingClock
) -> None:
    other = clients.take_on(world.house, world.actor, ClientForm("Alder Lane Cattery", "US", "America/New_York"))
    assert isinstance(other, ClientView)
    theirs = made_for(world, other)
    for one in (opening, theirs):
        assert days.share(*args(world, one), [holidays.id]) == []
    opened = shared_days.keep(world.house, world.actor, holidays.id, closed("2026-11-25", name="Day off"))
    assert isinstance(opened, OpenList)
    assert opened.reach_words == "2 clients: Alder Lane Cattery, Brightwater Boatyard"
    clock.move(days=1)
    for one in (opening, theirs):
        table = sets.opened(*args(world, one)).table
        standing = table.at(world.house.now())
        assert (standing.period, standing.name) == ("closed", "Day off")
        words = [line.words for line in trail.listed(world.house, world.actor, one.client_id)]
        assert words[0] == "kept Day off in the shared list Public holidays"
    line = days.overview(*args(world, opening)).coming[0]
    assert line.shared
    assert (line.name, line.shared.name) == ("Day off", "Public holidays")
    undone = shared_days.remove(world.house, world.actor, holidays.id, "x20261125")
    assert isinstance(undone, OpenList)
    assert sets.opened(*args(world, opening)).table.at(world.house.now()).is_open


def test_a_sets_own_day_is_stronger_than_that_of_a_list(
    world: World, opening: HoursSet, holidays: ExceptionList
) -> None:
    assert days.share(*args(world, opening), [holidays.id]) == []
    assert isinstance(shared_days.keep(world.house, world.actor, holidays.id, closed("2026-12-24")), OpenList)
    assert days.set_day(*args(world, opening), date(2026, 12, 24), (Span(start=540, end=720),)) == []
    table = sets.opened(*args(world, opening)).table
    assert [(span.start, span.end) for span in table.spans_on(date(2026, 12, 24))] == [(540, 720)]


def test_times_of_a_list_are_those_of_each_sets_first_period(
    world: World, opening: HoursSet, holidays: ExceptionList
) -> None:
    assert days.share(*args(world, opening), [holidays.id]) == []
    short = closed("2026-12-24", spans=(Span(start=540, end=720),), name="Short")
    assert isinstance(shared_days.keep(world.house, world.actor, holidays.id, short), OpenList)
    first = sets.opened(*args(world, opening)).hours.periods[0].id
    assert [span.period for span in sets.opened(*args(world, opening)).table.spans_on(date(2026, 12, 24))] == [first]
    assert "no period" in said(shared_days.keep(
        world.house, world.actor, holidays.id, closed("2026-12-25", spans=(Span(period=first, start=540, end=720),))
    ))[0]  # fmt: skip


def test_a_list_that_is_shared_stays_and_names_are_told_apart(
    world: World, opening: HoursSet, holidays: ExceptionList
) -> None:
    assert days.share(*args(world, opening), [holidays.id]) == []
    assert said(shared_days.remove_list(world.house, world.actor, holidays.id)) == [
        "Brightwater Boatyard (Opening times) shares this list: take it off there first."
    ]
    assert said(shared_days.name_list(world.house, world.actor, None, "public HOLIDAYS")) == [
        "Another list has this name already."
    ]
    assert said(shared_days.name_list(world.house, world.actor, holidays.id, "")) == [
        "A list has a name of 1 to 60 letters."
    ]
    assert days.share(*args(world, opening), []) == []
    assert shared_days.remove_list(world.house, world.actor, holidays.id) == []
    assert shared_days.listed(world.house, world.actor) == []


def test_who_may_keep_exceptions_and_lists(world: World, opening: HoursSet, holidays: ExceptionList) -> None:
    house, client_id = world.house, world.client.id
    elsewhere = make_world(house, "Other agency", "other.example.com")
    theirs = shared_days.name_list(house, elsewhere.actor, None, "Theirs")
    assert isinstance(theirs, ExceptionListView)
    own = [
        lambda actor: days.overview(house, actor, client_id, opening.id),
        lambda actor: days.month_of(house, actor, client_id, opening.id, 2026, 12),
        lambda actor: days.keep(house, actor, client_id, opening.id, closed("2027-01-02")),
        lambda actor: days.remove(house, actor, client_id, opening.id, "x"),
        lambda actor: days.set_day(house, actor, client_id, opening.id, date(2027, 1, 1), ()),
        lambda actor: days.share(house, actor, client_id, opening.id, []),
        lambda actor: calendars.preview(house, actor, client_id, opening.id, b""),
        lambda actor: calendars.apply(house, actor, client_id, opening.id, b"", "replace"),
        lambda actor: calendars.export(house, actor, client_id, opening.id, "ics"),
        lambda actor: calendars.renew_feed(house, actor, client_id, opening.id),
    ]
    for change in own:
        change(world.actors["client_editor"])
        with pytest.raises(NotAllowed):
            change(world.actors["client_viewer"])
        with pytest.raises(NotFound):
            change(elsewhere.actor)
    lists = [
        lambda actor: shared_days.listed(house, actor),
        lambda actor: shared_days.opened(house, actor, holidays.id),
        lambda actor: shared_days.name_list(house, actor, holidays.id, "Public holidays"),
        lambda actor: shared_days.keep(house, actor, holidays.id, closed("2027-01-02")),
        lambda actor: shared_days.remove(house, actor, holidays.id, "x"),
        lambda actor: shared_days.remove_list(house, actor, holidays.id),
    ]
    for change in lists:
        with pytest.raises(NotAllowed):
            change(world.actors["client_editor"])
    for change in lists[1:]:
        with pytest.raises(NotFound):
            change(elsewhere.actor)
    with pytest.raises(NotFound):
        days.share(house, world.actor, client_id, opening.id, [theirs.id])
    assert sets.opened(house, world.actor, client_id, opening.id).hours.week != EMPTY_WEEK


# files


def test_a_file_is_looked_at_first_then_taken_over_as_one_change(world: World, opening: HoursSet) -> None:
    at = args(world, opening)
    assert days.keep(*at, closed("2026-12-24", name="Christmas")) == []
    name, written = calendars.export(*at, "ics")
    assert name == "opening-times.ics"
    before = sets.opened(*at)
    done = sets.set_week(
        world.house, world.actor, opening.client_id, opening.id, [("p_other", "Other")], week(p_other="Sun 9-12"), None
    )
    assert not isinstance(done, list)
    assert days.remove(*at, "x20261224") == []
    seen = calendars.preview(*at, written)
    assert isinstance(seen, calendars.Preview)
    assert (seen.opens, seen.left_out, len(seen.closures)) == (True, [], 1)
    assert sets.opened(*at).hours.week != before.hours.week, "a preview changes nothing"
    assert calendars.apply(*at, written, "replace") == []
    now = sets.opened(*at)
    assert [period.name for period in now.hours.periods] == ["Other", "Front desk"]
    assert [len(day) for day in now.hours.week] == [1, 1, 1, 1, 1, 0, 0]
    assert now.undo_words == "took its week and exceptions from a file"
    assert not isinstance(sets.step_back(*at, "undo"), list)
    assert calendars.apply(*at, written, "closures") == []
    assert calendars.apply(*at, written, "closures") == []
    own = days.overview(*at).own
    assert [line.exception.name for line in own] == ["Christmas"], "the same closure is not added twice"
    assert said(calendars.apply(*at, written, "everything")) == ["Choose what is taken over."]
    assert "no iCalendar file" in said(calendars.apply(*at, b"hello", "replace"))[0]


def test_an_hours_file_keeps_the_ids_of_periods_by_name(world: World, opening: HoursSet) -> None:
    at = args(world, opening)
    first = sets.opened(*at).hours.periods[0].id
    name, written = calendars.export(*at, "json")
    assert name == "opening-times.json"
    seen = calendars.preview(*at, written.replace(first.encode(), b"desk"))
    assert isinstance(seen, calendars.Preview)
    assert [period.id for period in seen.hours.periods] == [first]
    assert {span.period for day in seen.hours.week for span in day} == {first}
    assert "this is not JSON" in said(calendars.preview(*at, b"{"))[0]
    assert "no text in UTF-8" in said(calendars.preview(*at, b"{\xff"))[0]


def test_the_private_address_follows_the_set_until_it_is_renewed(world: World, opening: HoursSet) -> None:
    at = args(world, opening)

    def token() -> str:
        path = calendars.feed_path(world.house, sets.opened(*at).set)
        return path.removeprefix("/calendars/").removesuffix(".ics")

    old = token()
    assert b"SUMMARY:Front desk" in (calendars.feed(world.house, old) or b"")
    calendars.renew_feed(*at)
    assert token() != old
    assert calendars.feed(world.house, old) is None
    for wrong in ("", "1", f"{opening.id}-{'0' * 32}", f"999-{token().split('-')[1]}", "x" * 5000):
        assert calendars.feed(world.house, wrong) is None
    live = token()
    assert sets.remove(*at) == []
    assert calendars.feed(world.house, live) is None, "a removed set is read by nobody"
