"""Hours read from calendars and written as such: nothing is lost on the way, and what cannot be said is listed."""

from datetime import UTC, date, datetime, timedelta
from itertools import count
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings

from tests.hours import closed, day, hours, random_hours, season, week
from vokari.core.hours.document import Hours, OneOff, Period, Season
from vokari.core.hours.gathered import Calendar, closures, to_hours
from vokari.core.hours.timetable import Switch, Timetable
from vokari.core.hours.typed import write_times, write_week
from vokari.formats import calendar_read, calendar_write

ZONE = ZoneInfo("America/New_York")
STAMP = datetime(2026, 6, 3, 15, tzinfo=UTC)
TODAY = date(2026, 6, 3)


def ids(prefix: str, _numbers: "count[int]" = count(1)) -> str:
    return f"{prefix}{next(_numbers)}"


def file(*events: str, head: str = "") -> bytes:
    """A calendar of events, each given as its lines after the UID, with semicolons for ends of lines."""
    parts = [
        "BEGIN:VEVENT\nUID:{}@example.com\nDTSTAMP:20260101T000000Z\n{}\nEND:VEVENT".format(
            n, event.strip().replace(" / ", "\n")
        )
        for n, event in enumerate(events)
    ]
    body = "\n".join(["BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//Test//EN", *([head] if head else []), *parts])
    return f"{body}\nEND:VCALENDAR\n".replace("\n", "\r\n").encode()


def read(data: bytes, *, first: date = TODAY, periods: tuple[str, ...] = ()) -> Calendar:
    found = calendar_read.read(data, ZONE, first, periods)
    assert isinstance(found, Calendar), found
    return found


def made(data: bytes, known: tuple[Period, ...] = ()) -> tuple[Hours, list[str]]:
    calendar = read(data, periods=tuple(one.name for one in known))
    found = to_hours(calendar, "From a file", known, ids)
    assert isinstance(found, Hours), found
    return found, calendar.left_out


def plainly(table: Timetable, days: int = 390) -> list[tuple[datetime, str]]:
    """What holds through the days that a file covers, without why."""
    start = datetime(2026, 6, 3, tzinfo=ZONE)
    names = table.hours.names
    found: list[tuple[datetime, str]] = []
    for stretch in table.stretches(start, start + timedelta(days=days)):
        name = names[stretch.standing.period]
        if not found or found[-1][1] != name:
            found.append((stretch.since, name))
    return found


# there and back


def there_and_back(table: Timetable) -> Timetable:
    written = calendar_write.write(table, "h_main", STAMP)
    back, left_out = made(written, table.hours.periods)
    assert left_out == []
    return Timetable(back, ZONE)


@given(random_hours())
@settings(max_examples=40)
def test_hours_written_and_read_again_hold_the_same_at_every_instant(one: Hours) -> None:
    table = Timetable(one, ZONE)
    assert plainly(there_and_back(table)) == plainly(table)


def test_a_season_comes_back_as_a_season_and_closed_days_by_their_names() -> None:
    one = hours(
        season("2026-07-01", "2026-08-31", week(desk="Mon-Sat 6-14"), name="Summer"),
        closed("2026-12-24", "2027-01-02", name="Between the years"),
        desk="Mon-Fri 9-17", shop="Sat 10-12",
    )  # fmt: skip
    back = there_and_back(Timetable(one, ZONE)).hours
    seasons = [entry for entry in back.exceptions if isinstance(entry, Season)]
    assert [(entry.first, entry.last, write_week(entry.week)) for entry in seasons] == [
        (date(2026, 7, 1), date(2026, 8, 31), "Mon-Sat 06:00-14:00")
    ]
    days = [entry for entry in back.exceptions if isinstance(entry, OneOff)]
    assert {entry.name for entry in days} == {"Between the years"}
    assert {on for entry in days for on in (entry.first, entry.last)} >= {date(2026, 12, 24), date(2027, 1, 2)}
    assert back.week == one.week


def test_a_tail_that_is_cut_is_written_as_it_is_open() -> None:
    one = hours(closed("2026-06-13", cuts=True), closed("2026-06-20", spans=day("0:30-1")), desk="Fri 20-03:00")
    table = Timetable(one, ZONE)
    back = there_and_back(table)
    assert plainly(back, 30) == plainly(table, 30)
    assert back.at(datetime(2026, 6, 13, 1, tzinfo=ZONE)).period == "closed"


def test_the_tail_of_the_day_before_the_first_comes_back() -> None:
    """A one-off that ends the day before the first day read, with an interval past midnight."""
    one = hours(closed("2026-05-30", "2026-06-02", spans=day("20-03:00")), desk="Mon-Fri 9-17")
    table = Timetable(one, ZONE)
    back = there_and_back(table)
    assert back.at(datetime(2026, 6, 3, 1, tzinfo=ZONE)).period == "desk"
    assert plainly(back, 30) == plainly(table, 30)
    monday = datetime(2026, 6, 1, 5, tzinfo=UTC)
    sunday = hours(closed("2026-05-31", spans=day("20-03:00")), desk="Mon-Fri 9-17")
    calendar = calendar_read.read(calendar_write.write(Timetable(sunday, ZONE), "h", monday), ZONE, date(2026, 6, 1))
    assert isinstance(calendar, Calendar)
    again = to_hours(calendar, "Again", sunday.periods, ids)
    assert isinstance(again, Hours)
    assert Timetable(again, ZONE).at(datetime(2026, 6, 1, 1, tzinfo=ZONE)).period == "desk"


def test_what_is_written_is_a_calendar_that_any_program_reads() -> None:
    one = hours(closed("2026-07-03", name="Day off"), desk="Mon-Thu 7:30-12, 13-16", shop="Fri 22-02:00")
    text = calendar_write.write(Timetable(one, ZONE), "h_main", STAMP).decode()
    assert "\r\n" in text
    assert max(len(line.encode()) for line in text.split("\r\n")) <= 75, "RFC 5545, 3.1: lines are folded at 75 octets"
    for expected in (
        "BEGIN:VTIMEZONE", "TZID:America/New_York", "X-WR-CALNAME:Yard", "REFRESH-INTERVAL;VALUE=DURATION:PT6H",
        "RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH", "DTSTART;VALUE=DATE:20260703", "DTEND;VALUE=DATE:20260704",
        "SUMMARY:Closed: Day off", "DTEND;TZID=America/New_York:20260606T020000",
    ):  # fmt: skip
        assert expected in text, expected
    uids = [line for line in text.split("\r\n") if line.startswith("UID:")]
    assert len(set(uids)) == len(uids)
    later = calendar_write.write(Timetable(one, ZONE), "h_main", STAMP + timedelta(days=1)).decode()
    assert [line for line in later.split("\r\n") if line.startswith("UID:")] == uids


def test_switches_do_not_stand_in_calendars_unless_they_are_asked_for() -> None:
    plain = Timetable(hours(desk="Mon-Fri 9-17"), ZONE)
    switched = plain.switched([Switch(STAMP, STAMP + timedelta(hours=3))])
    assert calendar_write.write(switched.switched(()), "h", STAMP) == calendar_write.write(plain, "h", STAMP)


# what events mean

WEEKLY = "SUMMARY:Front desk / DTSTART;TZID=America/New_York:20260105T090000 / DTEND;TZID=America/New_York:20260105T170000 / RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"


def test_rules_without_an_end_make_the_week_and_periods_are_known_by_name() -> None:
    lunch = "SUMMARY:Closed for lunch / DTSTART;TZID=America/New_York:20260105T120000 / DTEND;TZID=America/New_York:20260105T130000 / RRULE:FREQ=DAILY"
    saturdays = "SUMMARY:Workshop / DTSTART:20260110T090000 / DURATION:PT4H / RRULE:FREQ=WEEKLY"
    found, left_out = made(file(WEEKLY, lunch, saturdays), (Period(id="desk", name="FRONT DESK"),))
    assert left_out == []
    assert (found.periods[0].id, found.periods[0].name) == ("desk", "FRONT DESK")
    assert found.periods[1].name == "Workshop"
    assert write_week(found.week) == "Mon-Fri 09:00-12:00, 13:00-17:00; Sat 09:00-12:00"
    assert found.exceptions == ()


def test_exdates_rdates_and_moved_events_make_exceptions() -> None:
    data = file(
        WEEKLY + " / EXDATE;TZID=America/New_York:20260703T090000",
        "SUMMARY:Front desk / DTSTART;TZID=America/New_York:20260711T100000 / DTEND;TZID=America/New_York:20260711T120000"
        " / RDATE;TZID=America/New_York:20260718T100000",
    )
    moved = (
        "BEGIN:VEVENT\r\nUID:0@example.com\r\nDTSTAMP:20260101T000000Z\r\nRECURRENCE-ID;TZID=America/New_York:20260706T090000\r\n"
        "SUMMARY:Front desk\r\nDTSTART;TZID=America/New_York:20260706T110000\r\nDTEND;TZID=America/New_York:20260706T150000\r\n"
        "END:VEVENT\r\nEND:VCALENDAR"
    )
    found, left_out = made(data.replace(b"END:VCALENDAR", moved.encode()))
    assert left_out == []
    assert write_week(found.week) == "Mon-Fri 09:00-17:00"
    table = Timetable(found, ZONE)
    days = {
        on: write_times(table.spans_on(on))
        for on in (date(2026, 7, 3), date(2026, 7, 6), date(2026, 7, 11), date(2026, 7, 18))
    }
    assert list(days.values()) == ["", "11:00-15:00", "10:00-12:00", "10:00-12:00"]
    assert len(found.exceptions) == 4


def test_whole_days_close_and_those_of_each_year_stay_for_ever() -> None:
    found, left_out = made(file(
        WEEKLY,
        "SUMMARY:Closed: Founders’ day / DTSTART;VALUE=DATE:20200614 / RRULE:FREQ=YEARLY",
        "SUMMARY:Stock-taking / DTSTART;VALUE=DATE:20260629 / DTEND;VALUE=DATE:20260701",
        "SUMMARY:Closed on Wednesdays / DTSTART;VALUE=DATE:20260107 / RRULE:FREQ=WEEKLY;BYDAY=WE",
    ))  # fmt: skip
    assert left_out == []
    assert write_week(found.week) == "Mon, Tue, Thu, Fri 09:00-17:00"
    each_year = [one for one in found.exceptions if isinstance(one, OneOff) and one.every_year]
    assert [(one.name, one.first) for one in each_year] == [("Founders’ day", date(2026, 6, 14))]
    single = [one for one in found.exceptions if one not in each_year]
    assert [(one.name, one.first, one.last) for one in single] == [
        ("Stock-taking", date(2026, 6, 29), date(2026, 6, 30))
    ]


def test_closures_alone_leave_the_week_to_the_set() -> None:
    calendar = read(file(
        WEEKLY,
        "SUMMARY:Closed: Regatta / DTSTART;VALUE=DATE:20260613 / DTEND;VALUE=DATE:20260616",
        "SUMMARY:New Year / DTSTART;VALUE=DATE:20200101 / RRULE:FREQ=YEARLY",
    ))  # fmt: skip
    found = [one for one in closures(calendar, ids) if isinstance(one, OneOff)]
    assert [(one.name, one.first, one.last, one.every_year) for one in found] == [
        ("New Year", date(2027, 1, 1), date(2027, 1, 1), True), ("Regatta", date(2026, 6, 13), date(2026, 6, 15), False)
    ]  # fmt: skip
    assert all(one.spans == () for one in found)


def test_a_whole_day_named_as_a_period_opens_round_the_clock() -> None:
    data = file("SUMMARY:Duty vet / DTSTART;VALUE=DATE:20260614")
    found, _ = made(data, (Period(id="duty", name="Duty vet"),))
    assert [(span.period, span.start, span.end) for span in found.exceptions[0].spans] == [("duty", 0, 1440)]


def test_times_of_another_zone_are_told_on_the_sets_own_clock_day_by_day() -> None:
    """08:00 UTC is 4 in New York in summer and 3 in winter, so no one week can say it."""
    data = file("SUMMARY:Line / DTSTART:20260105T080000Z / DTEND:20260105T100000Z / RRULE:FREQ=WEEKLY;BYDAY=MO")
    found, left_out = made(data)
    table = Timetable(found, ZONE)
    assert write_times(table.spans_on(date(2026, 6, 8))) == "04:00-06:00"
    assert write_times(table.spans_on(date(2026, 12, 7))) == "03:00-05:00"
    assert left_out == ["“Line” goes on after 2027-07-04: it is taken up to then."]


@pytest.mark.parametrize(
    ("event", "says"),
    [
        ("SUMMARY:Sirens / DTSTART:20260603T120000 / DURATION:PT5M / RRULE:FREQ=HOURLY", "comes again hourly"),
        ("SUMMARY:Tick / DTSTART:20260603T120000 / DURATION:PT5M / RRULE:FREQ=SECONDLY", "comes again secondly"),
        ("SUMMARY:Reminder / DTSTART:20260603T120000", "has no length"),
        ("SUMMARY:Reminder / DTSTART:20260603T120000 / DTEND:20260603T120000", "has no length"),
        ("SUMMARY:Backwards / DTSTART:20260603T120000 / DTEND:20260603T110000", "has no length"),
        ("SUMMARY:Voyage / DTSTART:20260603T120000 / DTEND:20260606T120000", "longer than 24 hours"),
        ("SUMMARY:Maybe / TRANSP:TRANSPARENT / DTSTART:20260603T120000 / DURATION:PT1H", "marked as free time"),
        ("SUMMARY:Off / STATUS:CANCELLED / DTSTART:20260603T120000 / DURATION:PT1H", "is canceled"),
        ("SUMMARY:Old / DTSTART:19010101T120000 / DURATION:PT1H / RRULE:FREQ=DAILY", "too long ago"),
        ("SUMMARY:Nameless", "no start"),
        ("SUMMARY:Two rules / DTSTART:20260603T120000 / DURATION:PT1H / RRULE:FREQ=DAILY / RRULE:FREQ=WEEKLY", "two rules"),
        ("SUMMARY:Odd / DTSTART:20260603T120000 / DURATION:PT1H / RRULE:FREQ=SOMETIMES", "is left out"),
        ("SUMMARY:Odd / DTSTART:2026-junk / DURATION:PT1H", "is left out"),
    ],
)  # fmt: skip
def test_what_cannot_be_said_is_listed_and_the_rest_is_taken(event: str, says: str) -> None:
    found, left_out = made(file(WEEKLY, event))
    assert len(left_out) == 1
    assert says in left_out[0]
    assert write_week(found.week) == "Mon-Fri 09:00-17:00"


def test_other_parts_seconds_overlaps_and_what_goes_on_are_listed() -> None:
    todo = "BEGIN:VTODO\nUID:t@example.com\nSUMMARY:Buy paint\nEND:VTODO"
    _, left_out = made(file(
        WEEKLY, "SUMMARY:Workshop / DTSTART:20260610T090000 / DTEND:20260610T100000",
        "SUMMARY:Swap meet / DTSTART:20260606T090000 / DURATION:PT1H / RRULE:FREQ=MONTHLY;BYDAY=1SA",
        "SUMMARY:Bells / DTSTART:20260613T090030 / DTEND:20260613T100030", head=todo,
    ))  # fmt: skip
    assert left_out == [
        "A task is left out: “Buy paint”.",
        "“Swap meet” goes on after 2027-07-04: it is taken up to then.",
        "“Bells” has seconds, which are dropped.",
        "Two periods overlap on 1 day: the first of them was kept there.",
    ]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no iCalendar file"),
        (b"hello", "no iCalendar file"),
        (b"BEGIN:VEVENT\r\nEND:VEVENT\r\n", "does not begin with a calendar"),
        (b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n", "no iCalendar file"),
        (b"\xff\xfe\x00", "no iCalendar file"),
        (b"BEGIN:VCALENDAR\r\n" + b"X-A:" + b"a" * 1_000_001, "too large"),
        (file(*["SUMMARY:A / DTSTART:20260603T120000 / DURATION:PT1H"] * 1501), "at most 1500 are read"),
        (file(*["SUMMARY:A / DTSTART:19900101T120000 / DURATION:PT1H / RRULE:FREQ=DAILY"] * 20), "at most 60000"),
    ],
)  # fmt: skip
def test_a_broken_or_enormous_file_is_refused_in_words(data: bytes, says: str) -> None:
    found = calendar_read.read(data, ZONE, TODAY)
    assert isinstance(found, str)
    assert says in found


def test_a_rule_that_never_comes_true_ends_all_the_same() -> None:
    never = "SUMMARY:Never / DTSTART;VALUE=DATE:20260101 / RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30"
    found, _ = made(file(WEEKLY, never, never.replace("YEARLY", "MONTHLY")))
    assert found.exceptions == ()


def test_more_names_than_a_set_has_periods_are_refused() -> None:
    events = [f"SUMMARY:Desk {n} / DTSTART:20260603T120000 / DURATION:PT1H" for n in range(25)]
    found = to_hours(read(file(*events)), "Many", (), ids)
    assert found == "Its events have 25 names, each a period; a set of hours has at most 24."
