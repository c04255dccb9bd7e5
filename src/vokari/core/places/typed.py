"""What lies in an area, and where a place is, as typed text: “25 miles of Yard, 214*, Maryland, area code 410”, read and written."""

import re
from collections.abc import Mapping
from typing import Any

from . import gazetteer
from .distance import KM_PER_MILE
from .document import FARTHEST_KM, Area, Place

MILES = ("US", "GB")
"""Countries in which distances are in miles."""
_FAR = re.compile(r"(\d{1,5}(?:\.\d{1,3})?)\s*(miles?|mi|km|kilomet(?:er|re)s?)\s+(?:of|from|around)\s+(.+)", re.I)
_POINT = re.compile(r"(-?\d{1,3}(?:\.\d+)?)\s*[,;]\s*(-?\d{1,3}(?:\.\d+)?)")


def read_where(text: str, country: str, own_codes: Mapping[str, object]) -> dict[str, Any] | str:
    """Where a place is, as fields of `Place`: a postal code of the country or of the client's own list, or latitude and longitude; or a
    sentence."""
    typed = " ".join(text.split())
    point = _POINT.fullmatch(typed)
    if point:
        lat, long = float(point[1]), float(point[2])
        if abs(lat) > 90 or abs(long) > 180:
            return "Latitudes go from -90 to 90, longitudes from -180 to 180: 38.989, -76.550."
        return {"lat": lat, "long": long, "postal_code": ""}
    code = typed[:5] if re.fullmatch(r"\d{5}-\d{4}", typed) else typed.replace(" ", "")
    if not code:
        return "Say where it is: a postal code, or latitude and longitude." if country == "US" else _POINT_WANTED
    if code in own_codes or gazetteer.postal(code, country) is not None:
        return {"lat": None, "long": None, "postal_code": code}
    if country != "US":
        return f"“{typed[:20]}” is not in the client’s list of codes. {_POINT_WANTED}"
    of = "is no postal code of the US" if re.fullmatch(r"\d{5}", code) else "is not how postal codes of the US look"
    return f"“{typed[:20]}” {of}: five digits, for instance 21401, or latitude and longitude."


_POINT_WANTED = "Write latitude and longitude, for instance 50.827, -0.139, or put its code into the list below first."


def written_where(place: Place) -> str:
    """Where a place is, as it is read."""
    return place.postal_code or (
        f"{place.lat:g}, {place.long:g}" if place.lat is not None and place.long is not None else ""
    )


def read_extent(text: str, places: Mapping[str, str], country: str) -> dict[str, Any] | str:
    """What lies in an area, as fields of `Area`; `places` are the keys of the client's places by their folded names. Or a sentence."""
    around: list[dict[str, Any]] = []
    codes: list[str] = []
    states: list[str] = []
    area_codes: list[str] = []
    for one in (" ".join(part.split()) for part in re.split(r"[,;\n]+", text)):
        if not one:
            continue
        area_code = re.fullmatch(r"area codes?\s+(\d{2,6}(?:\s+\d{2,6})*)", one, re.I)
        if far := _FAR.fullmatch(one):
            km = round(float(far[1]) * (KM_PER_MILE if far[2].lower().startswith("mi") else 1), 3)
            if not 0 < km <= FARTHEST_KM:
                return f"“{one}”: a distance is more than nothing and at most {FARTHEST_KM:g} km."
            key = places.get(far[3].casefold().strip())
            if key is None:
                return f"“{far[3]}” is none of the places above."
            around.append({"place": key, "km": km})
        elif area_code:
            area_codes += area_code[1].split()
        elif country == "US" and (state := gazetteer.state_of(one)):
            states.append(state)
        elif re.fullmatch(r"\d{2,10}\*?", one):
            if country == "US" and not one.endswith("*") and gazetteer.postal(one, country) is None:
                return f"“{one}” is no postal code of the US. With * behind it: all that begin so."
            codes.append(one)
        elif re.fullmatch(r"[\w\s-]*\d[\w\s-]*", one):
            return f"“{one[:20]}”: callers type codes on the keypad, so they are of digits; with * behind them all that begin so."
        else:
            return (
                f"“{one[:40]}” is no distance, code or state: 25 miles of Yard, 21401, 214*, Maryland, area code 410."
            )
    return {
        "around": around, "codes": list(dict.fromkeys(codes)), "states": list(dict.fromkeys(states)),
        "area_codes": list(dict.fromkeys(area_codes)),
    }  # fmt: skip


def distance_words(km: float, country: str) -> str:
    """A distance in the unit of a country, where it is one of it to a tenth; else in kilometers."""
    miles = round(km / KM_PER_MILE, 1)
    if country in MILES and round(miles * KM_PER_MILE, 3) == km:
        return f"{miles:g} mile{'' if miles == 1 else 's'}"
    return f"{km:g} km"


def written_extent(area: Area, places: Mapping[str, str], country: str) -> str:
    """What lies in an area, as it is read; `places` are the names of places by key."""
    around = [f"{distance_words(one.km, country)} of {places.get(one.place, one.place)}" for one in area.around]
    states = [gazetteer.STATES.get(one, one) for one in area.states]
    return ", ".join([*around, *area.codes, *states, *(f"area code {one}" for one in area.area_codes)])


def read_own_codes(text: str) -> list[dict[str, Any]] | str:
    """The client's own codes, one a line: the code, latitude, longitude, and what is there; or a sentence."""
    found = []
    for at, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        parts = [part.strip() for part in re.split(r"[,;\t]", line, maxsplit=3)]
        if not re.fullmatch(r"\d{2,10}", parts[0].replace(" ", "")):
            return f"Line {at}: “{parts[0][:20]}” is no code of 2 to 10 digits, as callers can type it."
        try:
            lat, long = float(parts[1]), float(parts[2])
        except (IndexError, ValueError):
            return f"Line {at}: write code, latitude, longitude, name: 01273, 50.827, -0.139, Brighton."
        if not (abs(lat) <= 90 and abs(long) <= 180):
            return f"Line {at}: latitudes go from -90 to 90, longitudes from -180 to 180."
        found.append(
            {
                "code": parts[0].replace(" ", ""),
                "lat": lat,
                "long": long,
                "name": parts[3][:60] if len(parts) > 3 else "",
            }
        )
    return found
