"""What makes a number easy to remember, how several are chosen, how they are named, and when silence is news."""

import itertools
import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from vokari.core.numbers import choosing, memorable, naming, silence

ends = st.integers(0, 9999).map(lambda n: f"+1410555{n:04d}")


def reasons(end: str) -> list[str]:
    return [one.reason for one in memorable.patterns(f"+1410555{end}") if one.weight >= memorable.WORTH_TELLING]


@pytest.mark.parametrize(
    ("end", "reason"),
    [
        ("0111", "ends in three 1s"), ("7777", "ends in four 7s"), ("0123", "0123 counts up"), ("9876", "9876 counts down"),
        ("4747", "47 twice"), ("3388", "33 and 88"), ("2112", "2112 reads the same both ways"), ("0105", "50105 reads the same both ways, 5-0105"),
        ("1555", "5551555 reads the same both ways, 555-1555"), ("4000", "a round 000"), ("0100", "a round 100"),
    ],
)  # fmt: skip
def test_patterns_people_remember_are_found_with_their_reason(end: str, reason: str) -> None:
    assert reason in reasons(end)


def test_plain_numbers_have_no_reason_and_strong_patterns_come_first() -> None:
    assert reasons("0847") == []
    by_score = sorted(("0847", "0110", "0123", "7777", "0150"), key=lambda end: -memorable.score(f"+1410555{end}"))
    assert by_score[0] == "7777"
    assert by_score[-1] in ("0847", "0150")


@given(ends)
def test_a_palindrome_is_one_and_a_run_is_one(e164: str) -> None:
    for one in memorable.patterns(e164):
        digits = one.reason.split()[0]
        assert 1 <= one.weight <= 100
        if one.kind == "palindrome":
            assert digits == digits[::-1]
            assert e164.endswith(digits)
        if one.kind == "run":
            steps = {int(b) - int(a) for a, b in itertools.pairwise(digits)}
            assert steps in ({1}, {-1})
            assert digits in e164[-7:]


def brute_confusable(first: str, second: str) -> bool:
    """One digit changed, or two neighbours exchanged."""
    one_changed = {
        first[:i] + digit + first[i + 1 :] for i in range(len(first)) for digit in "0123456789" if digit != first[i]
    }
    swapped = {
        first[:i] + first[i + 1] + first[i] + first[i + 2 :] for i in range(len(first) - 1) if first[i] != first[i + 1]
    }
    return second in one_changed | swapped


@given(ends, ends)
def test_confusable_means_a_slip_away(first: str, second: str) -> None:
    assert choosing.confusable(first[1:], second[1:]) == brute_confusable(first[1:], second[1:])
    assert choosing.confusable(first, second) == choosing.confusable(second, first)
    assert choosing.confusable(first, second) == (second in set(choosing.slips(first)))


def test_hundreds_are_chosen_out_of_thousands() -> None:
    chosen = choosing.choose(
        [f"+44808157{n:04d}" for n in range(2000)], 500, "unlike", [f"+44207946{n:04d}" for n in range(500)]
    )
    assert len({one.e164 for one in chosen}) == 500
    assert [one.doubtful for one in chosen] == sorted(one.doubtful for one in chosen), "the clear ones come first"


@given(st.sets(ends, min_size=1, max_size=25), st.integers(1, 8), st.sets(ends, max_size=4))
def test_numbers_chosen_unlike_are_a_slip_apart_or_say_so(free: set[str], count: int, others: set[str]) -> None:
    free -= others
    assume(free)
    chosen = choosing.choose(free, count, "unlike", others)
    assert len({one.e164 for one in chosen}) == len(chosen) == min(count, len(free))
    known = set(others)
    for one in chosen:
        assert one.e164 in free
        assert one.doubtful == any(choosing.confusable(one.e164, other) for other in known)
        known.add(one.e164)


@given(st.sets(ends, min_size=1, max_size=25), st.integers(1, 8))
def test_numbers_chosen_alike_lie_closest_together(free: set[str], count: int) -> None:
    chosen = sorted(int(one.e164) for one in choosing.choose(free, count, "alike"))
    ordered = sorted(int(one) for one in free)
    spans = [ordered[i + len(chosen) - 1] - ordered[i] for i in range(len(ordered) - len(chosen) + 1)]
    assert chosen[-1] - chosen[0] == min(spans)


FACTS = {"place": "Annapolis", "source": "Search advert", "campaign": "spring lifts", "end": "0142", "medium": ""}


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{place}, {source}, {campaign}", "Annapolis, Search advert, spring lifts"),
        ("{medium}: {source}", "Search advert"),
        ("{source} / {medium} / {end}", "Search advert / 0142"),
        ("No. {end} ({place})", "No. 0142 (Annapolis)"),
        ("{medium}", ""),
        ("", ""),
    ],
)
def test_a_name_is_made_of_what_is_known(pattern: str, name: str) -> None:
    assert naming.fill(pattern, FACTS) == name
    assert naming.problem_of(pattern) == ""


@given(st.text("{}abc, -", max_size=30), st.dictionaries(st.sampled_from(list(naming.FIELDS)), st.text(max_size=50)))
def test_any_pattern_gives_a_short_name_or_a_sentence(pattern: str, facts: dict[str, str]) -> None:
    assert len(naming.fill(pattern, facts)) <= naming.LONGEST
    name = naming.fill(pattern, facts)
    assert not naming.strays(name, pattern, facts) or not name


def test_a_name_that_is_taken_gets_the_last_digits() -> None:
    assert naming.unique("Yard", "0142", ["yard", "Dock"]) == "Yard (0142)"
    assert naming.unique("Yard", "0142", ["Dock"]) == "Yard"
    long = naming.unique("x" * 80, "0142", ["x" * 80])
    assert long.endswith("(0142)")
    assert len(long) <= naming.LONGEST


def poisson_of_none(rate: float, days: float) -> float:
    """The chance of no call, by the limit that defines it: very many short stretches without one each."""
    stretches = 2_000_000
    return float((1 - rate * days / stretches) ** stretches)


@given(st.integers(4, 400), st.integers(28, 120), st.integers(1, 60))
def test_the_chance_of_a_silence_is_that_of_the_poisson_process(calls: int, before: int, silent: int) -> None:
    found = silence.judge(calls, before, silent)
    chance = poisson_of_none(calls / before, silent)
    if found:
        assert found.chance == pytest.approx(chance, rel=1e-2, abs=1e-12)
        assert found.expected == pytest.approx(calls / before * silent)
    else:
        assert chance >= silence.RARE * 0.99 or math.isclose(chance, silence.RARE, rel_tol=0.02)


def test_a_short_past_or_a_rare_caller_says_nothing() -> None:
    assert silence.judge(100, 20, 30) is None
    assert silence.judge(3, 90, 90) is None
    assert silence.judge(90, 90, 5) is None
    found = silence.judge(90, 90, 12)
    assert found is not None
    assert found.words == (
        "silent for 12 days; at its usual 1.0 calls a day about 12 calls would have come, and the odds of none are"
        " about one in 160,000"
    )
