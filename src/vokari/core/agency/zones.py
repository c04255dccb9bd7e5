"""The time zone of a client, from its country and city.

Sources: which zones a country has, and what each is called, is `zone.tab` of the IANA time zone database as the package tzdata
ships it; which zones a town may be in follows from the telephone prefixes of that name and the zones of those prefixes, both
tables of the package phonenumbers.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from importlib import resources
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import phonenumbers
from phonenumbers import timezone

MONTHS = range(1, 13)


@dataclass(frozen=True, slots=True)
class Zone:
    """A zone by its IANA key, and what it is called among those of its country ("Mountain (most areas)")."""

    key: str
    words: str

    @property
    def shown(self) -> str:
        city = self.key.rpartition("/")[2].replace("_", " ")
        return f"{city}, {self.words}" if self.words else city


def zone_of(name: str) -> ZoneInfo | None:
    """A time zone by its IANA name, None when there is none."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return None


@cache
def of_country(country: str) -> tuple[Zone, ...]:
    """The zones of a country (ISO 3166-1) in the database's order; none for a country it does not know."""
    table = (resources.files("tzdata.zoneinfo") / "zone.tab").read_text("utf-8")
    rows = [line.split("\t") for line in table.splitlines() if line.startswith(f"{country}\t")]
    return tuple(Zone(row[2], row[3] if len(row) > 3 else "") for row in rows)


def fitting(country: str, city: str, year: int) -> tuple[Zone, ...]:
    """The zones that a city of a country may be in: several where its name is that of several towns, all of the country's where
    it is not known. Of zones whose clocks agree all through a year only the first is given."""
    zones = of_country(country)
    if len(zones) > 1 and city.strip():
        named = _of_city(country, city)
        zones = tuple(zone for zone in zones if zone.key in named) or zones
    return tuple(_unlike(zones, year))


def fits(key: str, zones: Sequence[Zone], year: int) -> bool:
    """Whether a zone shows the same time as one of these all through a year."""
    return any(same_clock(key, zone.key, year) for zone in zones)


def same_clock(one: str, other: str, year: int) -> bool:
    """Whether two zones show the same time on the first and the middle of every month of a year."""
    return one == other or _offsets(one, year) == _offsets(other, year)


def _offsets(key: str, year: int) -> list[object]:
    zone = ZoneInfo(key)
    moments = [datetime(year, month, day, 12, tzinfo=UTC) for month in MONTHS for day in (1, 15)]
    return [moment.astimezone(zone).utcoffset() for moment in moments]


def _unlike(zones: Sequence[Zone], year: int) -> list[Zone]:
    found: list[Zone] = []
    for zone in zones:
        if not any(same_clock(zone.key, known.key, year) for known in found):
            found.append(zone)
    return found


def _of_city(country: str, city: str) -> set[str]:
    """The keys of the zones that a city's name stands for: the zone that is named after it, as zones are after the largest
    place in them, else those of its telephone prefixes."""
    name, _, region = (_plain(part) for part in city.partition(","))
    named = {zone.key for zone in of_country(country) if _plain(zone.key.rpartition("/")[2]) == name}
    if named and not region:
        return named
    towns = _towns(country)
    whole = towns.get((f"{name} {region}", ""))
    if whole:
        return set(whole)
    found = [zones for (town, where), zones in towns.items() if town == name and (not region or region == where)]
    if found or not region:
        return set().union(*found)
    anywhere = set().union(*(zones for (town, _), zones in towns.items() if town == name))
    return anywhere & towns.get((region, ""), frozenset()) or anywhere


@cache
def _towns(country: str) -> dict[tuple[str, str], frozenset[str]]:
    """The zones of each town of a country with telephone prefixes, by its name and its region's short name."""
    from phonenumbers.geodata import GEOCODE_DATA  # large: only once somebody asks

    code = str(phonenumbers.country_code_for_region(country))
    own = {zone.key for zone in of_country(country)}
    found: dict[tuple[str, str], set[str]] = {}
    known: dict[str, frozenset[str]] = {}
    for prefix, names in GEOCODE_DATA.items():
        if not prefix.startswith(code) or "en" not in names:
            continue
        zones = known.get(prefix[:7])
        if zones is None:
            zones = known[prefix[:7]] = frozenset(own.intersection(_zones_of_prefix(prefix[:7], code)))
        if zones:
            town, _, where = (_plain(part) for part in names["en"].partition(","))
            found.setdefault((town, where), set()).update(zones)
    return {town: frozenset(zones) for town, zones in found.items()}


def _zones_of_prefix(prefix: str, code: str) -> Sequence[str]:
    national = int(prefix[len(code) :].ljust(10, "0"))
    number = phonenumbers.PhoneNumber(country_code=int(code), national_number=national)
    zones: Sequence[str] = timezone.time_zones_for_geographical_number(number)
    return zones


def _plain(name: str) -> str:
    """A name without what people write in several ways: case, dots, underscores, "Saint" and "City"."""
    words = re.sub(r"[_\s-]+", " ", name.casefold().replace(".", "")).strip()
    return re.sub(r"\bsaint\b", "st", words).removesuffix(" city")
