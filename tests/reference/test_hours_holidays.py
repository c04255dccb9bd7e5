"""Public holidays as exceptions, against the holidays library and dates published by the governments concerned."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import holidays
import pytest

from tests.hours import hours
from vokari.core.hours.document import Pick, PublicHolidays
from vokari.core.hours.public_days import countries, problem_of, public_days, regions
from vokari.core.hours.timetable import Timetable

PLACES = [
    ("US", "", None), ("US", "CA", "CA"), ("US", "TX", "TX"), ("US", "MA", "MA"), ("GB", "ENG", "ENG"),
    ("GB", "WLS", "WLS"), ("GB", "SCT", "SCT"), ("PT", "", None), ("DE", "BY", "BY"),
]  # fmt: skip


@pytest.mark.parametrize(("country", "region", "subdivision"), PLACES)
@pytest.mark.parametrize("observed", [True, False])
def test_days_that_count_are_those_of_the_library(
    country: str, region: str, subdivision: str | None, observed: bool
) -> None:
    for year in (2026, 2027, 2028):
        names = {one.name for one in public_days(country, region, year)}
        rule = PublicHolidays(
            id="h", country=country, region=region, observed=observed, picked=tuple(Pick(name=name) for name in names)
        )
        table = Timetable(hours(rule, desk="Daily 0-24"), ZoneInfo("UTC"))
        found = {
            date.fromordinal(n) for n in range(date(year, 1, 1).toordinal(), date(year + 1, 1, 1).toordinal())
            if not table.at(datetime.combine(date.fromordinal(n), datetime.min.time(), ZoneInfo("UTC")).replace(hour=12)).is_open
        }  # fmt: skip
        assert found == set(holidays.country_holidays(country, subdiv=subdivision, years=year, observed=observed))


def test_some_dates_that_governments_publish() -> None:
    """US: 5 U.S.C. 6103; England: gov.uk bank holidays. From memory."""

    def on(country: str, region: str, year: int, name: str) -> set[date]:
        return {one.on for one in public_days(country, region, year) if one.name == name}

    assert date(2026, 11, 26) in on("US", "", 2026, "Thanksgiving Day")
    assert on("US", "", 2026, "Independence Day") == {date(2026, 7, 3), date(2026, 7, 4)}
    assert on("GB", "ENG", 2027, "Boxing Day") == {date(2027, 12, 26), date(2027, 12, 28)}
    assert date(2026, 4, 6) in on("GB", "ENG", 2026, "Easter Monday")
    assert not on("GB", "SCT", 2026, "Easter Monday")
    assert date(2026, 11, 30) in {one.on for one in public_days("GB", "SCT", 2026)}


def test_places_are_known_by_code_and_name() -> None:
    assert countries()["US"] == "United States"
    assert regions("GB")["SCT"] == "Scotland"
    assert regions("US")["TX"] == "Texas"
    assert problem_of("US", "TX") == ""
    assert "no country XX" in problem_of("XX", "")
    assert "has no region ZZ" in problem_of("US", "ZZ")
    assert public_days("XX", "", 2026) == ()
