"""Sets of hours: listed, opened, drawn, and every change of them kept so that it can be taken back."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.agency.zones import zone_of
from ...core.flows.drafting import edits
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import Junction
from ...core.hours import words
from ...core.hours.document import EMPTY_WEEK, Day, Hours, Period
from ...core.hours.painting import of_period
from ...core.hours.timetable import Timetable
from ...store.agency import Client
from ...store.flows import CallFlow
from ...store.hours import HoursSet
from ..agency.access import Actor, allow, note
from ..flows.drafts import change_rows
from ..house import meanwhile, undoing
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Row, Withdrawn
from ..house.views import ClientView, HoursSetView
from . import ready
from .used import Place, places_by_key

HOURS = undoing.Kind("hours", ("document", "lists"))
LOG_SHOWN = 30
DETAILS = {"name": "the name", "time_zone": "the time zone", "main": "which hours the top line speaks of"}
PURPOSES = {"client": "hours that flows ask for", "own": "own times of a person or a phone"}


@dataclass(frozen=True, slots=True)
class SetLine:
    """A set as the list shows it."""

    set: HoursSetView
    table: Timetable
    sentence: str
    places: list[Place]


@dataclass(frozen=True, slots=True)
class OpenHours:
    """A set as its pages show it. `edited` is the latest change with who made it; `undo_words` what Undo takes back."""

    set: HoursSetView
    client: ClientView
    hours: Hours
    table: Timetable
    places: list[Place]
    undo_words: str
    redo_words: str
    edited: tuple[datetime, str] | None


def listed(house: House, actor: Actor, client_id: int) -> tuple[ClientView, list[SetLine], list[HoursSetView]]:
    """A client's sets, the main one first, with what holds now and where each is used; and those that were removed."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        now = house.now()
        tables = ready.Standings(session, house, client_id, now).tables()
        query = select(HoursSet).where(HoursSet.client_id == client_id).order_by(HoursSet.is_main.desc(), HoursSet.id)
        every = list(session.scalars(query))
        places = places_by_key(session, client_id)
        lines = [
            SetLine(
                HoursSetView.of(one), tables[one.key], words.sentence(tables[one.key], now), places.get(one.key, [])
            )
            for one in every
            if one.removed_at is None
        ]
        recent = now - timedelta(days=30)
        gone = HoursSetView.all(one for one in every if one.removed_at and one.removed_at > recent)
        return ClientView.of(client), lines, gone


def opened(house: House, actor: Actor, client_id: int, hours_id: int) -> OpenHours:
    """One set, with where it is used and what can be undone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        return open_set(session, house, client, own_set(session, client_id, hours_id))


def create(
    house: House,
    actor: Actor,
    client_id: int,
    name: str,
    purpose: str,
    like: int | None = None,
    week: Sequence[Day] = EMPTY_WEEK,
) -> HoursSetView | Problems:
    """A new set: with one period and a week of its times, empty unless given, or like another set of the client."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        name = " ".join(name.split())
        if not 1 <= len(name) <= 60:
            return [Problem("name", "Hours have a name of 1 to 60 letters.")]
        if purpose not in PURPOSES:
            return [Problem("purpose", "Choose what these hours are for.")]
        if like is not None:
            other = own_set(session, client_id, like)
            document = Hours.model_validate(other.document).model_copy(update={"name": name})
            lists = list(other.lists)
        else:
            first = "Open" if purpose == "client" else "On duty"
            period = Period(id=new_key("p"), name=first)
            days = tuple(tuple(span.model_copy(update={"period": period.id}) for span in day) for day in week)
            document = Hours(name=name, periods=(period,), week=days)
            lists = []
        made = add(session, actor, client_id, document, purpose, lists)
        if made is None:
            return [Problem("name", "Another set of hours of this client has this name already.")]
        note(session, house, actor, client_id, f"made the hours {name}")
        return HoursSetView.of(made)


def add(
    session: Session, actor: Actor, client_id: int, document: Hours, purpose: str, lists: Sequence[int] = ()
) -> HoursSet | None:
    """Stores a new set, the client's main one if it is the first for flows; None when the name is taken."""
    taken = select(func.count()).select_from(HoursSet).where(
        HoursSet.client_id == client_id, HoursSet.removed_at.is_(None), func.lower(HoursSet.name) == document.name.lower()
    )  # fmt: skip
    if session.scalar(taken):
        return None
    mains = select(func.count()).select_from(HoursSet).where(
        HoursSet.client_id == client_id, HoursSet.is_main, HoursSet.removed_at.is_(None)
    )  # fmt: skip
    made = HoursSet(
        agency_id=actor.agency_id, client_id=client_id, key=new_key("h"), purpose=purpose,
        is_main=purpose == "client" and not session.scalar(mains), document=document.model_dump(mode="json"),
        lists=list(lists), revision=0,
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def set_week(
    house: House, actor: Actor, client_id: int, hours_id: int, periods: Sequence[tuple[str, str]], week: tuple[Day, ...],
    base: int | None,
) -> OpenHours | Problems:  # fmt: skip
    """Saves the periods (id and name) and the painted week. Periods that exceptions or flows name cannot be left out
    here. `base` is the revision that the page was made of."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        if base is not None and base != one.revision:
            sentence = f"These hours were changed meanwhile: {_since(session, one, base)}."
            return [Problem("base", f"{sentence} What you painted is kept here: save again to lay it over.")]
        old = Hours.model_validate(one.document)
        named = [(key, " ".join(name.split())) for key, name in periods]
        problems = [
            Problem(f"name-{key}", "A period has a name of 1 to 60 letters.")
            for key, name in named
            if not 0 < len(name) <= 60
        ]
        if problems or not named:
            return problems or [Problem("", "Hours have at least one period.")]
        try:
            kept = tuple(Period(id=key, name=name) for key, name in named)
        except ValidationError as error:
            return [Problem("", _sentence(error))]
        gone = {period.id for period in old.periods} - {period.id for period in kept}
        places = [place for place in places_by_key(session, client_id).get(one.key, []) if gone & set(place.periods)]
        if places:
            return [Problem("", f"A period you took out is used by {places[0].words}. Remove it with its own button.")]
        rest = old.map_days(lambda day: tuple(span for span in day if span.period not in gone))
        new = _checked(rest, {"periods": kept, "week": week})
        if isinstance(new, list):
            return new
        what = _week_words(old, new)
        _keep(session, house, actor, one, new, list(one.lists), what)
        return open_set(session, house, client, one)


def details_of(one: HoursSet | HoursSetView) -> Row:
    """What the form of a set's details holds, as it stands."""
    return {"name": one.name, "time_zone": one.document.get("time_zone") or "", "main": one.is_main}


def set_details(
    house: House, actor: Actor, client_id: int, hours_id: int, name: str, time_zone: str, *, main: bool,
    was: Row | None = None,
) -> Problems:  # fmt: skip
    """Changes a set's name, its own time zone (empty: the client's), and whether the client's top line speaks of it; `was` are
    the fields (`details_of`) that the form was made of."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "edit_hours", changing=True)
            one = own_set(session, client_id, hours_id, lock=True)
            name, problems = " ".join(name.split()), Problems()
            typed = {"name": name, "time_zone": time_zone, "main": main or one.is_main}
            if not 1 <= len(name) <= 60:
                problems.append(Problem("name", "Hours have a name of 1 to 60 letters."))
            if time_zone and zone_of(time_zone) is None:
                problems.append(Problem("time_zone", "There is no such time zone. One looks like America/New_York."))
            if problems:
                return problems
            fields = meanwhile.laid(typed, was, details_of(one), DETAILS)
            if isinstance(fields, list):
                return fields
            if fields["main"] and not one.is_main and one.purpose == "client":
                for other in session.scalars(select(HoursSet).where(HoursSet.client_id == client_id, HoursSet.is_main)):
                    other.is_main = False
                session.flush()
                one.is_main = True
            old = Hours.model_validate(one.document)
            new = old.model_copy(update={"name": fields["name"], "time_zone": fields["time_zone"] or None})
            _keep(session, house, actor, one, new, list(one.lists), "changed its name or time zone")
    except IntegrityError:
        return [Problem("name", "Another set of hours of this client has this name already.")]
    return []


def change(
    session: Session, house: House, actor: Actor, one: HoursSet, update: Row, what: str, lists: list[int] | None = None
) -> Problems:
    """Changes fields of a locked set's document, in the caller's transaction; a sentence says why not."""
    new = _checked(Hours.model_validate(one.document), update)
    if isinstance(new, list):
        return new
    _keep(session, house, actor, one, new, list(one.lists) if lists is None else lists, what)
    return []


def remove_period(
    house: House, actor: Actor, client_id: int, hours_id: int, period: str, becomes: str, *, take_exits_out: bool
) -> Problems:
    """Removes a period. Its times become those of another period or, with none named, closed. Exits that ask for it go
    from drafts if wanted, as edits that can be undone; live versions stay as they are and never take them again."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "work" if take_exits_out else "edit_hours", changing=True)
            one = own_set(session, client_id, hours_id, lock=True)
            old = Hours.model_validate(one.document)
            name = old.names.get(period, "")
            if old.period(period) is None:
                return [Problem("period", "This period was removed already.")]
            if len(old.periods) == 1:
                return [Problem("period", "Hours have at least one period.")]
            if becomes and (becomes == period or old.period(becomes) is None):
                return [Problem("becomes", "Choose another period of these hours, or closed.")]
            try:
                new = without_period(old, {period}, becomes)
            except ValidationError as error:
                return [Problem("becomes", _sentence(error))]
            _keep(session, house, actor, one, new, list(one.lists), f"removed the period {name}")
            if take_exits_out:
                _take_exits_out(session, house, actor, one, period)
    except Withdrawn as withdrawn:
        return withdrawn.problems
    return []


def _take_exits_out(session: Session, house: House, actor: Actor, one: HoursSet, period: str) -> None:
    """Takes the exits that ask for a period out of all drafts, as edits. Raises Withdrawn when a draft cannot be changed so."""
    for flow in session.scalars(select(CallFlow).where(CallFlow.of(one.client_id)).with_for_update(key_share=True)):
        document = FlowDocument.model_validate(flow.draft)
        wanted: list[edits.Edit] = [
            edits.SetStep(step=changed)
            for step in document.steps
            if isinstance(step, Junction) and (changed := step.without_period(one.key, period)) != step
        ]
        problems = change_rows(session, house, actor, flow, wanted) if wanted else document
        if isinstance(problems, list):
            raise Withdrawn([Problem("becomes", f"{flow.name}: {problems[0].sentence}")])


def remove(house: House, actor: Actor, client_id: int, hours_id: int) -> Problems:
    """Removes a set that no flow names. It can be brought back."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        places = places_by_key(session, client_id).get(one.key, [])
        if places:
            return [Problem("", f"{one.name} is used by {places[0].words}: choose other hours there first.")]
        one.removed_at, one.is_main = house.now(), False
        note(session, house, actor, client_id, f"removed the hours {one.name}")
    return []


def log_of(house: House, actor: Actor, client_id: int, hours_id: int) -> list[tuple[datetime, str, str]]:
    """The latest changes of a set: when, who, and what in words."""
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours")
        one = own_set(session, client_id, hours_id)
        return [
            (entry.at, name, entry.words) for entry, name in undoing.log_of(session, HOURS, one.id, limit=LOG_SHOWN)
        ]


def bring_back(house: House, actor: Actor, client_id: int, hours_id: int) -> Problems:
    """Brings a removed set back."""
    try:
        with house.begin() as session:
            allow(session, actor, client_id, "edit_hours", changing=True)
            one = undoing.own(session, HoursSet, client_id, hours_id, lock=True, gone=True)
            one.removed_at = None
            session.flush()
            note(session, house, actor, client_id, f"brought the hours {one.name} back")
    except IntegrityError:
        return [Problem("", "Another set of hours has this name meanwhile: give that one another name first.")]
    return []


def step_back(house: House, actor: Actor, client_id: int, hours_id: int, kind: str) -> OpenHours | Problems:
    """Takes the latest change of a set back (`undo`), or does again what was taken back last (`redo`)."""
    try:
        with house.begin() as session:
            client = allow(session, actor, client_id, "edit_hours", changing=True)
            one = own_set(session, client_id, hours_id, lock=True)
            words = undoing.step_back(session, house, actor, HOURS, one, kind)
            if words is None:
                return [Problem("", f"There is nothing to {kind}.")]
            note(session, house, actor, client_id, f"{one.name}: {words}")
            return open_set(session, house, client, one)
    except IntegrityError:
        return [Problem("", "Another set of hours has the name of then meanwhile: give that one another name first.")]


# inside a transaction


def own_set(session: Session, client_id: int, hours_id: int, *, lock: bool = False) -> HoursSet:
    """A set of this client that is not removed; raises NotFound for any other."""
    return undoing.own(session, HoursSet, client_id, hours_id, lock=lock)


def without_period(old: Hours, gone: set[str], becomes: str) -> Hours:
    """The document without some periods, in the week and in every exception. Raises ValidationError for overlaps."""

    def day(spans: Day) -> Day:
        if not becomes:
            return tuple(span for span in spans if span.period not in gone)
        return tuple(span.model_copy(update={"period": becomes}) if span.period in gone else span for span in spans)

    kept = tuple(period for period in old.periods if period.id not in gone)
    return Hours.model_validate(old.map_days(day).model_copy(update={"periods": kept}).model_dump())


def _checked(old: Hours, update: Row) -> Hours | Problems:
    try:
        return Hours.model_validate(old.model_copy(update=update).model_dump())
    except ValidationError as error:
        return [Problem("week", _sentence(error))]


def _sentence(error: ValidationError) -> str:
    said = error.errors(include_url=False)[0]["msg"].removeprefix("Value error, ")
    return f"{said[0].upper()}{said[1:]}."


def _keep(session: Session, house: House, actor: Actor, one: HoursSet, new: Hours, lists: list[int], what: str) -> None:
    """Writes a changed document down; one that changes nothing leaves no trace."""
    after: Row = {"document": new.model_dump(mode="json"), "lists": lists}
    if undoing.keep(session, house, actor, HOURS, one, after, what):
        note(session, house, actor, one.client_id, f"{one.name}: {what}")


def open_set(session: Session, house: House, client: Client, one: HoursSet) -> OpenHours:
    """A set with its log and the places that name it."""
    session.flush()
    table = ready.Standings(session, house, client.id, house.now()).table(one.key)
    assert table is not None
    can = undoing.steps_in_words(session, HOURS, one.id)
    latest = undoing.log_of(session, HOURS, one.id, limit=1)
    edited = (latest[0][0].at, latest[0][1]) if latest else None
    places = places_by_key(session, client.id).get(one.key, [])
    return OpenHours(
        HoursSetView.of(one), ClientView.of(client), table.hours, table, places, can.undo, can.redo, edited
    )


def _since(session: Session, one: HoursSet, base: int) -> str:
    """What was changed of a set after a revision, and by whom."""
    later = undoing.log_of(session, HOURS, one.id, after=base, limit=3)
    return "; ".join(f"{name} {entry.words}" for entry, name in later) or "by somebody"


def _week_words(old: Hours, new: Hours) -> str:
    """What a saved week changed, in words."""
    names = {period.id: period.name for period in old.periods}
    parts = [f"named {names[one.id]} {one.name}" for one in new.periods if names.get(one.id, one.name) != one.name]
    parts += [f"added {one.name}" for one in new.periods if one.id not in names]
    parts += [f"took out {one.name}" for one in old.periods if new.period(one.id) is None]
    changed = [one.name for one in new.periods if of_period(old.week, one.id) != of_period(new.week, one.id)]
    if changed:
        parts.append(f"drew {', '.join(changed)} anew")
    return "; ".join(parts) or "saved the week"


def zone_for(table: Timetable, client: Client | ClientView) -> ZoneInfo | None:
    """The set's own zone where it is another than the client's."""
    return table.zone if table.zone.key != client.time_zone else None
