"""Money in reports: amounts as people type them, the currency of a country, and what things cost. Decimal, rounded once, half up."""

import re
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

CURRENCIES = {"US": "USD", "CA": "CAD", "GB": "GBP", "IE": "EUR"}
"""ISO 4217 by ISO 3166."""
SIGNS = {"USD": "$", "CAD": "CA$", "GBP": "£", "EUR": "€"}
CENT = Decimal("0.01")
MOST = Decimal("9999999.99")
_PLAIN = re.compile(r"^\d+(?:[.,]\d{1,2})?$", re.ASCII)
_GROUPED = re.compile(r"^\d{1,3}(?:([ ,.\u00a0\u202f'’])\d{3})(?:\1\d{3})*(?:[.,]\d{1,2})?$", re.ASCII)


def currency_of(country: str) -> str:
    """The currency of a client, by its country."""
    return CURRENCIES.get(country, "USD")


def read(typed: str) -> Decimal | str:
    """An amount as it is typed, with or without a currency sign: 1,250.50, 1.250,50, 1 250,5. A sentence says what is wrong."""
    text = re.sub(r"^(?:[$£€]|[A-Z]{2,3}\$?)\s*|\s*(?:[$£€]|[A-Z]{3})$", "", typed.strip())
    if text.startswith("-"):
        return "An amount is not below zero."
    whole = _GROUPED.match(text)
    if not _PLAIN.match(text) and not whole:
        return f"“{typed.strip()[:30]}” is no amount: write 1,250.50."
    if whole and whole[1] in ".," and len(re.findall(r"[.,]", text)) == 1:
        text = text.replace(whole[1], "")
    marks = [one for one in text if one in ".,"]
    last = max(text.rfind("."), text.rfind(","))
    if marks and len(text) - last - 1 <= 2:
        text = re.sub(r"[^0-9]", "", text[:last]) + "." + text[last + 1 :]
    else:
        text = re.sub(r"[^0-9]", "", text)
    amount = Decimal(text).quantize(CENT)
    return amount if amount <= MOST else "This amount is too large."


def spread(whole: Decimal, days: int) -> list[Decimal]:
    """An amount over so many days, to the cent; the first days have the cents that are left over."""
    cents, left = divmod(int(whole / CENT), days)
    return [CENT * (cents + (1 if n < left else 0)) for n in range(days)]


def shown(amount: Decimal, currency: str) -> str:
    """An amount as people of its country write it."""
    return f"{SIGNS.get(currency, currency + ' ')}{amount:,.2f}"


@dataclass(frozen=True, slots=True)
class Costs:
    """What was spent, on how many of how many days there is a figure, and what that is for each call, each answered call and each
    new caller; None where there were none."""

    spent: Decimal
    days: int
    of_days: int
    per_call: Decimal | None
    per_answered: Decimal | None
    per_new: Decimal | None

    @property
    def missing(self) -> int:
        """Days of the period without a figure."""
        return self.of_days - self.days


def costs(spent: Decimal, days: int, of_days: int, calls: int, answered: int, new_callers: int) -> Costs:
    """What was spent, for each of what it brought."""
    each = [
        (spent / count).quantize(CENT, ROUND_HALF_UP) if count else None for count in (calls, answered, new_callers)
    ]
    return Costs(spent, days, of_days, *each)
