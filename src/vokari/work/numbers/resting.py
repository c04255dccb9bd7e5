"""Numbers out of use: they rest, answered by a short line, before they are released; until then all can be undone."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.numbers import assignments, numbering
from ...store.agency import Client
from ...store.calls import Call
from ...store.numbers import TrackingNumber
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.ports import CarrierRefuses
from ..house.problems import Problem, Problems
from ..house.sweeps import each
from .assignments import give_now, spans_of
from .numbers import own_number

STILL_RINGS_WITHIN = timedelta(days=30)


@dataclass(frozen=True, slots=True)
class Ringing:
    """How a number rings that is to be released: calls in its rest, those of the last 30 days, and the latest."""

    calls: int
    lately: int
    latest: datetime | None

    @property
    def words(self) -> str:
        """The warning, as a sentence; empty for a number that is quiet."""
        if not self.lately:
            return ""
        calls = "One call came" if self.lately == 1 else f"{self.lately} calls came"
        return f"It still rings: {calls} in the last 30 days, {self.calls} in its rest. An advert may still show it."


def ringing(session: Session, number: TrackingNumber, now: datetime) -> Ringing:
    """The calls of a number since its rest began; calls from test phones do not count."""
    since = number.rest_since or now - STILL_RINGS_WITHIN
    row = session.execute(
        select(
            func.count(),
            func.count().filter(Call.started_at > now - STILL_RINGS_WITHIN),
            func.max(Call.started_at),
        ).where(
            Call.client_id == number.client_id, Call.number_id == number.id, Call.started_at >= since,
            Call.started_at <= now, Call.test.is_(False),
        )
    ).one()  # fmt: skip
    return Ringing(row[0], row[1], row[2])


def rest(house: House, actor: Actor, client_id: int, number_ids: list[int]) -> Problems:
    """Takes numbers out of use for the client's period: their sources end now, callers hear the client's line."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        now = house.now()
        for number_id in sorted(set(number_ids)):
            number = own_number(session, client_id, number_id)
            if number.state != "in_service":
                shown = numbering.shown(number.e164, client.country)
                return [Problem("", f"{shown} is not in service, so it cannot rest.")]
            give_now(session, house, number, None)
            number.state = "resting"
            number.rest_since, number.rest_until = now, now + timedelta(days=client.rest_days)
            shown = numbering.shown(number.e164, client.country)
            note(session, house, actor, client_id, f"let {shown} rest until {number.rest_until:%Y-%m-%d}")
    return []


def wake(house: House, actor: Actor, client_id: int, number_id: int) -> Problems:
    """Puts a resting number back in service, with the source that it had last."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        number = own_number(session, client_id, number_id)
        if number.state != "resting":
            return [Problem("", "Only a resting number can go back in service.")]
        spans = spans_of(session, [number.id]).get(number.id, ())
        last = assignments.last_holder(spans, house.now())
        number.state, number.rest_since, number.rest_until = "in_service", None, None
        give_now(session, house, number, last.source_id if last else None)
        note(session, house, actor, client_id, f"put {numbering.shown(number.e164, client.country)} back in service")
    return []


def release(house: House, actor: Actor, client_id: int, number_id: int, *, sure: bool = False) -> Problems:
    """Gives a resting number back to the carrier. One that still rings, or whose rest is not over, only when `sure`."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        number = own_number(session, client_id, number_id)
        if number.state != "resting":
            return [Problem("", "A number rests before it is released, so that nobody else gets its calls at once.")]
        warning = ringing(session, number, house.now()).words
        if number.rest_until and number.rest_until > house.now():
            local = number.rest_until.astimezone(ZoneInfo(client.time_zone))
            warning = f"{warning} Its rest lasts until {local:%B} {local.day}.".strip()
        if warning and not sure:
            return [Problem("sure", warning)]
    return _give_back(house, number, actor)


def release_due(house: House) -> int:
    """Releases numbers whose rest is over and that are quiet; those that still ring wait for a person, those that the
    carrier does not take now for the next time. Gives the count."""
    with house.begin() as session:
        due = session.scalars(
            select(TrackingNumber).where(TrackingNumber.state == "resting", TrackingNumber.rest_until <= house.now())
        ).all()
        quiet = [number for number in due if not ringing(session, number, house.now()).lately]
    return each("a number could not be released", quiet, lambda number: not _give_back(house, number))


def _give_back(house: House, number: TrackingNumber, actor: Actor | None = None) -> Problems:
    """Gives a number back, then writes it down: a second try finds it given back already and is fine. One that was woken
    meanwhile is asked for again by nobody: the carrier was told first, so it is over."""
    try:
        house.carrier.give_back(number.e164)
    except CarrierRefuses as refusal:
        if not refusal.gone:
            return [Problem("", refusal.sentence)]
    with house.begin() as session:
        kept = session.get_one(TrackingNumber, number.id, with_for_update=True)
        if kept.state == "released":
            return []
        kept.state, kept.flow_id = "released", None
        kept.ended_at, kept.ended_how = house.now(), "released"
        if actor is not None:
            client = session.get_one(Client, kept.client_id)
            note(session, house, actor, client.id, f"released {numbering.shown(kept.e164, client.country)}")
    return []
