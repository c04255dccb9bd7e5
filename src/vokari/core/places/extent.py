"""What an area comes to: its postal codes, and how sure an area code is of it; and all areas and places drawn."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from math import cos, radians

from . import gazetteer
from .distance import Point
from .document import Area
from .gazetteer import Coded
from .whereabouts import Whereabouts

WIDTH, HEIGHT, EDGE = 560, 380, 26
MOST_DOTS = 1400
KM_PER_DEGREE = 111.2
"""Of latitude, on the mean sphere."""


@dataclass(frozen=True, slots=True)
class Extent:
    """An area: how many of the country's postal codes lie in it (None: there is no data of them), and the area codes of numbers there
    with the percentage of their postal codes that do, the surest first."""

    codes: int | None
    area_codes: tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class Dot:
    """A postal code on the drawing, and which areas it lies in, by their place in the list."""

    x: float
    y: float
    areas: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Mark:
    """A place on the drawing."""

    x: float
    y: float
    name: str
    left: bool


@dataclass(frozen=True, slots=True)
class Ring:
    """What lies within some distance of a place: an ellipse, since a degree of longitude is shorter than one of latitude."""

    x: float
    y: float
    rx: float
    ry: float
    area: int


@dataclass(frozen=True, slots=True)
class Drawing:
    """Postal codes, places and distances, in a box of WIDTH by HEIGHT."""

    dots: tuple[Dot, ...]
    marks: tuple[Mark, ...]
    rings: tuple[Ring, ...]


@cache
def _all_coded() -> tuple[Coded, ...]:
    """The postal codes of the US where people live, each once."""
    return tuple({one.code: one for some in gazetteer.by_area_code().values() for one in some}.values())


def extent(client: Whereabouts, area: Area) -> Extent:
    """What an area comes to."""
    if client.country != "US":
        return Extent(None, ())
    inside = [one for one in _all_coded() if client.has(area, one)]
    often = Counter(code for one in inside for code in one.area_codes)
    shares = ((code, round(100 * times / len(gazetteer.by_area_code()[code]))) for code, times in often.items())
    return Extent(len(inside), tuple(sorted(shares, key=lambda pair: (-pair[1], pair[0]))))


def draw(client: Whereabouts) -> Drawing | None:
    """The places and areas of a client drawn; None where nothing of them is known."""
    middles = client.middles()
    rings = [
        (index, middles[one.place], one.km)
        for index, area in enumerate(client.places.areas)
        for one in area.around
        if one.place in middles
    ]
    own = [(one.lat, one.long) for one in client.places.codes]
    inside = _inside(client)
    corners: list[Point] = [*middles.values(), *own, *(one.at for one, _ in inside)]
    for _, (lat, long), km in rings:
        degrees = km / KM_PER_DEGREE
        wide = degrees / max(0.1, cos(radians(lat)))
        corners += [(lat - degrees, long - wide), (lat + degrees, long + wide)]
    if not corners:
        return None
    at = _Paper(corners)
    shown = _near(inside, at, client)
    dots = tuple(Dot(*at.place(one), areas) for one, areas in [*shown, *((point, ()) for point in own)])
    marks = tuple(
        Mark(*(spot := at.place(middles[one.key])), one.name, spot[0] > WIDTH * 0.7)
        for one in client.places.places
        if one.key in middles
    )
    return Drawing(dots, marks, tuple(Ring(*at.place(point), *at.size(point, km), index) for index, point, km in rings))


def _inside(client: Whereabouts) -> list[tuple[Coded, tuple[int, ...]]]:
    if client.country != "US" or not client.places.areas:
        return []
    found = []
    for one in _all_coded():
        areas = tuple(index for index, area in enumerate(client.places.areas) if client.has(area, one))
        if areas:
            found.append((one, areas))
    return found


def _near(
    inside: Sequence[tuple[Coded, tuple[int, ...]]], at: "_Paper", client: Whereabouts
) -> list[tuple[Point, tuple[int, ...]]]:
    """The postal codes on the paper, so many that each can be seen: those of the areas, and those around them."""
    known = {one.code: areas for one, areas in inside}
    every = (
        [(one.at, known.get(one.code, ())) for one in _all_coded() if at.holds(one.at)]
        if client.country == "US"
        else []
    )
    step = max(1, -(-len(every) // MOST_DOTS))
    return every[::step]


class _Paper:
    """The projection: equirectangular about the middle, so that circles of this size stay nearly round."""

    def __init__(self, corners: Sequence[Point]) -> None:
        lats, longs = [lat for lat, _ in corners], [long for _, long in corners]
        middle = ((min(lats) + max(lats)) / 2, (min(longs) + max(longs)) / 2)
        self.shrink = max(0.1, cos(radians(middle[0])))
        tall = max(max(lats) - min(lats), 0.2)
        wide = max((max(longs) - min(longs)) * self.shrink, 0.2)
        self.scale = min((WIDTH - 2 * EDGE) / wide, (HEIGHT - 2 * EDGE) / tall)
        self.middle = middle

    def place(self, point: Point) -> tuple[float, float]:
        x = WIDTH / 2 + (point[1] - self.middle[1]) * self.shrink * self.scale
        return round(x, 1), round(HEIGHT / 2 - (point[0] - self.middle[0]) * self.scale, 1)

    def size(self, point: Point, km: float) -> tuple[float, float]:
        degrees = km / KM_PER_DEGREE
        return round(degrees / max(0.1, cos(radians(point[0]))) * self.shrink * self.scale, 1), round(
            degrees * self.scale, 1
        )

    def holds(self, point: Point) -> bool:
        x, y = self.place(point)
        return 4 < x < WIDTH - 4 and 4 < y < HEIGHT - 4
