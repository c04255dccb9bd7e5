"""Amounts as people type them, and what things cost."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.reports import money


@pytest.mark.parametrize(
    ("typed", "amount"),
    [
        ("1250.5", "1250.50"), ("1,250.50", "1250.50"), ("1.250,50", "1250.50"), ("1 250,5", "1250.50"), ("$1,250", "1250.00"),
        ("£12.00", "12.00"), ("12,5", "12.50"), ("1,234,567.89", "1234567.89"), ("0", "0.00"), ("USD 3.10", "3.10"), ("7 EUR", "7.00"),
        ("1.250", "1250.00"), ("1’250.00", "1250.00"),
    ],
)  # fmt: skip
def test_an_amount_is_read_in_its_usual_forms(typed: str, amount: str) -> None:
    assert money.read(typed) == Decimal(amount)


@pytest.mark.parametrize("typed", ["٣٤", "", "ten", "-5", "1,25,0", "1.2.3", "1e5", "99999999999", "5..1", "NaN"])
def test_what_is_no_amount_is_told(typed: str) -> None:
    assert isinstance(money.read(typed), str)


@given(st.decimals(0, 100_000, places=2), st.integers(1, 366))
def test_what_is_spread_adds_up_to_the_cent(whole: Decimal, days: int) -> None:
    parts = money.spread(whole, days)
    assert sum(parts) == whole
    assert max(parts) - min(parts) <= Decimal("0.01")


@given(st.decimals(0, 9_999_999, places=2))
def test_what_is_shown_is_read_back(amount: Decimal) -> None:
    assert money.read(money.shown(amount, "GBP")) == amount


def test_costs_are_rounded_once_half_up() -> None:
    made = money.costs(Decimal("10.00"), 3, 7, 16, 3, 0)
    assert (made.per_call, made.per_answered, made.per_new, made.missing) == (Decimal("0.63"), Decimal("3.33"), None, 4)
    assert money.costs(Decimal("0.25"), 1, 1, 2, 0, 1).per_call == Decimal("0.13")
