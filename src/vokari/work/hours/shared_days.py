"""Lists of exceptions kept at the agency and shared by many clients: a change reaches every set that shares the list."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from pydantic import ValidationError
from sqlalchemy import any_, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.checks import days
from ...core.hours.document import Exception_, Hours, Period
from ...store.agency import Client
from ...store.hours import ExceptionList, HoursSet
from ..agency.access import Actor, NotFound, allow_agency, note
from ..house import meanwhile
from ..house.house import House
from ..house.problems import Problem, Problems, Row
from ..house.views import ClientView, ExceptionListView
from .days import OwnException, laid_over, placed, problems_of, says, when_words
from .ready import EXCEPTIONS

ANY_SET = Hours(name="Any client", periods=(Period(id="first", name="First period"),))
"""Stands for the sets that share a list, of which only the first period is known."""


@dataclass(frozen=True, slots=True)
class OpenList:
    """A list with its exceptions and everyone it reaches: each client with the name of the set."""

    entry: ExceptionListView
    exceptions: list[OwnException]
    reaches: list[tuple[ClientView, str]]

    @property
    def reach_words(self) -> str:
        names = list(dict.fromkeys(client.name for client, _ in self.reaches))
        if not names:
            return "no client yet"
        return f"{len(names)} {'client' if len(names) == 1 else 'clients'}: {', '.join(names)}"


def listed(house: House, actor: Actor) -> list[OpenList]:
    """The agency's lists by name."""
    with house.begin() as session:
        allow_agency(actor)
        query = select(ExceptionList).where(ExceptionList.agency_id == actor.agency_id).order_by(ExceptionList.name)
        today = house.now().date()
        return [_open(session, one, today) for one in session.scalars(query)]


def opened(house: House, actor: Actor, list_id: int) -> OpenList:
    """One list."""
    with house.begin() as session:
        return _open(session, _own(session, actor, list_id), house.now().date())


def name_list(
    house: House, actor: Actor, list_id: int | None, name: str, was: Row | None = None
) -> ExceptionListView | Problems:
    """Makes a list, or gives one another name; `was` holds the name that the form was made of."""
    allow_agency(actor)
    name = " ".join(name.split())
    if not 1 <= len(name) <= 60:
        return [Problem("name", "A list has a name of 1 to 60 letters.")]
    try:
        with house.begin() as session:
            one = _own(session, actor, list_id, lock=True) if list_id else ExceptionList(agency_id=actor.agency_id)
            fields = (
                meanwhile.laid({"name": name}, was, {"name": one.name}, {"name": "the name"})
                if list_id
                else {"name": name}
            )
            if isinstance(fields, list):
                return fields
            one.name = fields["name"]
            session.add(one)
            session.flush()
            note(session, house, actor, None, f"named a shared list of exceptions {name}")
            return ExceptionListView.of(one)
    except IntegrityError:
        return [Problem("name", "Another list has this name already.")]


def keep(
    house: House, actor: Actor, list_id: int, exception: Exception_, was: Row | None = None
) -> OpenList | Problems:
    """Adds an exception to a list, or puts it in the place of the one with its id; for every client that shares it. `was` is
    the one that the form was made of."""
    with house.begin() as session:
        one = _own(session, actor, list_id, lock=True)
        old = EXCEPTIONS.validate_python(one.exceptions)
        laid = laid_over(exception, was, old)
        if isinstance(laid, list):
            return laid
        what = f"kept {exception.name or days.kind_words(exception)} in the shared list {one.name}"
        return _changed(session, house, actor, one, placed(laid, old), what)


def remove(house: House, actor: Actor, list_id: int, exception_id: str) -> OpenList | Problems:
    """Takes an exception out of a list, for every client that shares it."""
    with house.begin() as session:
        one = _own(session, actor, list_id, lock=True)
        new = [entry for entry in EXCEPTIONS.validate_python(one.exceptions) if entry.id != exception_id]
        return _changed(session, house, actor, one, new, f"took an exception out of the shared list {one.name}")


def remove_list(house: House, actor: Actor, list_id: int) -> Problems:
    """Removes a list that no set shares."""
    with house.begin() as session:
        one = _own(session, actor, list_id, lock=True)
        reaches = _reaches(session, one)
        if reaches:
            client, hours = reaches[0]
            return [Problem("", f"{client.name} ({hours}) shares this list: take it off there first.")]
        session.delete(one)
        note(session, house, actor, None, f"removed the shared list of exceptions {one.name}")
        return []


# inside a transaction


def _own(session: Session, actor: Actor, list_id: int, *, lock: bool = False) -> ExceptionList:
    allow_agency(actor)
    one = session.get(ExceptionList, list_id, with_for_update=lock)
    if one is None or one.agency_id != actor.agency_id:
        raise NotFound
    return one


def _reaches(session: Session, one: ExceptionList) -> list[tuple[ClientView, str]]:
    query = (
        select(Client, HoursSet.name)
        .join(HoursSet, HoursSet.client_id == Client.id)
        .where(HoursSet.agency_id == one.agency_id, HoursSet.removed_at.is_(None), any_(HoursSet.lists) == one.id)
        .order_by(func.lower(Client.name), HoursSet.id)
    )
    return [(ClientView.of(client), name) for client, name in session.execute(query)]


def _open(session: Session, one: ExceptionList, today: date) -> OpenList:
    exceptions = EXCEPTIONS.validate_python(one.exceptions)
    warned = days.warnings_of(exceptions, today)
    lines = [
        OwnException(
            entry, when_words(entry, today), says(entry, ANY_SET),
            [warning.sentence for warning in warned if warning.exception == entry.id],
        )
        for entry in exceptions
    ]  # fmt: skip
    return OpenList(ExceptionListView.of(one), lines, _reaches(session, one))


def _changed(
    session: Session, house: House, actor: Actor, one: ExceptionList, new: Sequence[Exception_], what: str
) -> OpenList | Problems:
    """Writes a changed list down; the trail of each client that it reaches says so."""
    try:
        Hours.model_validate({**ANY_SET.model_dump(), "exceptions": [entry.model_dump() for entry in new]})
    except ValidationError as error:
        said = error.errors(include_url=False)[0]["msg"].removeprefix("Value error, ")
        return [Problem("times", f"{said[0].upper()}{said[1:]}.")]
    if problems := problems_of(ANY_SET, new):
        return problems
    before: Row = {"exceptions": one.exceptions}
    one.exceptions = [entry.model_dump(mode="json") for entry in new]
    one.revision += 1
    session.flush()
    opened = _open(session, one, house.now().date())
    note(session, house, actor, None, f"{what}, which reaches {opened.reach_words}", before)
    for client_id in dict.fromkeys(client.id for client, _ in opened.reaches):
        note(session, house, actor, client_id, what)
    return opened
