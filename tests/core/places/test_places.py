"""Places, distances and areas, against packages that know them."""

import pytest
import zipcodes
from geopy.distance import geodesic
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from vokari.core.places import gazetteer, typed
from vokari.core.places.distance import km_between
from vokari.core.places.document import Area, Around, CodeAt, Place, Places
from vokari.core.places.whereabouts import UNKNOWN, Found, Signs, Whereabouts

YARD, WHARF = Place(key="yard", name="Yard", postal_code="21401"), Place(key="wharf", name="Wharf", postal_code="21613")
BAY = Area(key="bay", name="Bay", around=(Around(place="yard", km=40),), codes=("216*",), people=("ada",))
SHORE = Area(key="shore", name="Shore", codes=("21613", "21601"), people=("ben",))
CLIENT = Whereabouts(Places(places=(YARD, WHARF), areas=(BAY, SHORE)), "US")
NAMES = {"yard": "yard", "wharf": "wharf"}

points = st.tuples(st.floats(-89, 89), st.floats(-179, 179))


@given(points, points)
def test_distances_agree_with_the_ellipsoid(one: tuple[float, float], other: tuple[float, float]) -> None:
    """Haversine on a sphere lies within 0.6 % of geopy's geodesic on WGS 84 (C. F. F. Karney, Algorithms for geodesics, 2013)."""
    exact = geodesic(one, other).km
    assert km_between(one, other) == pytest.approx(exact, rel=0.006, abs=0.01)


def test_a_typed_code_comes_before_one_of_before_and_that_before_the_area_code() -> None:
    number = "+14105550123"
    assert CLIENT.within(BAY, Signs("21403", earlier="90210", number=number)) == Found(True, "typed")
    assert CLIENT.within(BAY, Signs(earlier="90210", number=number)) == Found(False, "earlier")
    assert CLIENT.within(BAY, Signs(number=number)).by == "area_code"
    assert CLIENT.within(BAY, Signs()) == UNKNOWN
    assert CLIENT.within(BAY, Signs("99999", number=number)).by == "area_code", (
        "a code that does not exist tells nothing"
    )
    assert CLIENT.within(BAY, Signs("21699")) == Found(True, "typed"), "codes that begin so are listed"


@pytest.mark.parametrize("number", ["+14105550123", "+12025550123", "+14435550123", "+13015550123"])
def test_an_area_code_holds_for_a_part_of_its_postal_codes(number: str) -> None:
    """Counted anew from the postal codes of the zipcodes package, with its own formula for distances."""
    middle = zipcodes.matching("21401")[0]
    every = [
        one for one in zipcodes.filter_by(zip_code_type="STANDARD", active=True) if number[2:5] in one["area_codes"]
    ]
    inside = [
        one
        for one in every
        if geodesic((middle["lat"], middle["long"]), (one["lat"], one["long"])).km <= 40
        or one["zip_code"].startswith("216")
    ]
    part = len(inside) / len(every)
    found = CLIENT.within(BAY, Signs(number=number))
    assert found.holds is (part >= 0.5)
    assert found.percent == pytest.approx(100 * max(part, 1 - part), abs=1.5)


def test_states_and_cities_follow_the_packages() -> None:
    assert CLIENT.in_place(["US-MD"], Signs(number="+14105550123")) == Found(True, "area_code")
    assert CLIENT.in_place(["US-NY New York"], Signs(number="+12125550123")).holds is True
    assert CLIENT.in_place(["US-VA"], Signs("21401")) == Found(False, "typed")
    assert CLIENT.in_place(["443"], Signs("21401")).holds is True, "numbers there have this area code too"
    assert CLIENT.in_place(["US-MD"], Signs(number="+18005550123")) == UNKNOWN
    assert Whereabouts(Places(), "GB").in_place(["Brighton"], Signs(number="+441273555555")).holds is True
    real = {state for one in zipcodes.list_all() if (state := one["state"]) in gazetteer.STATES}
    assert real == set(gazetteer.STATES)


def test_the_nearest_place_and_the_nearest_person() -> None:
    for code, place in (("21403", "yard"), ("21622", "wharf"), ("20001", "yard")):
        at = (float(zipcodes.matching(code)[0]["lat"]), float(zipcodes.matching(code)[0]["long"]))
        ends = {
            one.key: geodesic(at, gazetteer.postal(one.postal_code, "US").at).km  # type: ignore[union-attr]
            for one in (YARD, WHARF)
        }
        assert min(ends, key=ends.__getitem__) == place
        assert CLIENT.nearest(CLIENT.middles(), [place], Signs(code)) == Found(True, "typed")
    assert CLIENT.nearest(CLIENT.territories(), ["ben"], Signs("21613")).holds is True
    assert CLIENT.nearest(CLIENT.territories(), ["ada"], Signs("21401")).holds is True
    assert CLIENT.nearest({}, ["yard"], Signs("21401")) == UNKNOWN
    assert 50 <= CLIENT.nearest(CLIENT.middles(), ["yard"], Signs(number="+14105550123")).percent <= 100


def test_elsewhere_the_clients_own_list_says_where_a_code_lies() -> None:
    own = Places(
        places=(
            Place(key="shop", name="Shop", lat=50.82, long=-0.14),
            Place(key="barn", name="Barn", lat=50.85, long=0.57),
        ),
        codes=(
            CodeAt(code="01273", lat=50.827, long=-0.139, name="Brighton"),
            CodeAt(code="01424", lat=50.854, long=0.573),
        ),
        areas=(Area(key="town", name="Town", around=(Around(place="shop", km=15),), area_codes=("01903",)),),
    )
    client = Whereabouts(own, "GB")
    assert client.nearest(client.middles(), ["barn"], Signs("01424")) == Found(True, "typed")
    assert client.within(own.areas[0], Signs(number="+441273555555")) == Found(True, "area_code")
    assert client.within(own.areas[0], Signs(number="+441903555555")).holds is True
    assert client.within(own.areas[0], Signs(number="+447700900123")) == UNKNOWN, "mobiles have no place"
    assert client.has_code(("014*",), Signs("01424")) == Found(True, "typed")


@pytest.mark.parametrize(
    ("text", "written"),
    [
        (
            "25 miles of Yard, 214*, Maryland, area code 410 443",
            "25 miles of Yard, 214*, Maryland, area code 410, area code 443",
        ),
        ("40 km around Wharf; 21613\nMD", "40 km of Wharf, 21613, Maryland"),
    ],
)
def test_what_lies_in_an_area_is_typed(text: str, written: str) -> None:
    fields = typed.read_extent(text, NAMES, "US")
    assert isinstance(fields, dict), fields
    area = Area(key="a", name="A", **fields)
    assert typed.written_extent(area, {"yard": "Yard", "wharf": "Wharf"}, "US") == written
    assert typed.read_extent(written, NAMES, "US") == fields


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0 miles of Yard", "more than nothing"), ("9999 km of Yard", "more than nothing"), ("5 miles of Attic", "none of the places"),
        ("SW1A 1AA", "on the keypad"), ("99999", "no postal code of the US"), ("Atlantis", "no distance, code or state"),
    ],
)  # fmt: skip
def test_what_lies_nowhere_is_refused_in_words(text: str, says: str) -> None:
    assert says in str(typed.read_extent(text, NAMES, "US"))


def test_where_a_place_is_is_typed_and_a_code_of_another_country_refused() -> None:
    assert typed.read_where("21401-1234", "US", {}) == {"lat": None, "long": None, "postal_code": "21401"}
    assert typed.read_where("38.98, -76.5", "US", {}) == {"lat": 38.98, "long": -76.5, "postal_code": ""}
    for text, country in (("SW1A 1AA", "US"), ("21401", "GB"), ("95, 10", "US"), ("", "US"), ("99999", "US")):
        assert isinstance(typed.read_where(text, country, {}), str)
    assert typed.read_where("01273", "GB", {"01273": 1}) == {"lat": None, "long": None, "postal_code": "01273"}
    rows = typed.read_own_codes("01273, 50.827, -0.139, Brighton\n\n01424;50.854;0.573")
    assert isinstance(rows, list)
    assert [one["name"] for one in rows] == ["Brighton", ""]
    for text in ("BN1, 50, 0", "01273, here, there", "01273, 95, 0"):
        assert "Line 1" in str(typed.read_own_codes(text))


def test_two_of_one_name_and_two_of_one_code_are_refused() -> None:
    again = WHARF.model_copy(update={"name": "yard "})
    for wrong in (
        {"places": (YARD, again)}, {"areas": (SHORE, SHORE)}, {"areas": (BAY,)},
        {"codes": ({"code": "01273", "lat": 0, "long": 0}, {"code": "01273", "lat": 1, "long": 1})},
    ):  # fmt: skip
        with pytest.raises(ValidationError):
            Places.model_validate(wrong)
