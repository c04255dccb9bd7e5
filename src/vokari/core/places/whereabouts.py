"""Where somebody who calls probably is, from the best evidence there is, and how sure that is.

The order of evidence: a postal code typed in this call, the contact's, one typed in an earlier call, the area code of the number. An
area code is a hint: what it says holds for the part of its postal codes that is given as percent.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from . import gazetteer
from .distance import Point, km_between
from .document import Area, Places, has_code
from .gazetteer import Coded

By = Literal["", "typed", "contact", "earlier", "area_code"]
"""What tells where somebody is."""


class Found(NamedTuple):
    """Whether something about the place holds (None: not known), what tells so, and of an area code for how many of a hundred of its
    postal codes it is so."""

    holds: bool | None
    by: By = ""
    percent: int = 100


UNKNOWN = Found(None)
KM_OF_LATITUDE = 111.19
"""At least so many kilometers lie between two degrees of latitude on the mean sphere: what is farther need not be measured."""


@dataclass(frozen=True, slots=True)
class Signs:
    """What is known of where a caller is: postal codes by what tells them, and their number in E.164 (empty: withheld)."""

    typed: str = ""
    contact: str = ""
    earlier: str = ""
    number: str = ""

    def codes(self) -> Iterator[tuple[By, str]]:
        """The postal codes, the best first."""
        pairs: tuple[tuple[By, str], ...] = (
            ("typed", self.typed),
            ("contact", self.contact),
            ("earlier", self.earlier),
        )
        yield from ((by, code) for by, code in pairs if code)


@dataclass(frozen=True)
class Whereabouts:
    """Answers about where callers are, for one client in one country."""

    places: Places
    country: str
    _shares: dict[tuple[str, str], Found] = field(default_factory=dict, compare=False, repr=False)
    """What area codes say of areas, worked out when it is first asked for."""

    def within(self, area: Area, signs: Signs) -> Found:
        """Whether a caller is within an area."""
        return self._best(
            signs, lambda code: self._code_within(area, code), lambda number: self._number_within(area, number)
        )

    def within_km(self, place: str, km: float, signs: Signs) -> Found:
        """Whether a caller is within so many kilometers of a place, by its key."""
        middle = self.point_of(place)
        if middle is None:
            return UNKNOWN
        return self._best(
            signs,
            lambda code: self._near(middle, km, self._point(code)),
            lambda number: self._by_codes(number, lambda one: self._near(middle, km, one)),
        )

    def nearest(self, candidates: Mapping[str, Point], any_of: Sequence[str], signs: Signs) -> Found:
        """Whether the nearest to a caller of some points, by key, is one of some."""
        if not candidates:
            return UNKNOWN

        def nearest_to(point: Point | None) -> str | None:
            return min(candidates, key=lambda key: (km_between(candidates[key], point), key)) if point else None

        for by, code in signs.codes():
            if (key := nearest_to(self._point(code))) is not None:
                return Found(key in any_of, by)
        points = self._points(signs.number)
        if not points:
            return UNKNOWN
        wins = Counter(nearest_to(point) for point in points)
        most, times = min(wins.items(), key=lambda pair: (-pair[1], pair[0] or ""))
        return Found(most in any_of, "area_code", round(100 * times / len(points)))

    def in_place(self, any_of: Sequence[str], signs: Signs) -> Found:
        """Whether a caller is in one of some states ("US-MD", ISO 3166-2), cities ("US-MD Annapolis", or of a number elsewhere
        "Brighton") or area codes ("410")."""
        folded = {one.casefold() for one in any_of}

        def told(state: str, city: str, area_codes: Sequence[str]) -> bool:
            named = {f"us-{state}", f"us-{state} {city}".casefold(), city.casefold()} if state else {city.casefold()}
            return bool(folded & {*(one.casefold() for one in named if one), *area_codes})

        for by, code in signs.codes():
            coded = gazetteer.postal(code, self.country)
            if coded is not None:
                return Found(told(coded.state, coded.city, coded.area_codes), by)
        place = gazetteer.number_place(signs.number) if signs.number else None
        if place is None:
            return UNKNOWN
        return Found(told(place.state, place.city, (place.area_code,)), "area_code")

    def has_code(self, codes: tuple[str, ...], signs: Signs) -> Found:
        """Whether a caller's postal code is one of some, or begins as one of some with * at its end. Area codes tell nothing of it."""
        return next((Found(has_code(codes, code), by) for by, code in signs.codes()), UNKNOWN)

    def has(self, area: Area, coded: Coded) -> bool:
        """Whether a postal code lies in an area."""
        if (
            has_code(area.codes, coded.code)
            or coded.state in area.states
            or set(coded.area_codes) & set(area.area_codes)
        ):
            return True
        return self._is_around(area, coded.at)

    # what it stands on

    def point_of(self, place: str) -> Point | None:
        """Where a place is, by its key; None for one that is gone or has no known code."""
        found = self.places.place(place)
        if found is None:
            return None
        if found.lat is not None and found.long is not None:
            return found.lat, found.long
        return self._point(found.postal_code)

    def territories(self) -> dict[str, Point]:
        """The middle of what each person looks after, by the key of the person; people whose areas have no known middle are left out."""
        found: dict[str, list[Point]] = {}
        for area in self.places.areas:
            for person in area.people:
                found.setdefault(person, []).extend(self._points_in(area))
        return {person: _middle(points) for person, points in found.items() if points}

    def middles(self) -> dict[str, Point]:
        """Where each place is, by key, as far as that is known."""
        known = ((one.key, self.point_of(one.key)) for one in self.places.places)
        return {key: point for key, point in known if point is not None}

    def _points_in(self, area: Area) -> list[Point]:
        around = [self.point_of(one.place) for one in area.around]
        codes = [self._point(code) for code in area.codes if not code.endswith("*")]
        return [point for point in (*around, *codes) if point is not None]

    def _point(self, code: str) -> Point | None:
        own = next((one for one in self.places.codes if one.code == code), None)
        if own is not None:
            return own.lat, own.long
        coded = gazetteer.postal(code, self.country)
        return coded.at if coded else None

    def _points(self, number: str) -> list[Point]:
        """Where numbers of an area code are: the postal codes of the area, else a code of the client's own that the number begins with."""
        place = gazetteer.number_place(number) if number else None
        if place is None:
            return []
        if self.country == "US":
            return [one.at for one in gazetteer.by_area_code().get(place.area_code, ())]
        own = [one for one in self.places.codes if place.area_code and place.area_code == one.code]
        return [(one.lat, one.long) for one in own]

    def _best(
        self, signs: Signs, of_code: Callable[[str], bool | None], of_number: Callable[[str], Found]
    ) -> Found:  # fmt: skip
        for by, code in signs.codes():
            holds = of_code(code)
            if holds is not None:
                return Found(holds, by)
        return of_number(signs.number) if signs.number else UNKNOWN

    def _near(self, middle: Point, km: float, point: Point | None) -> bool | None:
        return None if point is None else km_between(middle, point) <= km

    def _by_codes(self, number: str, of_point: Callable[[Point], bool | None]) -> Found:
        points = self._points(number)
        if not points:
            return UNKNOWN
        return _share(sum(of_point(point) is True for point in points), len(points))

    def _code_within(self, area: Area, code: str) -> bool | None:
        if has_code(area.codes, code):
            return True
        coded, point = gazetteer.postal(code, self.country), self._point(code)
        if coded is not None:
            return self.has(area, coded)
        if area.states or area.area_codes:
            return None
        if not area.around:
            return False
        return None if point is None else self._is_around(area, point)

    def _is_around(self, area: Area, point: Point) -> bool:
        middles = ((self.point_of(one.place), one.km) for one in area.around)
        return any(
            middle is not None and abs(middle[0] - point[0]) * KM_OF_LATITUDE <= km and km_between(middle, point) <= km
            for middle, km in middles
        )

    def _number_within(self, area: Area, number: str) -> Found:
        place = gazetteer.number_place(number)
        if place is None:
            return UNKNOWN
        if place.area_code in area.area_codes or (place.state and place.state in area.states):
            return Found(True, "area_code")
        if self.country == "US":
            known = (area.key, place.area_code)
            if known not in self._shares:
                coded = gazetteer.by_area_code().get(place.area_code, ())
                inside = sum(self.has(area, one) for one in coded)
                self._shares[known] = _share(inside, len(coded)) if coded else UNKNOWN
            return self._shares[known]
        points = self._points(number)
        if area.around and points:
            return Found(self._is_around(area, points[0]), "area_code")
        return (
            Found(False, "area_code") if area.area_codes and not (area.around or area.codes or area.states) else UNKNOWN
        )


def _share(times: int, of: int) -> Found:
    """What holds for the greater part of an area's postal codes, and for how many of a hundred of them."""
    percent = round(100 * times / of)
    return Found(2 * times >= of, "area_code", percent if 2 * times >= of else 100 - percent)


def _middle(points: Sequence[Point]) -> Point:
    """The mean of some points that lie near each other."""
    return sum(lat for lat, _ in points) / len(points), sum(long for _, long in points) / len(points)
