"""Recurrences of RFC 5545 as hours, against python-dateutil, recurring-ical-events and the dates that the RFC prints."""

from datetime import date, datetime, timedelta
from itertools import count
from zoneinfo import ZoneInfo

import icalendar
import pytest
import recurring_ical_events
from dateutil.rrule import rruleset, rrulestr
from hypothesis import given, settings
from hypothesis import strategies as st

from vokari.core.hours.document import Hours
from vokari.core.hours.gathered import Calendar, to_hours
from vokari.core.hours.timetable import Timetable
from vokari.formats import calendar_read

ZONE = ZoneInfo("America/New_York")
FIRST = date(1997, 9, 1)
LAST = FIRST + calendar_read.AHEAD

# RFC 5545, section 3.8.5.3, "Recurrence Rule", Examples: the rule, its start, and the first dates that the RFC prints.
EXAMPLES = [
    ("FREQ=DAILY;COUNT=10", "19970902", ["19970902", "19970903", "19970911"]),
    ("FREQ=DAILY;UNTIL=19971224T000000Z", "19970902", ["19970902", "19971223"]),
    ("FREQ=DAILY;INTERVAL=2", "19970902", ["19970902", "19970904", "19971203"]),
    ("FREQ=DAILY;INTERVAL=10;COUNT=5", "19970902", ["19970902", "19970912", "19971012"]),
    ("FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA", "19980101", ["19980101", "19980131"]),
    ("FREQ=WEEKLY;COUNT=10", "19970902", ["19970902", "19970909", "19971104"]),
    ("FREQ=WEEKLY;UNTIL=19971224T000000Z", "19970902", ["19970902", "19971223"]),
    ("FREQ=WEEKLY;INTERVAL=2;WKST=SU", "19970902", ["19970902", "19970916", "19980217"]),
    ("FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "19970902", ["19970902", "19970904", "19971002"]),
    ("FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR", "19970901", ["19970901", "19970917", "19971222"]),
    ("FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "19970902", ["19970902", "19970904", "19971016"]),
    ("FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "19970905", ["19970905", "19971003", "19980605"]),
    ("FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR", "19970905", ["19970905", "19971205"]),
    ("FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU", "19970907", ["19970907", "19970928", "19980531"]),
    ("FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "19970922", ["19970922", "19971020", "19980216"]),
    ("FREQ=MONTHLY;BYMONTHDAY=-3", "19970928", ["19970928", "19971029", "19980226"]),
    ("FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "19970902", ["19970902", "19970915", "19980115"]),
    ("FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1", "19970930", ["19970930", "19971001", "19980131"]),
    ("FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15", "19970910", ["19970910", "19970913"]),
    ("FREQ=MONTHLY;INTERVAL=2;BYDAY=TU", "19970902", ["19970902", "19970930", "19980331"]),
    ("FREQ=YEARLY;COUNT=10;BYMONTH=6,7", "19970610", ["19980610", "19980710"]),
    ("FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200", "19970101", []),
    ("FREQ=YEARLY;BYDAY=20MO", "19970519", ["19980518"]),
    ("FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "19970512", ["19980511"]),
    ("FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "19970313", ["19980305", "19980326"]),
    ("FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8", "19970605", ["19980604", "19980827"]),
    ("FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "19970902", ["19980213", "19980313"]),
    ("FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13", "19970913", ["19970913", "19980613"]),
    ("FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", "19961105", []),
    ("FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "19970904", ["19970904", "19971007", "19971106"]),
    ("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", "19970929", ["19970929", "19971030", "19980330"]),
    ("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "19970805", []),
    ("FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "20070115", []),
]  # fmt: skip


def calendar_of(lines: str) -> bytes:
    event = f"BEGIN:VEVENT\nUID:r@example.com\nDTSTAMP:19970101T000000Z\nSUMMARY:Line\n{lines}\nEND:VEVENT"
    return f"BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//Test//EN\n{event}\nEND:VCALENDAR\n".replace("\n", "\r\n").encode()


def ours(data: bytes) -> set[date]:
    """The days on which the hours made of a calendar open at nine."""
    numbers = count(1)
    calendar = calendar_read.read(data, ZONE, FIRST)
    assert isinstance(calendar, Calendar), calendar
    made = to_hours(calendar, "Line", (), lambda prefix: f"{prefix}{next(numbers)}")
    assert isinstance(made, Hours), made
    table = Timetable(made, ZONE)
    days = (FIRST + timedelta(days=step) for step in range((LAST - FIRST).days + 1))
    found = set()
    for on in days:
        spans = table.spans_on(on)
        assert [(span.start, span.end) for span in spans] in ([], [(540, 600)])
        if spans:
            found.add(on)
            assert table.at(datetime(on.year, on.month, on.day, 9, 30, tzinfo=ZONE)).is_open
    return found


def between(moments: list[datetime]) -> set[date]:
    return {one.date() for one in moments if FIRST <= one.date() <= LAST}


def library(data: bytes) -> set[date]:
    events = recurring_ical_events.of(icalendar.Calendar.from_ical(data)).between(FIRST, LAST + timedelta(days=1))
    return between([one["DTSTART"].dt for one in events])


def rules(text: str, start: datetime) -> list[datetime]:
    end = datetime(LAST.year, LAST.month, LAST.day, 23, tzinfo=ZONE)
    return list(rrulestr(text, dtstart=start).between(start, end, inc=True))


@pytest.mark.parametrize(("rule", "start", "printed"), EXAMPLES, ids=[one[0] for one in EXAMPLES])
def test_the_examples_of_the_rfc(rule: str, start: str, printed: list[str]) -> None:
    data = calendar_of(
        f"DTSTART;TZID=America/New_York:{start}T090000\nDTEND;TZID=America/New_York:{start}T100000\nRRULE:{rule}"
    )
    found = ours(data)
    first = datetime.strptime(start, "%Y%m%d").replace(hour=9, tzinfo=ZONE)
    expected = between(rules(rule, first))
    if FIRST <= first.date() <= LAST:
        expected.add(
            first.date()
        )  # RFC 5545, 3.8.5.3: DTSTART is the first instance, even where the rule leaves it out
    assert found == expected == library(data)
    assert {datetime.strptime(one, "%Y%m%d").date() for one in printed} <= found


def test_exdates_and_rdates_of_the_rfc() -> None:
    """RFC 5545, 3.8.5.1 and 3.8.5.2: dates are taken out of, and put into, what a rule gives."""
    data = calendar_of(
        "DTSTART;TZID=America/New_York:19970902T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=6\n"
        "EXDATE;TZID=America/New_York:19970909T090000,19970916T090000\nRDATE;TZID=America/New_York:19970910T090000"
    )
    start = datetime(1997, 9, 2, 9, tzinfo=ZONE)
    together = rruleset()
    together.rrule(rrulestr("FREQ=WEEKLY;COUNT=6", dtstart=start))  # type: ignore[arg-type]
    for out in (9, 16):
        together.exdate(datetime(1997, 9, out, 9, tzinfo=ZONE))
    together.rdate(datetime(1997, 9, 10, 9, tzinfo=ZONE))
    assert ours(data) == between(list(together)) == library(data)


_frequency = st.sampled_from(["DAILY", "WEEKLY", "MONTHLY", "YEARLY"])
_days = st.lists(st.sampled_from(["MO", "TU", "WE", "TH", "FR", "SA", "SU"]), unique=True, min_size=1, max_size=4)


@given(
    _frequency,
    st.integers(1, 3),
    st.one_of(st.none(), _days),
    st.one_of(st.none(), st.integers(1, 40)),
    st.integers(0, 500),
)
@settings(max_examples=60)
def test_random_rules_open_on_the_days_of_both_libraries(
    frequency: str, interval: int, days: list[str] | None, times: int | None, later: int
) -> None:
    rule = f"FREQ={frequency};INTERVAL={interval}"
    rule += f";BYDAY={','.join(days)}" if days and frequency != "YEARLY" else ""
    rule += f";COUNT={times}" if times else ""
    start = datetime(1997, 1, 6, 9, tzinfo=ZONE) + timedelta(days=later)
    stamp = f"{start:%Y%m%dT%H%M%S}"
    data = calendar_of(f"DTSTART;TZID=America/New_York:{stamp}\nDURATION:PT1H\nRRULE:{rule}")
    expected = between(rules(rule, start)) | between([start])
    found = library(data)
    assert ours(data) == found
    if not times or start in rules(rule, start):
        assert found == expected
