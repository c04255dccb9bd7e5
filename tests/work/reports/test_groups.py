"""The report by anything, against an earlier period, with costs: against a spreadsheet written by hand."""

from datetime import date, timedelta
from decimal import Decimal

import pytest

from tests import history
from tests.conftest import NOON
from tests.world import World
from vokari.core.reports.periods import Period
from vokari.formats import spend_lists
from vokari.work.agency.access import NotAllowed
from vokari.work.house.problems import Problem
from vokari.work.reports import groups, spending
from vokari.work.reports.groups import GROUPS, Grouped
from vokari.work.reports.spending import Spent

TODAY = NOON.date()
"""Tuesday, November 24, 2026."""
WEEK = Period(TODAY - timedelta(days=6), TODAY)
ADA, BEN = "+14105550171", "+14105550172"


@pytest.fixture
def busy(world: World) -> World:
    """Nine calls of two weeks from two campaigns:

    | day | campaign | caller | fate | seconds talked |
    | Nov 24 | spring | A | answered | 60 | Nov 24 | spring | B | lost | 0 | Nov 23 | spring | A | answered | 120 |
    | Nov 20 | autumn | C | answered | 30 | Nov 19 | autumn | D | message | 0 | Nov 18 | none | A | lost | 0 |
    | Nov 14 | spring | D | answered | 10 | Nov 13 | autumn | E | lost | 0 | Nov 12 | spring | E | answered | 20 |
    """
    made = {}
    for name, campaign, medium in (("Search", "Spring", "cpc"), ("Radio", "Autumn", "audio")):
        made[campaign] = world.source(name, source=name.lower(), medium=medium, campaign=campaign)
    number = world.number("+14105550142")
    calls = (
        (0, "Spring", "A", "answered", 60), (0, "Spring", "B", "lost", 0), (1, "Spring", "A", "answered", 120),
        (4, "Autumn", "C", "answered", 30), (5, "Autumn", "D", "message_left", 0), (6, "", "A", "lost", 0),
        (10, "Spring", "D", "answered", 10), (11, "Autumn", "E", "lost", 0), (12, "Spring", "E", "answered", 20),
    )  # fmt: skip
    rows = [
        history.row(
            world, NOON - timedelta(days=ago), number.id, made[campaign].id if campaign else None,
            caller=f"+1410555018{'ABCDE'.index(caller)}", fate=fate, talk_seconds=float(talked),
            answered_by={"answered": ADA if talked > 20 else BEN}.get(fate, ""), reason="menu" if fate == "lost" else "",
        )
        for ago, campaign, caller, fate, talked in reversed(calls)
    ]  # fmt: skip
    history.write(world, rows)
    return world


def grouped(world: World, by: str, against: str = "") -> Grouped:
    return groups.grouped(world.house, world.actors["client_viewer"], world.client.id, WEEK, by, against)


def test_each_grouping_has_all_calls_once(busy: World) -> None:
    for by in GROUPS:
        found = grouped(busy, by, "before")
        assert sum(line.tally.calls for line in found.lines) == 6, by
        assert sum(line.before.calls for line in found.lines if line.before) == 3, by
        assert sum(line.tally.talk_seconds for line in found.lines) == 210, by
        assert sum(line.tally.new_callers for line in found.lines) == 3, by
    assert (found.whole.total.calls, found.before.calls if found.before else 0) == (6, 3)


def test_the_worked_example_by_campaign_with_costs(busy: World) -> None:
    """By hand, for Nov 18 to 24: spring has 3 calls, 2 answered, new callers B (A first called on Nov 18), 50.00 spent on 2 days:
    16.67 a call, 25.00 an answered call, 50.00 a new caller. Autumn has 2 calls, 1 answered, new caller C (D called on Nov 14),
    10.01 spent on 1 day: 5.01 a call (half up), 10.01, 10.01. All: 6 calls, 3 answered, 3 new (A, B, C), 60.01: 10.00, 20.00, 20.00."""
    args = (busy.house, busy.actor, busy.client.id)
    assert spending.type_in(*args, "spring", TODAY - timedelta(days=1), TODAY, "50", each=False) == 2
    assert spending.type_in(*args, "AUTUMN", TODAY - timedelta(days=4), None, "10.01", each=False) == 1
    found = grouped(busy, "campaign", "before")
    table = {
        line.name: (line.tally.calls, line.tally.by_fate["answered"], line.tally.new_callers, line.before.calls if line.before else 0)
        for line in found.lines
    }  # fmt: skip
    assert table == {"Spring": (3, 2, 1, 2), "Autumn": (2, 1, 1, 1), "no campaign": (1, 0, 1, 0)}
    costs = {line.name: line.costs for line in found.lines if line.costs}
    assert [
        (one.spent, one.missing, one.per_call, one.per_answered, one.per_new) for one in (costs["Spring"], costs["Autumn"], found.costs) if one
    ] == [
        (Decimal("50.00"), 5, Decimal("16.67"), Decimal("25.00"), Decimal("50.00")),
        (Decimal("10.01"), 6, Decimal("5.01"), Decimal("10.01"), Decimal("10.01")),
        (Decimal("60.01"), 4, Decimal("10.00"), Decimal("20.00"), Decimal("20.00")),
    ]  # fmt: skip
    assert "no campaign" not in costs


def test_a_year_before_and_the_29th_of_february() -> None:
    assert Period(date(2028, 2, 29), date(2028, 3, 1)).before("year") == Period(date(2027, 2, 28), date(2027, 3, 1))
    assert WEEK.before("before") == Period(date(2026, 11, 11), date(2026, 11, 17))
    assert WEEK.before("") is None


def test_spend_of_a_list_is_kept_replaced_or_left_and_taken_back(busy: World) -> None:
    args = (busy.house, busy.actor, busy.client.id)
    text = "Campaign;Date;Cost\nspring;11/02/2026;1.250,50\nSprng;2026-11-03;5\nautumn;2026-13-03;5\nspring;2026-11-02;9\nautumn;Nov 3, 2026;x\n"
    table = spend_lists.read(text)
    assert not isinstance(table, str)
    lines = spend_lists.lines(table, spend_lists.guess(table), {"spring": "Spring", "autumn": "Autumn"}, "US", TODAY)
    assert (lines[0].campaign, lines[0].day, lines[0].amount) == ("Spring", date(2026, 11, 2), Decimal("1250.50"))
    assert [words in one.problem for one, words in zip(lines[1:], (
        "did you mean Spring", "is no day", "stand on line 2", "is no amount",
    ), strict=True)] == [True] * 4  # fmt: skip
    day = date(2026, 11, 2)
    assert spending.keep(*args, [Spent("Spring", day, Decimal("10"))]) == 1
    again = [Spent("Spring", day, Decimal("12")), Spent("Autumn", day, Decimal("3"))]
    assert spending.known(*args, again) == {("spring", day)}
    assert spending.keep(*args, again) == 2
    view = spending.view(*args)
    assert {one.campaign: (one.amount, one.days) for one in view.months} == {
        "Spring": (Decimal(12), 1),
        "Autumn": (Decimal(3), 1),
    }
    assert view.last is not None
    assert "15.00 for 2 campaigns on 2026-11-02" in view.last[1]
    assert spending.undo(*args, view.last[0] - 1), "only the latest"
    assert spending.undo(*args, view.last[0]) == []
    assert {one.campaign: one.amount for one in spending.view(*args).months} == {"Spring": Decimal(10)}


@pytest.mark.parametrize(
    ("typed", "field"),
    [
        (("winter", TODAY, None, "5"), "campaign"), (("spring", None, None, "5"), "first"), (("spring", TODAY, None, "five"), "amount"),
        (("spring", TODAY, TODAY - timedelta(days=1), "5"), "last"), (("spring", TODAY + timedelta(days=9), None, "5"), "last"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_typed_spend_is_said(busy: World, typed: tuple, field: str) -> None:
    found = spending.type_in(busy.house, busy.actor, busy.client.id, *typed, each=True)
    assert isinstance(found, list)
    assert [one.field for one in found if isinstance(one, Problem)] == [field]


@pytest.mark.parametrize("role", ["client_viewer", "client_editor"])
def test_who_may_see_costs_and_who_may_enter_spend(busy: World, role: str) -> None:
    args = (busy.house, busy.actors[role], busy.client.id)
    assert groups.grouped(*args, WEEK, "campaign").lines
    for refused in (
        lambda: spending.view(*args),
        lambda: spending.keep(*args, [Spent("Spring", TODAY, Decimal(1))]),
        lambda: spending.type_in(*args, "spring", TODAY, None, "1", each=True),
        lambda: spending.known(*args, []),
        lambda: spending.undo(*args, 1),
    ):
        with pytest.raises(NotAllowed):
            refused()
