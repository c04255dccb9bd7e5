"""Lists of what was spent on campaigns, a line a campaign and day, as the places that sell adverts export them."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from difflib import get_close_matches

from ..core import asked
from ..core.reports import money
from . import lists
from .lists import Table, columns

COLUMN_NAMES = {"campaign": "campaign", "day": "day", "amount": "amount"}
"""What a column can be."""
HEADINGS = {
    "campaign": ("campaign", "campaign name", "utm_campaign", "name"),
    "day": ("day", "date", "report date", "reporting starts"),
    "amount": ("amount", "spend", "cost", "spent", "amount spent", "total", "amount (usd)", "amount (gbp)"),
}
_SLASHED = re.compile(r"^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4})$")
_NAMED = ("%b %d, %Y", "%B %d, %Y", "%d %b %Y", "%d %B %Y")


@dataclass(frozen=True, slots=True)
class Line:
    """One line: where it stands in the list, its cells as typed, what was read of it, and what is wrong with it (empty: nothing)."""

    line: int
    typed: Mapping[str, str]
    campaign: str = ""
    day: date | None = None
    amount: Decimal = Decimal(0)
    problem: str = ""


def read(text: str) -> Table | str:
    """The rows of a list; a sentence when it cannot be read."""
    return lists.read(text, HEADINGS, "The list is empty: a line has a campaign, a day and an amount.")


def guess(table: Table) -> tuple[str, ...]:
    """What each column is; without a heading campaign, day and amount."""
    if not table.heading:
        return tuple((*COLUMN_NAMES, *[""] * table.width)[: table.width])
    return tuple(columns(table, HEADINGS))


def day_of(typed: str, country: str) -> date | str:
    """A day as people write it: 2026-11-24, Nov 24, 2026, and with slashes in the order of the country. A sentence says what is
    wrong."""
    text = " ".join(typed.split())
    match = _SLASHED.match(text)
    if match:
        first, second, year = (int(one) for one in match.groups())
        month, day = (first, second) if country == "US" else (second, first)
        text = f"{year:04d}-{month:02d}-{day:02d}"
    for form in _NAMED:
        try:
            text = datetime.strptime(text, form).date().isoformat()
        except ValueError:
            continue
    usual = "11/24/2026" if country == "US" else "24/11/2026"
    return asked.day(text) or f"“{typed[:30]}” is no day: write 2026-11-24 or {usual}"


def lines(table: Table, mapping: Sequence[str], campaigns: Mapping[str, str], country: str, today: date) -> list[Line]:
    """The spend of a list, each line with its own error. `campaigns` are the client's, by their names in small letters."""
    seen: dict[tuple[str, date], int] = {}
    found = []
    for number, cells in table.rows:
        typed = {name: cells[index] for index, name in enumerate(mapping) if name and index < len(cells)}
        line = _line(number, typed, campaigns, country, today)
        if not line.problem and line.day is not None:
            before = seen.setdefault((line.campaign.lower(), line.day), number)
            if before != number:
                line = Line(number, typed, problem=f"this campaign and day stand on line {before} already")
        found.append(line)
    return found


def _line(number: int, typed: Mapping[str, str], campaigns: Mapping[str, str], country: str, today: date) -> Line:
    name = typed.get("campaign", "")
    campaign = campaigns.get(name.lower())
    day = day_of(typed.get("day", ""), country)
    amount = money.read(typed.get("amount", ""))
    problem = ""
    if campaign is None:
        near = get_close_matches(name.lower(), campaigns, n=1)
        mean = f": did you mean {campaigns[near[0]]}?" if near else ""
        problem = f"no lead source has the campaign “{name[:60]}”{mean}" if name else "this line has no campaign"
    elif isinstance(day, str):
        problem = day
    elif day > today:
        problem = f"{day} is still to come"
    elif isinstance(amount, str):
        problem = amount.rstrip(".")
    if problem or isinstance(day, str) or isinstance(amount, str):
        return Line(number, typed, problem=problem)
    return Line(number, typed, campaign or "", day, amount)
