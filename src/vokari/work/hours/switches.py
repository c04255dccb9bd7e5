"""Temporary switches of a client's hours: closed, open late, or all calls to a phone. Each ends by itself."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.hours import words
from ...core.hours.document import Hours
from ...core.hours.until import read_until
from ...core.numbers import numbering
from ...store.agency import Client
from ...store.hours import HoursSet, HoursSwitch
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, NotFound, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import HoursSwitchView
from . import ready
from .sets import own_set

KINDS = {"closed": "Closed", "open": "Open", "divert": "All calls to one phone"}
LONGEST = timedelta(days=31)


@dataclass(frozen=True, slots=True)
class SwitchLine:
    """A switch that holds now, in words: "Closed until 14:00"."""

    switch: HoursSwitchView
    words: str


@dataclass(frozen=True, slots=True)
class TopLine:
    """What a client's top line says of its hours: what holds now, and the switches in use."""

    sentence: str
    switches: list[SwitchLine]


def top_line(house: House, actor: Actor, client_id: int) -> TopLine:
    """For whoever may see the client at all; the sentence is empty for a client that has no hours."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "read_results")
        now = house.now()
        standings = ready.standings(session, house, client_id)
        table = standings.main()
        active = _active(session, client, now) if standings.switches() else []
        return TopLine(words.sentence(table, now) if table else "", active)


def start(
    house: House, actor: Actor, client_id: int, kind: str, until: str, hours_id: int | None = None, period: str = "",
    phone: str = "",
) -> HoursSwitchView | Problems:  # fmt: skip
    """Starts a switch that holds from now until a moment typed in the client's time: for one set, or for all that flows
    ask for (`hours_id` None; only `closed`). `open` names the set and its period, `divert` the phone."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        if kind not in KINDS:
            return [Problem("kind", "Choose what the switch does.")]
        one = own_set(session, client_id, hours_id) if hours_id is not None and kind != "divert" else None
        now = house.now()
        zone = _zone(client, one)
        ends = read_until(until, now.astimezone(zone).replace(tzinfo=None))
        problems: Problems = []
        if isinstance(ends, str):
            problems.append(Problem("until", ends))
        elif ends.replace(tzinfo=zone) - now > LONGEST:
            sentence = (
                f"A switch lasts at most {LONGEST.days} days. For longer add a day or a season to the exceptions."
            )
            problems.append(Problem("until", sentence))
        if kind == "open" and (one is None or Hours.model_validate(one.document).period(period) is None):
            problems.append(Problem("period", "Choose which period is to hold."))
        e164 = _phone(session, client, phone) if kind == "divert" else ""
        if isinstance(e164, numbering.Wrong):
            problems.append(Problem("phone", e164.sentence))
        if problems or isinstance(ends, str) or isinstance(e164, numbering.Wrong):
            return problems
        made = HoursSwitch(
            agency_id=actor.agency_id, client_id=client_id, hours_id=one.id if one else None, kind=kind,
            period=period if kind == "open" else "", phone=e164, since=now, until=ends.replace(tzinfo=zone).astimezone(UTC),
            user_id=actor.user_id,
        )  # fmt: skip
        session.add(made)
        session.flush()
        note(session, house, actor, client_id, f"switched: {_words(made, client, one, now)}, which ends by itself")
        return HoursSwitchView.of(made)


def end(house: House, actor: Actor, client_id: int, switch_id: int) -> None:
    """Ends a switch before its time; one that has ended already is left as it was."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "edit_hours", changing=True)
        one = session.get(HoursSwitch, switch_id, with_for_update=True)
        if one is None or one.client_id != client_id:
            raise NotFound
        now = house.now()
        if one.ended_at is None and one.until > now:
            one.ended_at = now
            hours = session.get(HoursSet, one.hours_id) if one.hours_id else None
            note(session, house, actor, client_id, f"ended the switch: {_words(one, client, hours, now)}")


def _active(session: Session, client: Client, now: datetime) -> list[SwitchLine]:
    query = (
        select(HoursSwitch, HoursSet)
        .outerjoin(HoursSet, HoursSet.id == HoursSwitch.hours_id)
        .where(HoursSwitch.client_id == client.id, func.coalesce(HoursSwitch.ended_at, HoursSwitch.until) > now)
        .order_by(HoursSwitch.id)
    )
    return [
        SwitchLine(HoursSwitchView.of(one), _words(one, client, hours, now)) for one, hours in session.execute(query)
    ]


def _words(one: HoursSwitch, client: Client, hours: HoursSet | None, now: datetime) -> str:
    until = words.when_words(one.until, now, _zone(client, hours))
    if one.kind == "divert":
        return f"All calls to {numbering.shown(one.phone, client.country)} until {until}"
    if one.kind == "closed":
        return f"{hours.name} closed until {until}" if hours else f"Closed until {until}"
    name = Hours.model_validate(hours.document).names.get(one.period, "") if hours else ""
    return f"{name} open until {until}"


def _zone(client: Client, hours: HoursSet | None) -> ZoneInfo:
    own = hours.document.get("time_zone") if hours else None
    return ZoneInfo(str(own or client.time_zone))


def _phone(session: Session, client: Client, typed: str) -> str | numbering.Wrong:
    read = numbering.parse(typed, client.country)
    if isinstance(read, numbering.Wrong):
        return read
    ours = select(TrackingNumber.id).where(TrackingNumber.e164 == read, TrackingNumber.state != "released").limit(1)
    if session.scalar(ours) is not None:
        return numbering.Wrong("This is one of our own tracking numbers: calls would come back here. Name a phone.")
    return read
