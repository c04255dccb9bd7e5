"""Time zones from country and city, against the tables of the IANA database and of phonenumbers, and facts of the map."""

from datetime import datetime
from zoneinfo import ZoneInfo

import phonenumbers
import pytest
from phonenumbers import geocoder, timezone

from vokari.core.agency import zones

YEAR = 2026


def keys(country: str, city: str) -> list[str]:
    return [zone.key for zone in zones.fitting(country, city, YEAR)]


@pytest.mark.parametrize(
    ("city", "zone"),
    [
        ("Denver", "America/Denver"), ("Annapolis", "America/New_York"), ("Seattle", "America/Los_Angeles"),
        ("Saint Louis, MO", "America/Chicago"), ("Portland, Maine", "America/New_York"), ("El Paso, TX", "America/Denver"),
        ("Portland, OR", "America/Los_Angeles"), ("New York City", "America/New_York"), ("Phoenix", "America/Phoenix"),
        ("Gary, IN", "America/Chicago"), ("Washington, D.C.", "America/New_York"), ("honolulu", "Pacific/Honolulu"),
    ],
)  # fmt: skip
def test_a_city_of_the_united_states_has_the_zone_of_the_map(city: str, zone: str) -> None:
    assert keys("US", city) == [zone]


def test_a_country_with_one_zone_needs_no_city() -> None:
    assert keys("GB", "") == keys("GB", "London") == keys("GB", "Nowhere-on-Sea") == ["Europe/London"]


@pytest.mark.parametrize("city", ["", "Portland", "Springfield", "Nowhere-on-Sea"])
def test_where_several_fit_all_are_offered_and_no_two_show_the_same_time(city: str) -> None:
    found = zones.fitting("US", city, YEAR)
    assert len(found) > 1
    clocks = {
        tuple(datetime(YEAR, month, 1, tzinfo=ZoneInfo(zone.key)).utcoffset() for month in (1, 7)) for zone in found
    }
    assert len(clocks) == len(found)


@pytest.mark.parametrize("area", ["303", "410", "206", "312", "505", "907", "808", "602", "214", "503", "317", "605"])
def test_the_town_of_a_telephone_number_has_its_zone(area: str) -> None:
    """phonenumbers' geocoder and its zones say the same of a number and of its town."""
    for exchange in range(220, 1000, 45):
        number = phonenumbers.parse(f"+1{area}{exchange}0123")
        town, its = geocoder.description_for_number(number, "en"), timezone.time_zones_for_geographical_number(number)
        if "," in town and its != ("Etc/Unknown",):
            assert any(zones.same_clock(zone, one, YEAR) for zone in its for one in keys("US", town)), (town, its)
