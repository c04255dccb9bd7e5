"""Shares of callers and their past."""

from collections import Counter
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.callers.past import CAME_TO, EarlierCall, Past
from vokari.core.callers.shares import hundredth

NOW = datetime(2026, 11, 24, 17, tzinfo=UTC)
SECRET = b"of one client" * 3


def test_shares_are_even_over_a_hundred_thousand_callers() -> None:
    """Pearson's chi-square test with 99 degrees of freedom: above 148.23 in one of 1,000 samples of even shares (the usual table)."""
    counts = Counter(hundredth(SECRET, f"+1410{n:07}", "j1") for n in range(100_000))
    chi = sum((counts[one] - 1000) ** 2 / 1000 for one in range(100))
    assert chi < 148.23
    both = Counter(
        (hundredth(SECRET, f"+1410{n:07}", "j1") < 50, hundredth(SECRET, f"+1410{n:07}", "j2") < 50)
        for n in range(20_000)
    )
    chi = sum((both[a, b] - 5000) ** 2 / 5000 for a in (True, False) for b in (True, False))
    assert chi < 16.27, "two splits have nothing to do with each other (3 degrees of freedom, 1 in 1,000)"


@given(st.from_regex(r"\+[1-9]\d{6,14}", fullmatch=True), st.text(max_size=12))
def test_the_same_caller_falls_the_same_way_always(caller: str, split: str) -> None:
    first = hundredth(SECRET, caller, split)
    assert 0 <= first < 100
    assert {hundredth(SECRET, caller, split) for _ in range(3)} == {first}


calls = st.lists(
    st.tuples(st.integers(1, 5000), st.sampled_from(CAME_TO), st.sampled_from(["", "ada", "ben"])), max_size=8
).map(lambda raw: [EarlierCall(NOW - timedelta(hours=ago), fate, who) for ago, fate, who in sorted(raw)])


@given(
    calls, st.integers(1, 4), st.one_of(st.none(), st.integers(1, 5000)), st.lists(st.sampled_from(CAME_TO), max_size=2)
)
def test_a_past_is_counted(earlier: list[EarlierCall], often: int, hours: int | None, fates: list[str]) -> None:
    past = Past(NOW, earlier)
    near = [one for one in earlier if hours is None or NOW - one.at <= timedelta(hours=hours)]
    assert past.called(often, hours, fates) is (len([one for one in near if not fates or one.fate in fates]) >= often)
    assert past.last_call(hours, fates) is (bool(near) and near[0].fate in fates)
    spoke = [one.spoke_with for one in near if one.spoke_with]
    assert past.last_spoke_with(["ada"], hours) is (spoke[:1] == ["ada"])
    unknown = Past(NOW, earlier, known=False)
    assert {
        unknown.called(often, hours, fates),
        unknown.last_call(hours, fates),
        unknown.last_spoke_with(["ada"], hours),
    } == {None}
