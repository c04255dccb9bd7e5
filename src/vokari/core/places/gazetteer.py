"""Where postal codes and area codes lie: the data of the packages zipcodes (US postal codes) and phonenumbers (area codes)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import import_module
from typing import Any

import phonenumbers

from .distance import Point

STATES: Mapping[str, str] = {
    "AL": "Alabama", "AK": "Alaska", "AZ": "Arizona", "AR": "Arkansas", "CA": "California", "CO": "Colorado", "CT": "Connecticut",
    "DE": "Delaware", "DC": "Washington D.C.", "FL": "Florida", "GA": "Georgia", "HI": "Hawaii", "ID": "Idaho", "IL": "Illinois",
    "IN": "Indiana", "IA": "Iowa", "KS": "Kansas", "KY": "Kentucky", "LA": "Louisiana", "ME": "Maine", "MD": "Maryland",
    "MA": "Massachusetts", "MI": "Michigan", "MN": "Minnesota", "MS": "Mississippi", "MO": "Missouri", "MT": "Montana",
    "NE": "Nebraska", "NV": "Nevada", "NH": "New Hampshire", "NJ": "New Jersey", "NM": "New Mexico", "NY": "New York",
    "NC": "North Carolina", "ND": "North Dakota", "OH": "Ohio", "OK": "Oklahoma", "OR": "Oregon", "PA": "Pennsylvania",
    "RI": "Rhode Island", "SC": "South Carolina", "SD": "South Dakota", "TN": "Tennessee", "TX": "Texas", "UT": "Utah",
    "VT": "Vermont", "VA": "Virginia", "WA": "Washington State", "WV": "West Virginia", "WI": "Wisconsin", "WY": "Wyoming",
}  # fmt: skip
"""The states of the US and what phonenumbers calls them."""
_BY_NAME = {name.casefold(): code for code, name in STATES.items()} | {"washington": "WA", "district of columbia": "DC"}


@dataclass(frozen=True, slots=True)
class Coded:
    """A postal code: where it lies, its state and city, and the area codes of numbers there."""

    code: str
    at: Point
    state: str
    city: str
    area_codes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class NumberPlace:
    """Where a number was given out: its area code, and as far as is known the state and the city (of the US), or the name of the place."""

    area_code: str
    state: str = ""
    city: str = ""


def warm() -> None:
    """Reads all data, so that no caller waits for it: about a second and 150 MB, which a process that asks for no place is spared."""
    by_area_code()
    _geocoder()


@cache
def _zipcodes() -> Any:
    return import_module("zipcodes")


@cache
def _geocoder() -> Any:
    return import_module("phonenumbers.geocoder")


@lru_cache(maxsize=4096)
def postal(code: str, country: str) -> Coded | None:
    """A postal code of a country; None for one that does not exist, and where there is no data."""
    if country != "US" or len(code) != 5 or not code.isdigit():
        return None
    found = _zipcodes().matching(code)
    return _coded(found[0]) if found else None


@cache
def by_area_code() -> Mapping[str, Sequence[Coded]]:
    """The postal codes of the US where people live, by the area codes of numbers there."""
    found: dict[str, list[Coded]] = {}
    for raw in _zipcodes().filter_by(zip_code_type="STANDARD", active=True):
        one = _coded(raw)
        for area_code in one.area_codes:
            found.setdefault(area_code, []).append(one)
    return found


@lru_cache(maxsize=8192)
def number_place(number: str) -> NumberPlace | None:
    """Where a number in E.164 was given out; None for a withheld one and one that tells no place."""
    try:
        parsed = phonenumbers.parse(number)
    except phonenumbers.NumberParseException:
        return None
    national = phonenumbers.national_significant_number(parsed)
    length = phonenumbers.length_of_geographical_area_code(parsed)
    said = _geocoder().description_for_number(parsed, "en")
    if parsed.country_code == 1:
        city, _, state = said.rpartition(", ")
        state = state if state in STATES else _BY_NAME.get(said.casefold(), "")
        return NumberPlace(national[:3], state, city) if national[:3] in by_area_code() or state else None
    code = f"0{national[:length]}" if length else ""
    return NumberPlace(code, "", said) if code or said else None


def state_of(text: str) -> str:
    """The state of a name or of two letters; empty for none."""
    plain = " ".join(text.split())
    return plain.upper() if plain.upper() in STATES else _BY_NAME.get(plain.casefold(), "")


def _coded(raw: Mapping[str, object]) -> Coded:
    area_codes = raw["area_codes"]
    assert isinstance(area_codes, list)
    return Coded(
        str(raw["zip_code"]), (float(str(raw["lat"])), float(str(raw["long"]))), str(raw["state"]), str(raw["city"]),
        tuple(area_codes),
    )  # fmt: skip
