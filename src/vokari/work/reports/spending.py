"""What was spent on campaigns: typed, or brought in as a list; each entry can be taken back."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.reports import money
from ...core.reports.periods import Period
from ...store.agency import Client, User
from ...store.reports import Spend, SpendEntry
from ..agency.access import Actor, allow, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import ClientView
from ..numbers.sources import sources_of

MOST_DAYS = 366
SHOWN_MONTHS = 6


@dataclass(frozen=True, slots=True)
class Spent:
    """An amount for a campaign on a day."""

    campaign: str
    day: date
    amount: Decimal


@dataclass(frozen=True, slots=True)
class Month:
    """What a campaign had in a month (its first day): the sum, and on how many days there is a figure."""

    campaign: str
    first: date
    amount: Decimal
    days: int


@dataclass(frozen=True, slots=True)
class Spending:
    """A client's campaigns by name, what they had in the latest months, and the last entry, in words, with who made it."""

    client: ClientView
    currency: str
    campaigns: dict[str, str]
    months: list[Month]
    last: tuple[int, str, str] | None

    @property
    def firsts(self) -> list[date]:
        """The months that have figures, the latest first."""
        return sorted({one.first for one in self.months}, reverse=True)


def view(house: House, actor: Actor, client_id: int) -> Spending:
    """What is known of a client's spending."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work")
        campaigns = campaigns_of(session, client_id)
        month = func.date_trunc("month", Spend.day)
        since = (house.now().date().replace(day=1) - timedelta(days=31 * SHOWN_MONTHS)).replace(day=1)
        rows = session.execute(
            select(Spend.campaign, month, func.sum(Spend.amount), func.count())
            .where(Spend.client_id == client_id, Spend.day >= since)
            .group_by(Spend.campaign, month)
            .order_by(month.desc(), Spend.campaign)
        )
        months = [Month(campaigns.get(name, name), first.date(), amount, days) for name, first, amount, days in rows]
        last = session.execute(
            select(SpendEntry.id, SpendEntry.words, User.name)
            .join(User, User.id == SpendEntry.user_id)
            .where(SpendEntry.client_id == client_id, SpendEntry.undone.is_(False))
            .order_by(SpendEntry.id.desc())
        ).first()
        currency = money.currency_of(client.country)
        return Spending(
            ClientView.of(client), currency, campaigns, months, (last[0], last[1], last[2]) if last else None
        )


def campaigns_of(session: Session, client_id: int) -> dict[str, str]:
    """The campaigns of a client's lead sources, by their names in small letters."""
    names = sorted(
        {one.campaign.strip() for one in sources_of(session, client_id) if one.campaign.strip()}, reverse=True
    )
    return {name.lower(): name for name in names}


def known(house: House, actor: Actor, client_id: int, spent: Iterable[Spent]) -> set[tuple[str, date]]:
    """Of some campaigns (in small letters) and days those that have a figure already."""
    wanted = {(one.campaign.lower(), one.day) for one in spent}
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        return _before(session, client_id, wanted).keys() & wanted


def type_in(
    house: House,
    actor: Actor,
    client_id: int,
    campaign: str,
    first: date | None,
    last: date | None,
    amount: str,
    *,
    each: bool,
) -> int | Problems:
    """Spend for each day of a period, or for all of it together, which is spread evenly; gives the count of days."""
    problems: Problems = []
    read = money.read(amount)
    if isinstance(read, str):
        problems.append(Problem("amount", read))
    if first is None:
        problems.append(Problem("first", "Give the day, as in 2026-11-24."))
    last = last or first
    with house.begin() as session:
        allow(session, actor, client_id, "work")
        campaigns = campaigns_of(session, client_id)
    if campaign.strip().lower() not in campaigns:
        problems.append(Problem("campaign", "No lead source has this campaign."))
    if first is not None and last is not None:
        days = Period(first, last).days
        if not 1 <= days <= MOST_DAYS:
            problems.append(Problem("last", f"The last day is on or after the first, at most {MOST_DAYS} days."))
        elif last > house.now().date() + timedelta(days=1):
            problems.append(Problem("last", "These days are still to come."))
    if problems or first is None or isinstance(read, str):
        return problems
    amounts = [read] * days if each else money.spread(read, days)
    name = campaigns[campaign.strip().lower()]
    spent = [Spent(name, first + timedelta(days=n), one) for n, one in enumerate(amounts)]
    return keep(house, actor, client_id, spent)


def keep(house: House, actor: Actor, client_id: int, spent: list[Spent]) -> int | Problems:
    """Writes amounts down, in the place of those that stand there; all or none. Gives how many."""
    if not spent:
        return [Problem("", "There is nothing to keep.")]
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        wanted = {(one.campaign.lower(), one.day): one.amount for one in spent}
        before = _before(session, client_id, wanted)
        words = _words(client, spent)
        session.add(
            SpendEntry(
                agency_id=actor.agency_id, client_id=client_id, user_id=actor.user_id, at=house.now(), words=words, undone=False,
                before=[[campaign, day.isoformat(), str(before[campaign, day]) if (campaign, day) in before else None]
                        for campaign, day in wanted],
            )
        )  # fmt: skip
        _write(session, client, wanted)
        note(session, house, actor, client_id, f"kept {words}")
    return len(wanted)


def undo(house: House, actor: Actor, client_id: int, entry_id: int) -> Problems:
    """Takes the latest entry back: what stood there before stands there again."""
    with house.begin() as session:
        client = allow(session, actor, client_id, "work", changing=True)
        latest = session.scalar(
            select(SpendEntry)
            .where(SpendEntry.client_id == client_id, SpendEntry.undone.is_(False))
            .order_by(SpendEntry.id.desc())
            .limit(1)
        )
        if latest is None or latest.id != entry_id:
            return [Problem("", "Something was entered since: look again.")]
        latest.undone = True
        gone = [(campaign, date.fromisoformat(day)) for campaign, day, amount in latest.before if amount is None]
        for campaign, day in gone:
            where = (Spend.client_id == client_id, Spend.campaign == campaign, Spend.day == day)
            session.execute(delete(Spend).where(*where))
        restored = {
            (name, date.fromisoformat(day)): Decimal(was) for name, day, was in latest.before if was is not None
        }
        _write(session, client, restored)
        note(session, house, actor, client_id, f"took back {latest.words}")
    return []


def _before(session: Session, client_id: int, wanted: Iterable[tuple[str, date]]) -> dict[tuple[str, date], Decimal]:
    days = [day for _, day in wanted]
    if not days:
        return {}
    between = Spend.day.between(min(days), max(days))
    rows = session.execute(select(Spend.campaign, Spend.day, Spend.amount).where(Spend.client_id == client_id, between))
    return {(campaign, day): amount for campaign, day, amount in rows}


def _write(session: Session, client: Client, wanted: dict[tuple[str, date], Decimal]) -> None:
    if not wanted:
        return
    ids = {"client_id": client.id, "agency_id": client.agency_id}
    rows = [{**ids, "campaign": name, "day": day, "amount": amount} for (name, day), amount in sorted(wanted.items())]
    adding = insert(Spend).values(rows)
    session.execute(
        adding.on_conflict_do_update(
            index_elements=["client_id", "campaign", "day"], set_={"amount": adding.excluded.amount}
        )
    )


def _words(client: Client, spent: list[Spent]) -> str:
    days = sorted(one.day for one in spent)
    whole = money.shown(sum((one.amount for one in spent), Decimal(0)), money.currency_of(client.country))
    names = sorted({one.campaign for one in spent})
    what = names[0] if len(names) == 1 else f"{len(names)} campaigns"
    when = f"on {days[0]}" if days[0] == days[-1] else f"from {days[0]} to {days[-1]}"
    return f"{whole} for {what} {when}"
