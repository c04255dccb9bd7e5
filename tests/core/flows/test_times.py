"""Days of every year and times in place: typed, asked, and told apart on every way."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from dateutil.rrule import DAILY, rrule
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import document, say
from vokari.core.flows.conditions.base import Names
from vokari.core.flows.drafting import typed_conditions
from vokari.core.flows.model.condition import Condition
from vokari.core.flows.model.dates import in_ranges
from vokari.core.flows.questions.kinds import InDates, InTimes
from vokari.core.flows.questions.knowledge import Knowledge
from vokari.core.flows.running.answering import answer_source
from vokari.core.flows.running.flow import Flow
from vokari.core.proof.times import Asked, Times

ZONE = ZoneInfo("America/New_York")


@pytest.mark.parametrize(
    ("typed", "stored", "written"),
    [
        ("Aug", "--08-01/--08-31", "Aug"),
        ("in August", "--08-01/--08-31", "Aug"),
        ("Sept to Nov", "--09-01/--11-30", "Sep to Nov"),
        ("Dec 1-24", "--12-01/--12-24", "Dec 1 to Dec 24"),
        ("Dec 20 until Jan 6", "--12-20/--01-06", "Dec 20 to Jan 6"),
        ("Dec 24 2026", "2026-12-24", "2026-12-24"),
        ("Dec 28 2026 to Jan 3 2027", "2026-12-28/2027-01-03", "2026-12-28 to 2027-01-03"),
        ("weekdays 8-12", "Mon-Fri 08:00-12:00", "Mon-Fri 8-12"),
        ("Tue-Thu 5pm-10pm", "Tue-Thu 17:00-22:00", "Tue-Thu 17-22"),
        ("Sat, Sun", "Sat, Sun 00:00-24:00", "Sat, Sun"),
        ("Mon-Fri 8-12, 13-16:30", "Mon-Fri 08:00-12:00, 13:00-16:30", "Mon-Fri 8-12, 13-16:30"),
    ],
)
def test_days_and_times_as_they_are_typed(typed: str, stored: str, written: str) -> None:
    one = typed_conditions.read(typed, Names())
    assert isinstance(one, Condition), one
    assert one.any_of == (stored,)
    assert typed_conditions.write(one, Names()) == written
    assert typed_conditions.read(written, Names()) == one


@pytest.mark.parametrize("typed", ["Feb 30", "Aug 40", "Mon-Fri 25-26", "Dec 24 2026 to Dec 1 2026", "Mon-", "12 Aug"])
def test_what_is_no_day_and_no_time_is_said(typed: str) -> None:
    assert isinstance(typed_conditions.read(typed, Names()), str)


def test_a_comma_between_days_and_times_is_both_and_elsewhere_either() -> None:
    for typed, written in (
        ("Aug, Mon-Fri 8-12", "Aug and Mon-Fri 8-12"),
        ("Mon-Fri 8-12, Aug", "Mon-Fri 8-12 and Aug"),
        ("Aug, Dec", "Aug or Dec"),
        ("Sat, Sun", "Sat, Sun"),
    ):
        one = typed_conditions.read(typed, Names())
        assert isinstance(one, Condition), one
        assert typed_conditions.write(one, Names()) == written


def test_both_join_with_everything_else() -> None:
    one = typed_conditions.read("in August and Mon-Fri 8-12, 13-16 or not Sat", Names())
    assert isinstance(one, Condition)
    assert typed_conditions.write(one, Names()) == "(Aug and Mon-Fri 8-12, 13-16) or not Sat"


_days = st.tuples(st.integers(1, 12), st.integers(1, 28))


@given(_days, _days, st.dates(date(1990, 1, 1), date(2100, 1, 1)))
def test_days_of_every_year_are_those_that_an_rrule_gives(
    first: tuple[int, int], last: tuple[int, int], on: date
) -> None:
    """RFC 5545, as dateutil reads it: daily from the first day to the last, in this year or begun in the year before."""
    text = f"--{first[0]:02}-{first[1]:02}/--{last[0]:02}-{last[1]:02}"
    found = False
    for year in (on.year - 1, on.year):
        begins, ends = datetime(year, *first), datetime(year + (last < first), *last)
        found = found or any(one.date() == on for one in rrule(DAILY, dtstart=begins, until=ends))
    assert in_ranges((text,), on) is found


def test_the_leap_day_is_the_last_of_february_where_there_is_none() -> None:
    days = [
        in_ranges(("--02-29",), date(year, *on)) for year, on in ((2027, (2, 28)), (2028, (2, 28)), (2028, (2, 29)))
    ]
    assert days == [True, False, True]


@given(st.integers(0, 60 * 24 * 14))
def test_a_time_in_place_is_of_the_clients_zone(minutes: int) -> None:
    at = datetime(2026, 10, 26, tzinfo=UTC) + timedelta(minutes=minutes)
    flow = Flow(document(say("x", "Hello", None)))
    asked = answer_source(flow, at, ZONE, lambda _: None, lambda _: ())(
        InTimes(("Mon-Fri 08:00-12:00", "Sat 22:00-02:00+1"))
    )
    local = at.astimezone(ZONE)
    hour, day = local.hour, local.weekday()
    assert asked is ((day < 5 and 8 <= hour < 12) or (day == 5 and hour >= 22) or (day == 6 and hour < 2))


def test_days_hours_and_times_in_place_are_one_dimension() -> None:
    """What can be in August on a weekday morning is known once both were asked, and each kind of moment stands once."""
    since, week, days = datetime(2026, 1, 1, tzinfo=ZONE), "Mon-Fri 08:00-12:00", "--08-01/--08-31"
    times = Times(Asked({}, ranges=(days,), weeks=(week,)), ZONE, since, since + timedelta(days=800))
    kinds = {one.kind for one in times.whole}
    found = {(in_ranges((days,), one.day), week in one.weeks) for one in times.cells.each}
    assert found == {(a, b) for a in (True, False) for b in (True, False)}
    assert len(kinds) == 4
    in_august = dict(InDates((days,)).classes(Knowledge.of(times.cells.each)))[True]
    assert {answer for answer, _ in InTimes((week,)).classes(in_august)} == {True, False}
