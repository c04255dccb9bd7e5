"""Hours: what holds at a moment, by which rule, and what is refused."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.hours import closed, day, hours, plainly, random_hours, season, week
from vokari.core.checks import days as checks
from vokari.core.hours import clock_changes, cover, month, words
from vokari.core.hours.document import Hours, OneOff, Pick, PublicHolidays, Span
from vokari.core.hours.timetable import Switch, Timetable, open_minutes

NEW_YORK = ZoneInfo("America/New_York")
YARD = hours(desk="Mon-Fri 7:30-12, 13-16; Sat 9-1", shop="Mon-Fri 16-18")


def at(one: Hours, text: str, zone: ZoneInfo = NEW_YORK, **more: object) -> str:
    """The period at a local time."""
    local = datetime.fromisoformat(text).replace(tzinfo=zone)
    return Timetable(one, zone, **more).at(local).period  # type: ignore[arg-type]


def test_a_period_holds_from_its_start_up_to_but_not_including_its_end() -> None:
    assert at(YARD, "2026-11-24T07:29") == "closed"
    assert at(YARD, "2026-11-24T07:30") == "desk"
    assert at(YARD, "2026-11-24T11:59:59") == "desk"
    assert at(YARD, "2026-11-24T12:00") == "closed"
    assert at(YARD, "2026-11-24T16:00") == "shop"
    assert at(YARD, "2026-11-29T10:00") == "closed"


def test_an_interval_across_midnight_belongs_to_the_day_on_which_it_starts() -> None:
    night = hours(closed("2026-11-25"), desk="Mon-Wed 22:00-02:00")
    assert at(night, "2026-11-25T01:00") == "desk", "Tuesday’s tail runs on into a closed Wednesday"
    assert at(night, "2026-11-25T23:00") == "closed"
    assert at(night, "2026-11-26T01:00") == "closed", "Wednesday’s own interval never started"


def test_a_tail_is_cut_only_by_an_exception_that_says_so() -> None:
    night = hours(closed("2026-11-25", cuts=True), desk="Mon-Wed 22:00-02:00")
    assert at(night, "2026-11-25T00:00") == "closed"
    assert at(night, "2026-11-24T23:59") == "desk"


def test_an_exception_of_several_days_cuts_at_its_first_midnight_only() -> None:
    open_late = closed("2026-11-25", "2026-11-27", spans=day("22:00-02:00"), cuts=True)
    night = hours(open_late, desk="Mon-Wed 22:00-02:00")
    assert [at(night, f"2026-11-{on}T01:00") for on in (25, 26, 27, 28)] == ["closed", "desk", "desk", "desk"]


@pytest.mark.parametrize("make", ["season", "days"])
def test_what_holds_over_new_year_does_not_cut_its_night(make: str) -> None:
    nights = week(desk="Daily 22:00-02:00")
    over = (
        season("2026-12-20", "2027-01-10", nights, cuts=True, every_year=True) if make == "season"
        else closed("2026-12-20", "2027-01-10", spans=nights[0], cuts=True, every_year=True)
    )  # fmt: skip
    one = hours(over, desk="Daily 22:00-02:00")
    assert at(one, "2027-01-01T01:00") == "desk"
    assert at(one, "2028-01-01T01:00") == "desk"
    assert [at(one, f"{year}-12-20T01:00") for year in (2026, 2027)] == ["closed", "closed"]


def test_a_tail_yields_to_what_starts_today_and_goes_on_after_it() -> None:
    one = hours(closed("2026-11-25", spans=day("Workshop 01:00-02:00")), desk="Tue 20:00-04:00")
    found = [at(one, f"2026-11-25T{hour:02d}:30") for hour in range(5)]
    assert found == ["desk", "shop", "desk", "desk", "closed"]


def test_a_tail_is_exceptional_when_its_own_day_is() -> None:
    one = hours(closed("2026-11-24", spans=day("20:00-04:00")), desk="Mon-Wed 20:00-04:00")
    table = Timetable(one, NEW_YORK)
    assert table.at(datetime(2026, 11, 25, 1, tzinfo=NEW_YORK)).is_exception
    assert not table.at(datetime(2026, 11, 24, 1, tzinfo=NEW_YORK)).is_exception
    assert not table.at(datetime(2026, 11, 25, 12, tzinfo=NEW_YORK)).is_exception


THANKS = PublicHolidays(id="us", country="US", picked=(Pick(name="Thanksgiving Day"), Pick(name="Christmas Day")))


def test_the_stronger_exception_wins_and_of_equals_the_later() -> None:
    late = season("2026-11-20", "2026-12-31", week(shop="Daily 10-12"))
    noon = "2026-11-26T11:00"
    assert at(hours(late, desk="Daily 8-18"), noon) == "shop", "a season over the week"
    assert at(hours(THANKS, late, desk="Daily 8-18"), noon) == "closed", "a holiday over a season"
    through = late.model_copy(update={"on_holidays": True})
    assert at(hours(through, THANKS, desk="Daily 8-18"), noon) == "shop", "a season told to hold on holidays"
    one_off = closed("2026-11-26", spans=day("11-12"))
    assert at(hours(one_off, through, THANKS, desk="Daily 8-18"), noon) == "desk", "a one-off day over all of them"
    second = closed("2026-11-26", id="later")
    assert at(hours(one_off, second, desk="Daily 8-18"), noon) == "closed", "the later in the list"
    assert at(hours(second, one_off, desk="Daily 8-18"), noon) == "desk"


def test_shared_lists_come_before_the_set_and_mean_its_first_period() -> None:
    shared = (
        OneOff(
            id="l", name="Fair", first=date(2026, 11, 24), last=date(2026, 11, 24), spans=(Span(start=600, end=660),)
        ),
    )
    assert at(YARD, "2026-11-24T10:30", shared=shared) == "desk"
    assert at(YARD, "2026-11-24T14:00", shared=shared) == "closed"
    own = hours(closed("2026-11-24"), desk="Mon-Fri 8-16")
    assert at(own, "2026-11-24T10:30", shared=shared) == "closed"


def test_a_switch_is_strongest_and_ends_by_itself() -> None:
    begin = datetime(2026, 11, 24, 17, tzinfo=UTC)
    switch = Switch(begin, begin + timedelta(hours=2), "closed", "sw", "Fire drill")
    table = Timetable(YARD, NEW_YORK, switches=(switch,))
    assert table.at(begin).kind == "switch"
    assert table.at(begin + timedelta(hours=2)).period == "desk"
    stretches = table.stretches(begin - timedelta(hours=1), begin + timedelta(hours=5))
    assert [(one.standing.period, one.standing.kind) for one in stretches] == [
        ("desk", ""), ("closed", "switch"), ("desk", ""), ("shop", ""),
    ]  # fmt: skip


def test_every_year_and_the_29th_of_february() -> None:
    yearly = closed("2026-07-04", every_year=True)
    assert at(hours(yearly, desk="Daily 8-18"), "2031-07-04T12:00") == "closed"
    assert at(hours(yearly, desk="Daily 8-18"), "2025-07-04T12:00") == "desk", "not before its first year"
    leap = closed("2028-02-29", every_year=True)
    assert at(hours(leap, desk="Daily 8-18"), "2032-02-29T12:00") == "closed"
    assert [at(hours(leap, desk="Daily 8-18"), f"2029-{one}T12:00") for one in ("02-28", "03-01")] == ["desk", "desk"]
    winter = season("2027-12-20", "2028-02-29", week(), every_year=True)
    assert at(hours(winter, desk="Daily 8-18"), "2030-02-28T12:00") == "closed"
    assert at(hours(winter, desk="Daily 8-18"), "2030-03-01T12:00") == "desk"
    assert at(hours(winter, desk="Daily 8-18"), "2029-01-05T12:00") == "closed", "over the turn of the year"


def test_substitute_days_count_when_asked_for() -> None:
    fourth = {"id": "us", "country": "US", "picked": (Pick(name="Independence Day"),)}
    with_them, without = PublicHolidays(**fourth), PublicHolidays(**fourth, observed=False)
    assert at(hours(with_them, desk="Daily 8-18"), "2026-07-03T12:00") == "closed"
    assert at(hours(without, desk="Daily 8-18"), "2026-07-03T12:00") == "desk"
    assert at(hours(without, desk="Daily 8-18"), "2026-07-04T12:00") == "closed"


@given(
    random_hours(),
    st.sampled_from(["America/New_York", "Europe/London", "Australia/Lord_Howe"]),
    st.integers(0, 525_599),
)
def test_at_and_the_stretches_say_what_the_rules_say(one: Hours, zone: str, minute: int) -> None:
    where = ZoneInfo(zone)
    moment = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(minutes=minute)
    table = Timetable(one, where)
    standing = table.at(moment)
    assert (standing.period, standing.is_exception) == plainly(one, where, moment)
    stretches = table.stretches(moment - timedelta(days=3), moment + timedelta(days=3))
    found = next(s for s in stretches if s.since <= moment < s.until)
    assert found.standing == standing
    assert all(a.until == b.since and a.standing != b.standing for a, b in pairwise(stretches))
    assert stretches[0].since == moment - timedelta(days=3)
    assert stretches[-1].until == moment + timedelta(days=3)


@pytest.mark.parametrize(
    ("raw", "words_"),
    [
        ({"week": week(desk="Mon 8-12", shop="Mon 11-13")}, "Front desk and Workshop overlap on Mon from 11:00"),
        ({"week": week(desk="Sun 22:00-02:00", shop="Mon 1:00-03:00")}, "overlap on Mon from 01:00"),
        ({"periods": [{"id": "closed", "name": "X"}]}, "no period can have the id closed"),
        ({"periods": [{"id": "a", "name": "Desk"}, {"id": "b", "name": "desk"}]}, "two periods have the same name"),
        ({"exceptions": [{"kind": "days", "id": "x", "first": "2026-05-02", "last": "2026-05-01"}]}, "ends before it starts"),
        ({"exceptions": [{"kind": "days", "id": "x", "first": "2027-02-29", "last": "2027-03-01"}]}, "first"),
        ({"week": [[{"period": "desk", "start": 60, "end": 60}], *[[]] * 6]}, "has no length"),
        ({"week": [[{"period": "desk", "start": 60, "end": 1501}], *[[]] * 6]}, "longer than 24 hours"),
        ({"week": [[{"period": "none", "start": 60, "end": 90}], *[[]] * 6]}, "there is no period none"),
    ],
)  # fmt: skip
def test_hours_that_cannot_be_are_refused_in_words(raw: dict[str, object], words_: str) -> None:
    with pytest.raises(ValueError, match=words_):
        Hours.model_validate({**hours().model_dump(), **raw})


def test_the_sentence_says_what_holds_why_and_until_when() -> None:
    def said(one: Hours, text: str) -> str:
        return words.sentence(Timetable(one, NEW_YORK), datetime.fromisoformat(text).replace(tzinfo=NEW_YORK))

    assert said(YARD, "2026-11-24T10:00") == "Front desk open, closes 12:00"
    assert said(YARD, "2026-11-24T15:00") == "Front desk open until 16:00, then Workshop"
    assert said(YARD, "2026-11-24T20:00") == "Closed, opens tomorrow 07:30 (Front desk)"
    assert (
        said(hours(THANKS, desk="Mon-Fri 8-16"), "2026-11-26T10:00")
        == "Closed (Thanksgiving Day), opens tomorrow 08:00 (Front desk)"
    )
    assert said(YARD, "2026-11-28T18:00") == "Closed, opens Mon 07:30 (Front desk)"
    assert said(hours(), "2026-11-28T18:00") == "Closed, with no opening in the next year"
    assert said(hours(desk="daily round the clock"), "2026-11-28T18:00") == "Front desk open, for the next year"
    long = hours(closed("2026-12-20", "2027-01-10"), desk="Mon-Fri 8-16")
    assert said(long, "2026-12-21T10:00") == "Closed (x20261220), opens Mon, Jan 11 2027, 08:00 (Front desk)"


def test_clock_changes_say_what_they_do() -> None:
    table = Timetable(hours(desk="Sat 22:00-01:30", shop="Sun 01:30-04:00"), NEW_YORK)
    spring, autumn = clock_changes.clock_changes(
        table, datetime(2026, 1, 1, tzinfo=UTC), datetime(2027, 1, 1, tzinfo=UTC)
    )
    assert (spring.jump, spring.from_words, spring.to_words) == (60, "02:00", "03:00")
    assert spring.effects == ("Workshop loses 60 minutes: 02:00 to 03:00 never comes.",)
    assert autumn.jump == -60
    assert "Front desk ended in it, and opens again at 01:00." in autumn.effects
    repeated = table.stretches(datetime(2026, 11, 1, 4, tzinfo=UTC), datetime(2026, 11, 1, 10, tzinfo=UTC))
    assert [one.standing.period for one in repeated] == ["desk", "shop", "desk", "shop", "closed"]


def test_cover_finds_the_times_in_which_nobody_can_be_rung() -> None:
    since = datetime(2026, 11, 23, 5, tzinfo=UTC)
    dana = Timetable(hours(desk="Mon-Thu 7-15"), NEW_YORK)
    joel = Timetable(hours(zone="Europe/London", desk="Mon-Fri 12-17"), ZoneInfo("Europe/London"))
    found = cover.cover(Timetable(YARD, NEW_YORK), {"desk"}, [dana, joel], since, since + timedelta(days=7))
    gaps = [
        (a.astimezone(NEW_YORK).strftime("%a %H:%M"), b.astimezone(NEW_YORK).strftime("%a %H:%M"))
        for a, b in found.gaps
    ]
    assert gaps[0] == ("Mon 15:00", "Mon 16:00")
    assert gaps[-2:] == [("Fri 13:00", "Fri 16:00"), ("Sat 09:00", "Sat 13:00")]
    assert ("Fri 07:30", "Fri 12:00") not in gaps, "Joel’s London afternoon is New York’s morning"
    assert found.wanted - found.covered == sum((b - a for a, b in found.gaps), timedelta())
    nobody = cover.cover(None, (), [], since, since + timedelta(days=1))
    assert nobody.covered == timedelta()


def test_warnings_about_exceptions() -> None:
    today = date(2026, 11, 24)
    past, idle_one = closed("2026-11-01"), closed("2026-11-29")
    leap = closed("2028-02-29", every_year=True)
    one = hours(past, idle_one, leap, THANKS, desk="Mon-Fri 8-16")
    kinds = {(w.exception, w.kind) for w in checks.warnings_of(one.exceptions, today)}
    assert kinds == {(past.id, "past"), (leap.id, "leap"), ("us", "unseen")}
    seen = THANKS.model_copy(update={"seen_until": 2027})
    assert not checks.warnings_of((seen,), today)
    found = checks.idle(one, Timetable(one, NEW_YORK), (), today)
    assert [w.exception for w in found] == [idle_one.id], "a Sunday that is closed anyway"


def test_the_month_says_what_holds_each_day() -> None:
    weeks = month.month(Timetable(hours(THANKS, desk="Mon-Fri 8-16"), NEW_YORK), 2026, 11)
    days = {one.on: one for row in weeks for one in row}
    assert days[date(2026, 11, 26)].ruling is not None
    assert days[date(2026, 11, 26)].spans == ()
    assert [span.start for span in days[date(2026, 11, 27)].spans] == [480]
    assert not days[date(2026, 10, 26)].inside
    assert [len(row) for row in weeks] == [7] * 6


def test_open_time_of_a_week_counts_overlaps_once() -> None:
    assert open_minutes(YARD.week) == 5 * (270 + 180 + 120) + 240
    assert open_minutes(YARD.week, "shop") == 600
    assert open_minutes(week(desk="daily 06:00-06:00+1")) == 7 * 1440
    assert open_minutes(week(desk="Sun 22:00-04:00; Mon 02:00-06:00")) == 8 * 60
