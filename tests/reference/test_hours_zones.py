"""Hours across clock changes, minute by minute over a year, against zoneinfo (IANA database) and the rules read plainly."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from tests.hours import closed, day, hours, plain_day, season, week
from vokari.core.hours.timetable import Timetable

MINUTES = 365 * 1440 + 2880
SET = hours(
    season("2026-03-20", "2026-04-10", week(desk="Daily 23:00-02:15", shop="Sat, Sun 02:15-03:00")),
    season("2026-09-25", "2026-10-30", week(desk="Sat, Sun 02:00-02:20", shop="Daily 22:00-01:40"), cuts=True),
    closed("2026-03-28", "2026-03-29", cuts=True), closed("2026-10-03", "2026-10-04", spans=day("01:30-03:30")),
    closed("2026-11-01", spans=day("Workshop 01:15-01:45; 23:00-07:00")),
    desk="Mon-Fri 7:30-12, 13-16; Sat 22:00-02:30", shop="Sun 02:30-04:00; Mon-Thu 22:00-02:10",
)  # fmt: skip
"""Hours with as much as possible in the nights in which clocks change."""


@pytest.mark.parametrize(
    "zone", ["America/New_York", "Europe/London", "Europe/Lisbon", "Australia/Lord_Howe", "Asia/Kathmandu"]
)
def test_every_minute_of_a_year_holds_what_the_wall_clock_says(zone: str) -> None:
    where = ZoneInfo(zone)
    since = datetime(2025, 12, 31, tzinfo=UTC)
    table = Timetable(SET, where)
    days = {(on := (since + timedelta(days=n)).date()): plain_day(SET, on) for n in range(-2, 370)}
    stretches = table.stretches(since, since + timedelta(minutes=MINUTES))
    upcoming = iter(stretches)
    stretch = next(upcoming)
    for step in range(MINUTES):
        moment = since + timedelta(minutes=step)
        local = moment.astimezone(where)
        minute, today = local.hour * 60 + local.minute, local.date()
        spans, exceptional, cuts = days[today]
        expected = ("closed", exceptional)
        for span in spans:
            if span.start <= minute < span.end:
                expected = (span.period, exceptional)
                break
        else:
            before, was_exceptional, _ = days[today - timedelta(days=1)]
            for span in before if not cuts else ():
                if span.start <= minute + 1440 < span.end:
                    expected = (span.period, was_exceptional)
        if moment >= stretch.until:
            stretch = next(upcoming)
        held = stretch.standing
        assert (held.period, held.is_exception) == expected, (zone, local)
        if step % 13 == 0:
            assert table.at(moment) == held
    assert all(one.since < one.until for one in stretches)
