"""A client's places and areas: shown as they are typed, kept, and taken back."""

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.flows.model.walks import names_in
from ...core.places import extent, typed
from ...core.places.document import Places
from ...core.places.whereabouts import Whereabouts
from ...store.places import ClientPlaces
from ..agency.access import Actor, allow, note
from ..flows import ready
from ..house import meanwhile, undoing
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row
from ..house.views import ClientView
from ..people.ringers import people_of
from .ready import whereabouts

PLACES = undoing.Kind("places", ("document",))
FIELDS = {"places": "the places", "areas": "the areas", "codes": "the client’s own codes"}


@dataclass(frozen=True, slots=True)
class TypedPlace:
    """A place as it is typed: its key (empty: a new one), name, and where it is."""

    key: str
    name: str
    where: str


@dataclass(frozen=True, slots=True)
class TypedArea:
    """An area as it is typed: its key (empty: a new one), name, what lies in it, and the keys of the people who look after it."""

    key: str
    name: str
    extent: str
    people: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class TypedPlaces:
    """All of it as it is typed."""

    places: Sequence[TypedPlace] = ()
    areas: Sequence[TypedArea] = ()
    codes: str = ""


@dataclass(frozen=True, slots=True)
class OpenPlaces:
    """A client's places as the page shows them; `was` is what its form is made of, `extents` what each area comes to."""

    client: ClientView
    typed: TypedPlaces
    known: Whereabouts
    was: Row
    people: dict[str, str]
    extents: tuple[extent.Extent, ...]
    drawing: extent.Drawing | None
    steps: undoing.Steps


def opened(house: House, actor: Actor, client_id: int) -> OpenPlaces:
    """A client's places."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        known = whereabouts(session, house, client_id)
        row = session.scalar(select(ClientPlaces).where(ClientPlaces.client_id == client_id))
        people = {key: one.name for key, one in people_of(session, house, client_id).items()}
        steps = undoing.steps_in_words(session, PLACES, row.id) if row else undoing.Steps()
        view = ClientView.of(client)
    extents = tuple(extent.extent(known, area) for area in known.places.areas)
    return OpenPlaces(
        view, _as_typed(known), known, known.places.model_dump(mode="json"), people, extents, extent.draw(known), steps
    )  # fmt: skip


def _as_typed(known: Whereabouts) -> TypedPlaces:
    names = {one.key: one.name for one in known.places.places}
    codes = "\n".join(
        f"{one.code}, {one.lat:g}, {one.long:g}" + (f", {one.name}" if one.name else "") for one in known.places.codes
    )
    return TypedPlaces(
        [TypedPlace(one.key, one.name, typed.written_where(one)) for one in known.places.places],
        [TypedArea(one.key, one.name, typed.written_extent(one, names, known.country), one.people) for one in known.places.areas],
        codes,
    )  # fmt: skip


def keep(house: House, actor: Actor, client_id: int, form: TypedPlaces, was: Row | None = None) -> Problems:
    """Keeps a client's places; rows without a name and anything else are left out. Problems name fields as `places.0.where`."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        made = _read(form, client.country)
        if isinstance(made, list):
            return made
        row = _row(session, actor, client_id)
        fields = meanwhile.laid(made.model_dump(mode="json"), was, dict(row.document), FIELDS, keys=FIELDS)
        if isinstance(fields, list):
            return fields
        try:
            document = Places.model_validate(fields)
        except ValidationError as error:
            return [
                Problem(
                    "was",
                    f"Changed by somebody else meanwhile so that it no longer fits: {_said(error)} {meanwhile.AGAIN}",
                )
            ]
        problems = _in_use(session, house, client_id, Places.model_validate(row.document), document)
        if problems:
            return problems
        after: Row = {"document": document.model_dump(mode="json")}
        changed = [words for name, words in FIELDS.items() if after["document"][name] != row.document.get(name)]
        if undoing.keep(session, house, actor, PLACES, row, after, f"changed {' and '.join(changed) or 'nothing'}"):
            note(session, house, actor, client_id, f"changed {' and '.join(changed)}")
        return []


def step_back(house: House, actor: Actor, client_id: int, how: str) -> Problems:
    """Takes the latest change back, or does it again."""
    with house.begin() as session:
        allow(session, actor, client_id, "work", changing=True)
        row = _row(session, actor, client_id)
        words = undoing.step_back(session, house, actor, PLACES, row, how)
        if words is None:
            return [Problem("was", "There is nothing to take back.")]
        note(session, house, actor, client_id, words)
        return []


def _row(session: Session, actor: Actor, client_id: int) -> ClientPlaces:
    row = session.scalar(select(ClientPlaces).where(ClientPlaces.client_id == client_id).with_for_update())
    if row is None:
        row = ClientPlaces(agency_id=actor.agency_id, client_id=client_id, document=Places().model_dump(mode="json"))
        session.add(row)
        session.flush()
    return row


def _read(form: TypedPlaces, country: str) -> Places | Problems:
    """The document of what was typed, or what of it cannot be read."""
    problems: Problems = []
    codes = typed.read_own_codes(form.codes)
    if isinstance(codes, str):
        problems.append(Problem("codes", codes))
        codes = []
    own = {str(one["code"]): one for one in codes}
    places: list[Row] = []
    for at, place in enumerate(form.places):
        name = " ".join(place.name.split())
        if not name and not place.where.strip():
            continue
        where = typed.read_where(place.where, country, own)
        if isinstance(where, str):
            problems.append(Problem(f"places.{at}.where", where))
        problems += _misnamed("place", at, name, places)
        places.append({"key": place.key or new_key("pl"), "name": name, **(where if isinstance(where, dict) else {})})
    keys = {str(one["name"]).casefold(): str(one["key"]) for one in places}
    areas: list[Row] = []
    for at, area in enumerate(form.areas):
        name = " ".join(area.name.split())
        if not name and not area.extent.strip():
            continue
        lies = typed.read_extent(area.extent, keys, country)
        if isinstance(lies, str):
            problems.append(Problem(f"areas.{at}.extent", lies))
        elif not any(lies.values()):
            problems.append(
                Problem(
                    f"areas.{at}.extent", "Say what lies in it: 25 miles of a place, postal codes, states, area codes."
                )
            )
        problems += _misnamed("area", at, name, areas)
        areas.append(
            {
                "key": area.key or new_key("ar"),
                "name": name,
                "people": list(area.people),
                **(lies if isinstance(lies, dict) else {}),
            }
        )
    if problems:
        return problems
    try:
        return Places.model_validate({"places": places, "areas": areas, "codes": codes})
    except ValidationError as error:
        return [Problem("was", _said(error))]


def _misnamed(kind: str, at: int, name: str, above: list[Row]) -> Problems:
    """What is wrong with the name of a place or an area, which no other above it may have."""
    field = f"{kind}s.{at}.name"
    if not 1 <= len(name) <= 60:
        return [Problem(field, f"{'An' if kind == 'area' else 'A'} {kind} has a name of 1 to 60 letters.")]
    if name.casefold() in {str(one["name"]).casefold() for one in above}:
        return [Problem(field, f"Another {kind} is called {name} already.")]
    return []


def _said(error: ValidationError) -> str:
    message = str(error.errors(include_url=False)[0]["msg"]).removeprefix("Value error, ")
    return f"{message[0].upper()}{message[1:]}."


def _in_use(session: Session, house: House, client_id: int, before: Places, after: Places) -> Problems:
    """Places and areas that would go while a live flow sorts by them."""
    gone = {("place", one.key): one.name for one in before.places if after.place(one.key) is None}
    gone |= {("area", one.key): one.name for one in before.areas if after.area(one.key) is None}
    problems: Problems = []
    for flow in ready.live(session, house, client_id) if gone else ():
        for _, named in names_in(flow.document, "place", "area"):
            name = gone.pop((named.kind, named.key), "")
            if name:
                words = (
                    f"{name} stays: what is live of {flow.document.name} sorts callers by it. Change that flow first."
                )
                problems.append(Problem("was", words))
    return problems
