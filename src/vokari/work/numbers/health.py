"""Numbers that cost more than they bring, with what could be done and what it saves."""

from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import Integer, cast, func, select

from ...store.calls import CallDay
from ...store.numbers import Assignment
from ..agency.access import Actor, allow
from ..house.house import House
from ..house.views import ClientView
from .plan import NEVER_WITHIN, PlanLine, plan_lines
from .sources import sources_of

JUDGED_DAYS = 90
GOOD_FATES = ("answered", "message_left", "served")


@dataclass(frozen=True, slots=True)
class Proposal:
    """A number that may rest: why in words, and the rent a month that this saves. `sure`: nothing else is to be looked at first."""

    kind: Literal["silent", "no_source", "brings_nothing"]
    line: PlanLine
    words: str
    saving: Decimal
    sure: bool = True


@dataclass(frozen=True, slots=True)
class Health:
    """A client's proposals, dearest first, with the saving of all of them together a month."""

    client: ClientView
    proposals: list[Proposal]

    @property
    def saving(self) -> Decimal:
        return sum((one.saving for one in self.proposals), Decimal(0))


def look(house: House, actor: Actor, client_id: int) -> Health:
    """Looks at every number in service of a client."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        everything = plan_lines(session, house, client, {one.key: one for one in sources_of(session, client_id)})
        today = house.now().astimezone(ZoneInfo(client.time_zone)).date()
        count = cast(func.sum(CallDay.calls), Integer)
        rows = session.execute(
            select(CallDay.number_id, count)
            .where(
                CallDay.client_id == client_id, CallDay.day > today - timedelta(days=JUDGED_DAYS),
                CallDay.fate.in_(GOOD_FATES),
            )
            .group_by(CallDay.number_id)
        ).all()  # fmt: skip
        good: dict[int, int] = {row[0]: row[1] for row in rows}
        ever = set(session.scalars(select(Assignment.number_id).where(Assignment.client_id == client_id).distinct()))
    proposals = [
        proposal
        for one in everything
        if one.line.number.state == "in_service"
        and one.line.planned is None
        and one.line.number.e164 != client.duty_number
        for proposal in [_judge(one, house, good.get(one.line.number.id, 0), ever=one.line.number.id in ever)]
        if proposal
    ]
    return Health(ClientView.of(client), sorted(proposals, key=lambda one: (-one.saving, one.line.line.number.e164)))


def _judge(one: PlanLine, house: House, good: int, *, ever: bool) -> Proposal | None:
    number = one.line.number
    age = house.now() - number.taken_at
    if one.line.now is None:
        never = f"never given to a lead source in {age.days} days" if age.days > 1 else "not given to a lead source yet"
        words = "belongs to no lead source any more" if ever else never
        return Proposal("no_source", one, words, number.rent, sure=age >= NEVER_WITHIN)
    if one.silent:
        return Proposal("silent", one, one.silent.words, number.rent, sure=False)
    if age >= timedelta(days=JUDGED_DAYS) and not good and number.rent > 0:
        spent = number.rent * 3
        return Proposal(
            "brings_nothing", one, f"cost ${spent} in {JUDGED_DAYS} days and brought no caller to anyone", number.rent
        )
    return None
