"""A client's places, the areas it serves, codes of its own, and the areas that people look after: one document a client."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from ..value import Value

PlaceKey = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
PlaceName = Annotated[str, Field(min_length=1, max_length=60)]
Code = Annotated[str, Field(pattern=r"^[0-9]{2,10}\*?$")]
"""A postal code of digits, or with * at its end all that begin so."""
Latitude = Annotated[float, Field(ge=-90, le=90)]
Longitude = Annotated[float, Field(ge=-180, le=180)]
FARTHEST_KM = 5000.0
Distance = Annotated[float, Field(gt=0, le=FARTHEST_KM)]


class Place(Value):
    """Somewhere that the client is: by its postal code, or where there is no data of those, by latitude and longitude in degrees
    (WGS 84)."""

    key: PlaceKey
    name: PlaceName
    postal_code: Annotated[str, Field(max_length=12)] = ""
    lat: Latitude | None = None
    long: Longitude | None = None


class Around(Value):
    """All that lies within some kilometers of a place."""

    place: PlaceKey
    km: Distance


class Area(Value):
    """What a client serves: around places, by postal codes, by states and by area codes, all together; and the people who look after
    it."""

    key: PlaceKey
    name: PlaceName
    around: Annotated[tuple[Around, ...], Field(max_length=50)] = ()
    codes: Annotated[tuple[Code, ...], Field(max_length=2000)] = ()
    states: Annotated[tuple[str, ...], Field(max_length=60)] = ()
    area_codes: Annotated[tuple[Annotated[str, Field(pattern=r"^[0-9]{2,6}$")], ...], Field(max_length=400)] = ()
    people: Annotated[tuple[str, ...], Field(max_length=200)] = ()

    @property
    def is_empty(self) -> bool:
        """Whether nowhere lies in it."""
        return not (self.around or self.codes or self.states or self.area_codes)


class CodeAt(Value):
    """Where one code of the client's own list lies, and what is there."""

    code: Annotated[str, Field(pattern=r"^[0-9]{2,10}$")]
    lat: Latitude
    long: Longitude
    name: Annotated[str, Field(max_length=60)] = ""


class Places(Value):
    """All of it. Names are one of a kind among places and among areas."""

    places: Annotated[tuple[Place, ...], Field(max_length=200)] = ()
    areas: Annotated[tuple[Area, ...], Field(max_length=200)] = ()
    codes: Annotated[tuple[CodeAt, ...], Field(max_length=20000)] = ()

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        named = (("places", [one.name for one in self.places]), ("areas", [one.name for one in self.areas]))
        for kind, names in named:
            folded = [" ".join(name.casefold().split()) for name in names]
            twice = next((name for name, low in zip(names, folded, strict=True) if folded.count(low) > 1), None)
            if twice is not None:
                raise ValueError(f"two {kind} are called {twice}")
        keys = [one.key for one in self.places] + [one.key for one in self.areas]
        if len(set(keys)) < len(keys):
            raise ValueError("two of them have the same key")
        known = {one.key for one in self.places}
        gone = next((at.place for area in self.areas for at in area.around if at.place not in known), None)
        if gone is not None:
            raise ValueError(f"there is no place {gone}")
        codes = [one.code for one in self.codes]
        if len(set(codes)) < len(codes):
            raise ValueError(f"the code {next(one for one in codes if codes.count(one) > 1)} is listed twice")
        return self

    def place(self, key: str) -> Place | None:
        """The place of a key."""
        return next((one for one in self.places if one.key == key), None)

    def area(self, key: str) -> Area | None:
        """The area of a key."""
        return next((one for one in self.areas if one.key == key), None)


def has_code(codes: tuple[str, ...], code: str) -> bool:
    """Whether a postal code is one of some, or begins as one with * at its end."""
    return any(code == one or (one.endswith("*") and code.startswith(one[:-1])) for one in codes)
