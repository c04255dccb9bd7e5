"""So many calls a week to learn from, spread over people and hours."""

from collections import Counter
from random import Random

from hypothesis import given
from hypothesis import strategies as st

from vokari.core.calls.learning import HOUR_PART, Kept, is_recorded

WEEKS = 300
TAKES = {"ada": 40, "ben": 20, "cleo": 12}
"""Calls that each takes a week."""


@given(
    st.integers(1, 20), st.integers(1, 6), st.integers(0, 2**16),
    st.lists(st.tuples(st.sampled_from("abcdef"), st.integers(0, 23)), max_size=200),
)  # fmt: skip
def test_there_are_never_more_than_so_many_a_week_and_nobody_has_more_than_a_part(
    per_week: int, people: int, seed: int, calls: list[tuple[str, int]]
) -> None:
    chance, kept = Random(seed), Kept()
    for who, hour in calls:
        if is_recorded(per_week, who, hour, kept, people, chance.choice([0.0, 1.0, 9.0]), chance.random()):
            kept = kept.and_this(who, hour)
    assert kept.total <= per_week
    assert all(count <= -(-per_week // people) for count in kept.people.values())
    assert all(count <= -(-per_week // HOUR_PART) for count in kept.hours.values())


def test_recordings_are_spread_evenly_over_people_and_over_their_hours() -> None:
    """Pearson's chi-square over people: 9.21 is its value at 2 degrees of freedom and 1% (the usual table, from memory); 16.8 at
    6. Six a week, of three people who take unlike numbers of calls."""
    chance = Random(7)
    by_person, by_hour = Counter[str](), Counter[int]()
    for _ in range(WEEKS):
        calls = [(who, chance.randrange(9, 16)) for who, takes in TAKES.items() for _ in range(takes)]
        chance.shuffle(calls)
        kept, left = Kept(), dict(TAKES)
        for who, hour in calls:
            if is_recorded(6, who, hour, kept, 3, float(left[who]), chance.random()):
                kept = kept.and_this(who, hour)
                by_hour[hour] += 1
            left[who] -= 1
        by_person.update(kept.people)
    total = sum(by_person.values())
    assert total > WEEKS * 6 * 0.95, "the week’s number is nearly always reached"
    assert sum((by_person[who] - total / 3) ** 2 / (total / 3) for who in TAKES) < 9.21
    assert sum((by_hour[hour] - total / 7) ** 2 / (total / 7) for hour in range(9, 16)) < 16.8
