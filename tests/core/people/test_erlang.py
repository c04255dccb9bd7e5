"""The formulas of load, against the usual table and the sums that define them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.core.people import erlang


@pytest.mark.parametrize(
    ("lines", "erlangs"),
    [(1, 0.010), (2, 0.153), (3, 0.455), (5, 1.36), (10, 4.46), (15, 8.11), (20, 12.0), (30, 20.3), (50, 37.9), (100, 84.1)],
)  # fmt: skip
def test_erlang_b_against_the_usual_table(lines: int, erlangs: float) -> None:
    """The offered load at 1% blocking, from the usual tables (trade-facts)."""
    assert erlang.blocking(lines, erlangs) == pytest.approx(0.01, abs=0.0004)
    assert erlang.people_for(erlangs * 0.995, 0.01) == lines


@given(st.integers(1, 30), st.floats(0.05, 25))
def test_erlang_b_and_c_against_the_sums_that_define_them(people: int, load: float) -> None:
    """B and C from the state probabilities of the M/M/n/n and M/M/n queues, term by term."""
    terms = [1.0]
    for n in range(1, people + 1):
        terms.append(terms[-1] * load / n)
    assert erlang.blocking(people, load) == pytest.approx(terms[-1] / sum(terms))
    if load < people:
        last = terms[-1] * people / (people - load)
        chance = last / (sum(terms[:-1]) + last)
        assert erlang.waiting(people, load) == pytest.approx(chance)
        assert erlang.mean_wait(people, load, 180) == pytest.approx(chance * 180 / (people - load))
    else:
        assert erlang.waiting(people, load) == 1
        assert erlang.mean_wait(people, load, 180) is None
