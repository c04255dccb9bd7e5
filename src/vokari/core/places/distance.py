"""Distances on the globe."""

from math import asin, cos, radians, sin, sqrt

RADIUS_KM = 6371.0088
"""The mean radius of the earth (IUGG)."""
KM_PER_MILE = 1.609344
"""The international mile, exact."""

Point = tuple[float, float]
"""Latitude and longitude in degrees."""


def km_between(one: Point, other: Point) -> float:
    """The distance of two points in kilometers, by the haversine formula (R. W. Sinnott, Virtues of the Haversine, 1984)."""
    lat, long, other_lat, other_long = map(radians, (*one, *other))
    half = sin((other_lat - lat) / 2) ** 2 + cos(lat) * cos(other_lat) * sin((other_long - long) / 2) ** 2
    return 2 * RADIUS_KM * asin(min(1.0, sqrt(half)))
