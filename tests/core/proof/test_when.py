"""Times to come as people say them."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from vokari.core.proof.times import Stretch
from vokari.core.proof.when import in_words

ZONE = ZoneInfo("America/New_York")
SINCE = datetime(2026, 11, 24, 17, tzinfo=UTC)
UNTIL = SINCE + timedelta(days=396)


def stretch(begin: str, end: str) -> Stretch:
    since, until = (datetime.fromisoformat(one).replace(tzinfo=ZONE) for one in (begin, end))
    return Stretch(since.astimezone(UTC), until.astimezone(UTC), 0)


def each(day: int, begin: str, end: str, weeks: int = 56) -> list[Stretch]:
    """The same time of each week; day 0 is Monday, November 30."""
    first = datetime(2026, 11, 30) + timedelta(days=day)
    days = [(first + timedelta(weeks=week)).date() for week in range(weeks)]
    return [stretch(f"{one} {begin}", f"{one} {end}") for one in days]


@pytest.mark.parametrize(
    ("stretches", "words"),
    [
        ([Stretch(SINCE, UNTIL, 0)], "at any time"),
        ([stretch("2026-12-25 00:00", "2026-12-26 00:00")], "Fri, Dec 25"),
        ([stretch("2026-12-25 00:00", "2027-01-02 00:00")], "Fri, Dec 25 to Fri, Jan 1, 2027"),
        ([stretch("2026-12-24 13:00", "2026-12-24 18:00")], "Thu, Dec 24, 13:00 to 18:00"),
        ([stretch("2027-03-14 22:00", "2027-03-16 06:00")], "Sun, Mar 14, 2027, 22:00 to Tue, Mar 16, 2027, 06:00"),
        (each(5, "06:30", "09:00"), "Sat 06:30-09:00"),
        ([one for day in range(5) for one in each(day, "12:00", "13:00")], "Mon-Fri 12:00-13:00"),
        (each(5, "06:30", "09:00", weeks=5), "Sat, Dec 5, 06:30 to 09:00; Sat, Dec 12, 06:30 to 09:00; Sat, Dec 19, 06:30 to 09:00 and 2 more times"),
        ([stretch("2026-12-24 13:00", "2026-12-25 00:00"), stretch("2026-12-25 00:00", "2026-12-26 00:00")], "Thu, Dec 24, 13:00 to Sat, Dec 26, 00:00"),
    ],
)  # fmt: skip
def test_times_are_said_as_people_say_them(stretches: list[Stretch], words: str) -> None:
    assert in_words(stretches, ZONE, SINCE, UNTIL) == words
