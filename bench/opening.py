"""(e) The changes of a year of hours, against asking the rules at every minute; and one moment asked."""

import random
import time
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from statistics import median
from zoneinfo import ZoneInfo

from tests.hours import plainly

from vokari.core.hours import words
from vokari.core.hours.document import Hours, Period, Pick, PublicHolidays, Season, Span
from vokari.core.hours.public_days import public_days
from vokari.core.hours.timetable import Timetable

from .rounds import Compared, compare

PERIODS, HOLIDAYS, SEASONS = 10, 40, 5
ZONE = ZoneInfo("America/New_York")
SINCE = datetime(2026, 1, 1, tzinfo=UTC)
YEAR = timedelta(days=365)
BRUTE_DAYS = 2
"""How many days of minutes one round of the brute force asks; the rate is what is compared."""


@dataclass(frozen=True, slots=True)
class Measured:
    """Minutes of hours worked out a second by the list of changes and by the rules at every minute; the same against
    `at` of a compiled set at every minute; how many changes there are; and microseconds of one `at`."""

    changes: Compared
    against_at: Compared
    count: int
    microseconds: float


def busy_hours() -> Hours:
    """Ten periods that follow each other twice a day, all the year's holidays of forty names, and five seasons."""
    spans = [Span(period=f"p{n % PERIODS}", start=60 + n * 60, end=60 + n * 60 + 45) for n in range(2 * PERIODS)]
    week = tuple(tuple(spans[(n + day) % len(spans)] for n in range(len(spans))) for day in range(7))
    known: dict[tuple[str, str], list[str]] = {}
    for country, region in (("US", "LA"), ("GB", "SCT"), ("DE", "BY"), ("IN", "KA"), ("JP", "")):
        known[country, region] = list(dict.fromkeys(day.name for day in public_days(country, region, 2026)))
    left = HOLIDAYS
    holidays: list[PublicHolidays] = []
    for (country, region), names in known.items():
        names = names[:left]
        left -= len(names)
        picked = tuple(Pick(name=name, spans=tuple(spans[:2])) for name in names)
        holidays.append(PublicHolidays(id=f"h{len(holidays)}", country=country, region=region, picked=picked))
    assert left == 0
    seasons = [
        Season(
            id=f"s{n}", first=date(2026, 1 + 2 * n, 10), last=date(2026, 2 + 2 * n, 5), on_holidays=n % 2 == 0,
            week=tuple(tuple(spans[n : n + 6]) for _ in range(7)),
        )
        for n in range(SEASONS)
    ]  # fmt: skip
    return Hours(
        name="Busy", periods=tuple(Period(id=f"p{n}", name=f"Period {n}") for n in range(PERIODS)), week=week,
        exceptions=(*holidays, *seasons),
    )  # fmt: skip


def measure() -> Measured:
    """No database: the core alone. Both ways give the same answers, which is checked on the minutes that are asked."""
    one = busy_hours()
    table = Timetable(one, ZONE)
    found = words.changes(table, SINCE, SINCE + YEAR)
    minutes = int(YEAR.total_seconds() // 60)
    days = random.Random(4).sample(range(365), 5 * BRUTE_DAYS)
    for day in days:
        for minute in range(0, 1440, 7):
            moment = SINCE + timedelta(days=day, minutes=minute)
            assert plainly(one, ZONE, moment)[0] == table.at(moment).period

    def listed() -> int:
        words.changes(Timetable(one, ZONE), SINCE, SINCE + YEAR)
        return minutes

    def brute() -> int:
        for day in days[:BRUTE_DAYS]:
            for minute in range(1440):
                plainly(one, ZONE, SINCE + timedelta(days=day, minutes=minute))
        return BRUTE_DAYS * 1440

    def asked() -> int:
        for minute in range(0, minutes, 5):
            table.at(SINCE + timedelta(minutes=minute))
        return minutes // 5

    moments = [SINCE + timedelta(minutes=random.Random(n).randrange(minutes)) for n in range(20_000)]
    rounds = []
    for _ in range(5):
        began = time.perf_counter()
        for moment in moments:
            table.at(moment)
        rounds.append((time.perf_counter() - began) / len(moments) * 1e6)
    return Measured(compare(listed, brute), compare(listed, asked), len(found) - 1, median(rounds))
