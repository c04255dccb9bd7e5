"""Exceptions of a set of hours: what comes in the next twelve months, and every change of them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.checks import days as checks
from ...core.hours.document import Day, Exception_, Hours, OneOff, PublicHolidays, Season
from ...core.hours.month import MonthDay, month
from ...core.hours.typed import write_day, write_week
from ...formats.hours_file import places_known
from ...store.hours import ExceptionList, HoursSet
from ..agency.access import Actor, NotFound, allow
from ..house import meanwhile
from ..house.house import House
from ..house.keys import new_key
from ..house.problems import Problem, Problems, Refused, Row
from ..house.views import ExceptionListView
from .sets import OpenHours, change, open_set, own_set

AHEAD = timedelta(days=366)
ONE: TypeAdapter[Exception_] = TypeAdapter(Exception_)
FIELD_NAMES = {
    "name": "the name", "first": "the first day", "last": "the last day", "every_year": "whether it comes each year",
    "cuts": "whether it ends the day before", "spans": "its times", "week": "its week", "picked": "the holidays that count",
    "on_holidays": "whether it holds on holidays", "observed": "whether observed days count", "kind": "what kind it is",
}  # fmt: skip
UNSAID = ("spans", "week", "picked")
Changing = Callable[[Sequence[Exception_]], "list[Exception_] | Refused"]
"""What becomes of exceptions, or why they cannot be changed."""


@dataclass(frozen=True, slots=True)
class Coming:
    """A time at which an exception holds: first and last day, its name, what holds then in words, whether a stronger one
    holds instead, and the shared list that it is from (None: the set's own)."""

    first: date
    last: date
    name: str
    says: str
    outdone: bool
    exception: str
    shared: ExceptionListView | None


@dataclass(frozen=True, slots=True)
class OwnException:
    """One of a set's own exceptions, when it holds and what, in words, and what deserves a second look."""

    exception: Exception_
    when: str
    says: str
    warnings: list[str]


@dataclass(frozen=True, slots=True)
class Overview:
    """All that is exceptional of a set in the next twelve months."""

    open: OpenHours
    coming: list[Coming]
    own: list[OwnException]
    shared: list[tuple[ExceptionListView, bool, list[str]]]


def overview(house: House, actor: Actor, client_id: int, hours_id: int) -> Overview:
    """The exceptions of a set: its own, those of the lists it shares, and when each holds in the next twelve months."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        one = open_set(session, house, client, own_set(session, client_id, hours_id))
        today = house.now().astimezone(one.table.zone).date()
        query = select(ExceptionList).where(ExceptionList.agency_id == client.agency_id).order_by(ExceptionList.name)
        lists = {entry.id: entry for entry in session.scalars(query)}
        own_ids = {exception.id for exception in one.hours.exceptions}
        shared = tuple(entry for entry in one.table.exceptions if entry.id not in own_ids)
        warned = _by_id([
            *checks.warnings_of(one.table.exceptions, today), *checks.idle(one.hours, one.table, shared, today)
        ])  # fmt: skip
        coming = [
            Coming(
                first,
                last,
                name,
                says(entry, one.hours, name),
                _outdone(one, entry, first, last),
                entry.id,
                ExceptionListView.maybe(origin),
            )
            for entry in one.table.exceptions
            for first, last, name in checks.coming(entry, today, today + AHEAD)
            if (origin := lists.get(_list_of(entry.id, own_ids))) or entry.id in own_ids
        ]
        own = [
            OwnException(entry, when_words(entry, today), says(entry, one.hours), warned.get(entry.id, []))
            for entry in one.hours.exceptions
        ]
        offered = [
            (ExceptionListView.of(entry), entry.id in one.set.lists, [
                sentence for key, sentences in warned.items() if key.startswith(f"l{entry.id}_") for sentence in sentences
            ])
            for entry in lists.values()
        ]  # fmt: skip
        return Overview(one, sorted(coming, key=lambda line: (line.first, line.last)), own, offered)


def month_of(
    house: House, actor: Actor, client_id: int, hours_id: int, year: int, number: int
) -> tuple[OpenHours, list[list[MonthDay]]]:
    """A month of a set, in whole weeks from Monday on."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours")
        one = open_set(session, house, client, own_set(session, client_id, hours_id))
        return one, month(one.table, year, number)


def keep(
    house: House, actor: Actor, client_id: int, hours_id: int, exception: Exception_, was: Row | None = None
) -> Problems:
    """Adds an exception, or puts it in the place of the one with its id; `was` is the one that the form was made of."""

    def kept(old: Sequence[Exception_]) -> list[Exception_] | Refused:
        new = laid_over(exception, was, old)
        return Refused(new) if isinstance(new, list) else placed(new, old)

    what = f"kept the exception {exception.name or checks.kind_words(exception)}"
    return _change(house, actor, client_id, hours_id, kept, what)


def placed(exception: Exception_, old: Sequence[Exception_]) -> list[Exception_]:
    """The exceptions with one more, or with one in the place of the one with its id."""
    if any(one.id == exception.id for one in old):
        return [exception if one.id == exception.id else one for one in old]
    return [*old, exception]


def laid_over(exception: Exception_, was: Row | None, old: Sequence[Exception_]) -> Exception_ | Problems:
    """What was typed of an exception with what others changed of it since the form was made; or what they did, in words."""
    stands = next((one for one in old if one.id == exception.id), None)
    if was is None:
        return exception
    if stands is None:
        sentence = (
            "Somebody took this exception out meanwhile. What you typed is kept here: add it anew if it is to stand."
        )
        return [Problem(meanwhile.FIELD, sentence)]
    now = stands.model_dump(mode="json")
    fields = meanwhile.laid(exception.model_dump(mode="json"), was, now, FIELD_NAMES, keys=UNSAID)
    if isinstance(fields, list):
        return fields
    try:
        return ONE.validate_python(fields)
    except ValidationError:
        return [
            Problem(
                meanwhile.FIELD, f"Changed by somebody else meanwhile, so that the two do not fit. {meanwhile.AGAIN}"
            )
        ]


def remove(house: House, actor: Actor, client_id: int, hours_id: int, exception_id: str) -> Problems:
    """Takes an exception out; nothing happens when it is gone already."""
    return _change(
        house, actor, client_id, hours_id, lambda old: [one for one in old if one.id != exception_id],
        "removed an exception",
    )  # fmt: skip


def set_day(
    house: House, actor: Actor, client_id: int, hours_id: int, on: date, spans: Day | None, name: str = ""
) -> Problems:
    """Gives one day times of its own (no spans: closed), or with None takes its own away, so that the rest holds."""

    def changed(old: Sequence[Exception_]) -> list[Exception_]:
        rest = [one for one in old if not checks.is_day(one, on)]
        return rest if spans is None else [*rest, OneOff(id=new_key("x"), name=name, first=on, last=on, spans=spans)]

    said = f"{on:%b} {on.day}, {on.year}"
    what = f"{said} is as usual again" if spans is None else f"changed {said}" if spans else f"closed {said}"
    return _change(house, actor, client_id, hours_id, changed, what)


def share(
    house: House, actor: Actor, client_id: int, hours_id: int, lists: Sequence[int], was: Row | None = None
) -> Problems:
    """Chooses which of the agency's lists of exceptions hold for a set, too. `was` holds the `lists` that the form was made of:
    what others chose or left out since stays so."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        before = [] if was is None else [entry for entry in was.get("lists", []) if isinstance(entry, int)]
        if was is not None:
            kept = [entry for entry in one.lists if entry in lists or entry not in before]
            lists = [*kept, *(entry for entry in lists if entry not in kept and entry not in before)]
        query = select(ExceptionList).where(ExceptionList.agency_id == client.agency_id, ExceptionList.id.in_(lists))
        known = {entry.id: entry for entry in session.scalars(query.with_for_update(read=True))}
        if set(lists) - set(known):
            raise NotFound
        names = ", ".join(known[entry].name for entry in lists) or "none"
        return change(session, house, actor, one, {}, f"shares the lists of exceptions: {names}", list(lists))


def problems_of(hours: Hours, exceptions: Sequence[Exception_]) -> Problems:
    """What is wrong with exceptions for a set: places that are not known."""
    return [
        Problem("country", f"{one.sentence[0].upper()}{one.sentence[1:]}")
        for one in places_known(hours.model_copy(update={"exceptions": tuple(exceptions)}))
        if one.path.startswith("exceptions")
    ]


# in words


def says(one: Exception_, hours: Hours, holiday: str = "") -> str:
    """What holds on the days of an exception: "closed", the times, or a season's week; `holiday` names one of several."""
    first = hours.periods[0].id
    if isinstance(one, Season):
        texts = []
        for period in hours.periods:
            wanted = (period.id, "") if period.id == first else (period.id,)
            text = write_week([tuple(span for span in day if span.period in wanted) for day in one.week])
            if text:
                texts.append(text if len(hours.periods) == 1 else f"{period.name} {text}")
        return ". ".join(texts) or "closed"
    if isinstance(one, PublicHolidays):
        plain = holiday.removesuffix(" (observed)")
        chosen = [pick for pick in one.picked if pick.name == plain]
        if chosen:
            return write_day(chosen[0].spans, hours.names, first)
        own = sum(1 for pick in one.picked if pick.spans)
        closed = len(one.picked) - own
        parts = [f"{closed} closed" if closed else "", f"{own} with own times" if own else ""]
        return ", ".join(part for part in parts if part) or "none picked"
    return write_day(one.spans, hours.names, first)


def when_words(one: Exception_, today: date) -> str:
    """When an exception holds: a day, a range, "each year" where it comes again, or the place of public holidays."""
    if isinstance(one, PublicHolidays):
        return f"{one.country}{'-' + one.region if one.region else ''}, this year and all to come"
    text = day_words(one.first, today)
    if one.last != one.first:
        text += f" – {day_words(one.last, today)}"
    return f"{text}, each year" if one.every_year else text


def day_words(on: date, today: date) -> str:
    """A date as "Thu, Dec 24", with the year where it is another."""
    return f"{on:%a}, {on:%b} {on.day}" + (f", {on.year}" if on.year != today.year else "")


# inside a transaction


def _change(
    house: House, actor: Actor, client_id: int, hours_id: int, changed: Changing, what: str,
) -> Problems:  # fmt: skip
    with house.begin() as session:
        allow(session, actor, client_id, "edit_hours", changing=True)
        one = own_set(session, client_id, hours_id, lock=True)
        return change_exceptions(session, house, actor, one, changed, what)


def change_exceptions(
    session: Session, house: House, actor: Actor, one: HoursSet,
    changed: Changing, what: str,
) -> Problems:  # fmt: skip
    """Changes the exceptions of a locked set; a sentence says why not."""
    old = Hours.model_validate(one.document)
    new = changed(old.exceptions)
    problems = new.problems if isinstance(new, Refused) else problems_of(old, new)
    if isinstance(new, Refused) or problems:
        return problems
    return [
        Problem("times", problem.sentence) if problem.field == "week" else problem
        for problem in change(session, house, actor, one, {"exceptions": tuple(new)}, what)
    ]


def _by_id(warnings: Sequence[checks.Warning_]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for one in warnings:
        found.setdefault(one.exception, []).append(one.sentence)
    return found


def _list_of(exception_id: str, own: set[str]) -> int:
    """The list that an exception of a timetable is from; 0 for the set's own."""
    head = exception_id.split("_")[0][1:]
    return int(head) if exception_id not in own and head.isdigit() else 0


def _outdone(one: OpenHours, entry: Exception_, first: date, last: date) -> bool:
    """Whether a stronger exception holds on every day of it instead."""
    days = (first + timedelta(days=step) for step in range((last - first).days + 1))
    return all((ruling := one.table.ruling(day)) is not None and ruling.id != entry.id for day in days)
