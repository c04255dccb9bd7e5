"""Who is rung and in what order: strategies, turns, shares, rotas, availability."""

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from fractions import Fraction
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.hours import closed, hours
from tests.staff import NEW_YORK, NOON, PEOPLE, World, number, of_team, person, team
from vokari.core.flows.model.steps import Ring
from vokari.core.hours.timetable import Timetable
from vokari.core.people import shares
from vokari.core.people.directory import Person, Ramp, Rota
from vokari.core.people.line_up import MOST_AT_ONCE, Duty, circle, rounds_of

# strategies


def test_in_order_and_all_at_once() -> None:
    assert World(yard=team("ada", "ben")).rung() == [["ada"], ["ben"]]
    assert World(yard=team("ada", "ben", strategy="all_at_once")).rung() == [["ada", "ben"]]


def test_a_person_with_several_phones_is_rung_at_one_after_the_other() -> None:
    world = World(yard=team("ada", "ben", strategy="all_at_once"))
    two = [
        {"id": "desk", "to": number(7), "seconds": 12},
        {"id": "off", "to": number(8), "aside_until": "2026-12-25"},
        {"id": "mobile", "to": number(9)},
    ]
    world.around.people = {**PEOPLE, "ada": Person.model_validate({"name": "Ada", "phones": two})}
    waves = world.answer()[0]
    assert [[(one.to, one.seconds) for one in wave] for wave in waves] == [
        [(number(7), 12), (number(1), 18)], [(number(9), 18)]
    ]  # fmt: skip


def test_each_call_starts_with_the_one_after_the_one_that_the_last_rang_first() -> None:
    """product.md: round robin starts each call with the one after the one that the last call rang first."""
    world = World(yard=team("ada", "ben", "cleo", strategy="round_robin"))
    assert [world.first() for _ in range(7)] == ["ada", "ben", "cleo", "ada", "ben", "cleo", "ada"]
    assert world.rung() == [["ben"], ["cleo"], ["ada"]]


def test_turns_pass_over_those_who_are_not_there() -> None:
    world = World(busy=[number(1)], yard=team("ada", "ben", "cleo", strategy="round_robin"))
    assert [world.first() for _ in range(4)] == ["ada", "cleo", "ada", "cleo"]
    assert world.answer()[1] == ("on_call",), "who is on a call counts as busy, though others of the team are rung"


def test_a_second_round_takes_no_turn() -> None:
    world = World(yard=team("ada", "ben", strategy="round_robin", rounds=2))
    step = of_team("yard")
    assert world.answer(step, 1)[2] is True
    assert world.rung(step, 2) == [["ada"], ["ben"]]
    assert world.answer(step, 2)[2] is False
    assert world.first() == "ben"


def test_longest_idle_comes_first_and_whoever_never_took_a_call_before_them() -> None:
    world = World(yard=team("ada", "ben", "cleo", strategy="longest_idle"))
    idle = {"ada": NOON - timedelta(minutes=5), "ben": NOON - timedelta(hours=1)}
    world.around.duty = lambda key: Duty(idle_since=idle.get(key))
    assert world.rung() == [["cleo"], ["ben"], ["ada"]]


def test_random_is_fair_by_chi_square() -> None:
    """6,000 draws over four people: the 99.9% point of chi-square with three degrees of freedom is 16.27 (from memory, any
    handbook's table)."""
    world = World(yard=team(*PEOPLE, strategy="random"))
    world.around.chooser = Random(11)
    found = Counter(world.first() for _ in range(6000))
    assert sum((found[key] - 1500) ** 2 / 1500 for key in PEOPLE) < 16.27


@pytest.mark.parametrize(
    ("unit", "on", "first"),
    [
        ("week", "2026-11-23", "ada"), ("week", "2026-11-29", "ada"), ("week", "2026-11-30", "ben"), ("week", "2026-12-21", "ben"),
        ("week", "2026-12-14", "cleo"), ("week", "2026-11-16", "cleo"), ("day", "2026-11-23", "ada"), ("day", "2026-11-25", "cleo"),
    ],
)  # fmt: skip
def test_a_rota_says_whose_day_or_week_it_is(unit: str, on: str, first: str) -> None:
    rota = {
        "unit": unit,
        "first": "2026-11-23",
        "swaps": [{"on": "2026-12-16", "person": "ada"}, {"on": "2026-12-17", "person": "cleo"}],
    }
    world = World(yard=team("ada", "ben", "cleo", strategy="rota", rota=rota))
    day = date.fromisoformat(on)
    world.around.at = datetime(day.year, day.month, day.day, 17, tzinfo=UTC)
    assert world.first() == first
    assert sorted(one for wave in world.rung() for one in wave) == ["ada", "ben", "cleo"]


def test_the_team_behind_is_tried_when_the_rounds_are_over_or_nobody_is_there() -> None:
    teams = {
        "yard": team("ada", rounds=2, then="duty"),
        "duty": team("ben", then="last"),
        "last": team("cleo", then="yard"),
    }
    world = World(**teams)
    assert rounds_of("yard", teams) == 2
    assert world.rung(round_=1) == [["ada"]]
    assert world.rung(round_=2) == [["ada"], ["ben"], ["cleo"]]
    assert World(busy=[number(0)], **teams).rung(round_=1) == [["ben"], ["cleo"]]
    assert circle("yard", teams) == ["yard", "duty", "last"]
    assert circle("duty", {**teams, "last": team("cleo")}) == []


# who is there


def test_nobody_is_rung_who_is_off_away_or_has_had_enough() -> None:
    world = World(yard=team("ada", {"person": "ben", "hours": "h_late"}, "cleo", "dee", "gone"))
    world.around.people |= {
        "cleo": person("Cleo", 2, leave=[{"first": "2026-11-20", "last": "2026-11-24"}]),
        "dee": person("Dee", 3, daily_limit=4, hours="h_day"),
    }
    day = Timetable(hours(desk="Mon-Fri 9-17"), NEW_YORK)
    late = Timetable(hours(desk="Mon-Fri 17-22"), NEW_YORK)
    world.around.tables = {"h_day": day, "h_late": late}.get
    known = {"ada": Duty(off=True), "dee": Duty(taken_today=3)}
    world.around.duty = lambda key: known.get(key, Duty())
    assert world.rung() == [["dee"]]
    known["dee"] = Duty(taken_today=4)
    assert world.answer() == ((), ("off",), False)
    known["dee"], known["ada"] = Duty(), Duty(on_call=True)
    world.around.at = NOON + timedelta(hours=8)
    assert world.rung() == [["ben"]]


def test_a_step_says_who_is_busy_and_who_is_off() -> None:
    world = World(busy=[number(0), number(5)])
    to = [
        {"kind": "person", "id": "d1", "person": "ada"}, {"kind": "number", "id": "d2", "number": number(6), "hours": "h_shut"},
        {"kind": "number", "id": "d3", "number": number(5)}, {"kind": "sip", "id": "d4", "address": "sip:yard@phones.example.com"},
    ]  # fmt: skip
    world.around.tables = {"h_shut": Timetable(hours(closed("2026-11-24"), desk="Daily 0-24"), NEW_YORK)}.get
    step = Ring.model_validate({"id": "r", "to": to, "strategy": "random"})
    waves, states, more = world.answer(step)
    assert [[one.to for one in wave] for wave in waves] == [["sip:yard@phones.example.com"]]
    assert (states, more) == (("off", "on_call"), False)


def test_the_carrier_rings_no_more_at_once_than_it_can() -> None:
    many = {
        f"p{n}": Person.model_validate({"name": f"P{n}", "phones": [{"id": "a", "to": f"+1410555{n:04d}"}]})
        for n in range(70)
    }
    world = World(yard=team(*many, strategy="all_at_once"))
    world.around.people = many
    assert [len(wave) for wave in world.rung()] == [MOST_AT_ONCE, MOST_AT_ONCE, 10]


# shares

_weights = st.dictionaries(st.sampled_from("abcdefgh"), st.integers(1, 40), min_size=1, max_size=8)


@given(_weights, st.integers(1, 220))
def test_after_any_n_calls_nobody_is_a_whole_call_away_from_their_share(weights: dict[str, int], calls: int) -> None:
    """R. Tijdeman, "The chairman assignment problem" (1980): at most 1 - 1 / (2k - 2) away, after each call."""
    parts = {key: Fraction(weight) for key, weight in weights.items()}
    whole, counts = sum(parts.values()), Counter[str]()
    bound = 1 - Fraction(1, 2 * len(parts) - 2) if len(parts) > 1 else Fraction(0)
    for n in range(1, calls + 1):
        turn = shares.next_turn(parts, counts)
        assert turn is not None
        counts[turn] += 1
        assert all(abs(counts[key] - n * part / whole) <= bound for key, part in parts.items())


def test_a_worked_example_of_shares() -> None:
    """Weights 3, 2, 1: in six calls each has exactly their share, and the order never depends on anything else."""
    world = World(
        yard=team(
            {"person": "ada", "weight": 3},
            {"person": "ben", "weight": 2},
            "cleo",
            {"person": "dee", "weight": 0},
            strategy="weighted_share",
        )
    )
    found = [world.first() for _ in range(12)]
    assert Counter(found) == {"ada": 6, "ben": 4, "cleo": 2}
    assert found[:6] == found[6:]
    assert "dee" not in [one for wave in world.rung() for one in wave], "a share of nothing is never rung"


def test_shares_go_on_where_they_were_when_somebody_comes_back() -> None:
    busy: set[str] = set()
    world = World(busy=busy, yard=team({"person": "ada", "weight": 3}, "ben", "cleo", strategy="weighted_share"))
    world.around.busy = lambda numbers: set(numbers) & busy
    whole: list[str] = []
    for n in range(50):
        busy.clear()
        if n % 3 == 0:
            busy.add(number(1))
        first = world.first()
        if not busy:
            whole.append(first)
    counts = Counter(whole)
    assert all(
        abs(counts[key] - len(whole) * Fraction(part, 5)) < 1 for key, part in (("ada", 3), ("ben", 1), ("cleo", 1))
    )


def test_the_share_of_a_new_colleague_grows() -> None:
    ramp = Ramp(first=date(2026, 11, 2), weeks=3)
    weeks = [ramp.part(date(2026, 11, 2) + timedelta(weeks=n)) for n in range(-1, 5)]
    assert weeks == [Fraction(1, 4), Fraction(1, 4), Fraction(1, 2), Fraction(3, 4), 1, 1]


def test_a_rota_of_days_and_one_of_weeks_begin_where_they_say() -> None:
    assert Rota(unit="week", first=date(2026, 11, 23)).turn(date(2026, 11, 22)) == -1
    assert Rota(unit="day", first=date(2026, 11, 23)).turn(date(2026, 11, 30)) == 7
