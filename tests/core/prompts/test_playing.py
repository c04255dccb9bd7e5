"""Which take plays when, and at which moments another begins."""

from datetime import UTC, datetime, timedelta
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.prompts.playing import Stretch, boundaries, playing

DAY = datetime(2026, 12, 1, tzinfo=UTC)


def at(hours: float) -> datetime:
    return DAY + timedelta(hours=hours)


def test_a_season_takes_over_and_gives_back_by_itself() -> None:
    some = [Stretch(1, at(0)), Stretch(2, at(24), at(72), seasonal=True), Stretch(3, at(48))]
    assert [playing(some, at(one)) for one in (-1, 0, 23.9, 24, 50, 71.9, 72)] == [None, 1, 1, 2, 2, 2, 3]
    assert boundaries(some, at(0), at(200)) == [at(24), at(72)]


hours = st.integers(0, 48)
stretches = st.lists(
    st.builds(
        lambda take, since, lasts, seasonal: Stretch(take, at(since), None if lasts is None else at(since + lasts), seasonal),
        st.integers(1, 5), hours, st.none() | st.integers(1, 20), st.booleans(),
    ),
    max_size=6,
)  # fmt: skip


@given(stretches)
def test_between_two_boundaries_one_take_plays(some: list[Stretch]) -> None:
    """Against looking at every quarter of an hour."""
    edges = [at(0), *boundaries(some, at(0), at(80)), at(80)]
    for quarter in range(80 * 4):
        moment = at(quarter / 4)
        began = max(edge for edge in edges if edge <= moment)
        assert playing(some, moment) == playing(some, began)
    found = [playing(some, edge) for edge in edges[:-1]]
    assert all(one != other for one, other in pairwise(found))
