"""Public holidays of any country and region, from the holidays library, with names in English where it has them."""

import re
import warnings
from dataclasses import dataclass
from datetime import date
from functools import lru_cache

import holidays
from holidays.registry import COUNTRIES as _REGISTRY

MOST_YEARS_AHEAD = 80
_REMARK = re.compile(r"\s*\(([^()]*\b(?:observed|in lieu|substituted?|estimated)\b[^()]*)\)$", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class PublicDay:
    """A public holiday on a date; `observed` when it is the substitute day of one that fell on a day off."""

    on: date
    name: str
    observed: bool


@lru_cache(maxsize=1)
def countries() -> dict[str, str]:
    """The countries that the library knows: ISO 3166-1 code and English name, by name."""
    found = {entry[1]: re.sub(r"(?<=[a-z])(?=[A-Z])", " ", entry[0]) for entry in _REGISTRY.values()}
    return dict(sorted(found.items(), key=lambda pair: pair[1]))


@lru_cache(maxsize=64)
def regions(country: str) -> dict[str, str]:
    """The regions of a country: code and name, by name. Empty for a country without any or one that is not known."""
    known = _library(country)
    if known is None:
        return {}
    names: dict[str, str] = {}
    for alias, code in known.subdivisions_aliases.items():
        names.setdefault(code, alias)
    for code in known.subdivisions:
        names.setdefault(code, code)
    return dict(sorted(names.items(), key=lambda pair: pair[1]))


def problem_of(country: str, region: str) -> str:
    """A sentence about a country or region that is not known; empty when both are."""
    if country not in countries():
        return f"There is no country {country or 'without a code'} in the holidays library."
    if region and region not in regions(country):
        return f"{countries()[country]} has no region {region}."
    return ""


@lru_cache(maxsize=512)
def public_days(country: str, region: str, year: int) -> tuple[PublicDay, ...]:
    """The public holidays of a year by date, substitute days among them. Empty for a place that is not known."""
    if problem_of(country, region):
        return ()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        calendar = holidays.country_holidays(country, subdiv=region or None, years=year, language=_language(country))
    found = []
    for on in sorted(calendar):
        for name in calendar.get_list(on):
            remark = _REMARK.search(name)
            moved = bool(remark and re.search("observed|in lieu|substitute", remark.group(1), re.IGNORECASE))
            found.append(PublicDay(on, _REMARK.sub("", name), moved))
    return tuple(found)


@lru_cache(maxsize=64)
def _language(country: str) -> str | None:
    known = _library(country)
    offered = known.supported_languages if known else ()
    return next((one for one in ("en_US", "en_GB", "en") if one in offered), None)


@lru_cache(maxsize=64)
def _library(country: str) -> holidays.HolidayBase | None:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return holidays.country_holidays(country)
    except NotImplementedError:
        return None
