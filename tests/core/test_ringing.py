"""Who is rung and in what order: strategies, turns, shares, rotas, availability; and the formulas of load."""

from collections import Counter
from collections.abc import Collection
from datetime import UTC, date, datetime, timedelta
from fractions import Fraction
from random import Random
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import document, ring, voicemail
from tests.hours import closed, hours
from vokari.core.flows import engine, events, questions, state
from vokari.core.flows.findings import Surroundings, findings
from vokari.core.flows.questions import CanBeRung, LineUp
from vokari.core.flows.steps import Ring
from vokari.core.hours.timetable import Timetable
from vokari.core.ringing import erlang, phonechecks, shares, uses
from vokari.core.ringing.directory import Person, Ramp, Rota, Team
from vokari.core.ringing.lineup import MOST_AT_ONCE, Around, Duty, Turns, circle, line_up, rounds_of, rung_now, state_of

NEW_YORK = ZoneInfo("America/New_York")
NOON = datetime(2026, 11, 24, 17, tzinfo=UTC)
"""A Tuesday noon in New York."""


def number(n: int) -> str:
    return f"+14105550{160 + n}"


def person(name: str, n: int, **more: Any) -> Person:
    return Person.model_validate({"name": name, "phones": [{"id": "desk", "to": number(n)}], **more})


PEOPLE = {key: person(key.title(), n) for n, key in enumerate(("ada", "ben", "cleo", "dee"))}


def team(*members: str | dict[str, Any], **more: Any) -> Team:
    rows = [one if isinstance(one, dict) else {"person": one} for one in members]
    return Team.model_validate({"name": "Yard", "members": rows, **more})


class World:
    """A client whose turns are kept from call to call."""

    def __init__(self, *, busy: Collection[str] = (), **teams: Team) -> None:
        self.turns: dict[str, Turns] = {}
        self.around = Around(
            NOON, NEW_YORK, {}.get, lambda numbers: set(numbers) & set(busy), dict(PEOPLE), teams,
            turns=lambda key: self.turns.get(key, Turns()), take=self.turns.__setitem__,
        )  # fmt: skip

    def rung(self, step: Ring | None = None, round_: int = 1) -> list[list[str]]:
        return [[one.who for one in wave] for wave in self.answer(step, round_)[0]]

    def answer(self, step: Ring | None = None, round_: int = 1) -> questions.LineUpAnswer:
        return rung_now(step or of_team("yard"), "step", round_, self.around)

    def first(self) -> str:
        return self.rung()[0][0]


def of_team(key: str, **more: Any) -> Ring:
    return Ring.model_validate({"id": "r", "to": [{"kind": "team", "id": "t", "team": key}], **more})


# strategies


def test_in_order_and_all_at_once() -> None:
    assert World(yard=team("ada", "ben")).rung() == [["ada"], ["ben"]]
    assert World(yard=team("ada", "ben", strategy="all_at_once")).rung() == [["ada", "ben"]]


def test_a_person_with_several_phones_is_rung_at_one_after_the_other() -> None:
    world = World(yard=team("ada", "ben", strategy="all_at_once"))
    two = [
        {"id": "desk", "to": number(7), "seconds": 12},
        {"id": "off", "to": number(8), "on": False},
        {"id": "mobile", "to": number(9)},
    ]
    world.around.people = {**PEOPLE, "ada": Person.model_validate({"name": "Ada", "phones": two})}
    waves = world.answer()[0]
    assert [[(one.to, one.seconds) for one in wave] for wave in waves] == [
        [(number(7), 12), (number(1), 20)], [(number(9), 20)]
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


# teams and people that cannot be


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        ({"members": [{"person": "ada"}, {"person": "ada"}]}, "in this team twice"),
        ({"strategy": "weighted_share", "members": [{"person": "ada", "weight": 0}]}, "every share is zero"),
        ({"strategy": "rota", "members": [{"person": "ada"}]}, "a rota needs its first day"),
        ({"rounds": 11}, "less than or equal to 10"),
    ],
)
def test_teams_that_cannot_be_are_refused(raw: dict[str, Any], says: str) -> None:
    with pytest.raises(ValueError, match=says):
        Team.model_validate({"name": "Yard", **raw})


@pytest.mark.parametrize(
    ("typed", "country", "says"),
    [
        ("911", "US", "emergency number"), ("112", "GB", "emergency number"), ("999", "GB", "emergency number"),
        ("900 234 5678", "US", "premium number"), ("0909 879 1234", "GB", "premium number"), ("410 555 01", "US", "too few digits"),
        ("410 555 0142", "US", "our own tracking numbers"), ("sip:", "US", "SIP address looks like"),
        ("sip:dana@phones..example.com", "US", "SIP address looks like"), ("sip:dana@phones.example.com:5060", "US", ""), ("nobody", "US", "digits only"),
    ],
)  # fmt: skip
def test_phones_that_cannot_be_rung_are_refused_with_the_reason(typed: str, country: str, says: str) -> None:
    """Emergency and premium numbers by the metadata of the phonenumbers package."""
    read = phonechecks.check(typed, country, {"+14105550142"})
    if says:
        assert says in getattr(read, "sentence", ""), read
    else:
        assert isinstance(read, phonechecks.Checked)


def test_a_phone_abroad_asks_once_and_others_do_not() -> None:
    abroad = phonechecks.check("+44 20 7946 0630", "US", ())
    assert isinstance(abroad, phonechecks.Checked)
    assert "another country (GB)" in abroad.asks
    assert phonechecks.check("020 7946 0630", "GB", ()) == phonechecks.Checked("+442079460630")


def test_findings_of_whom_a_flow_rings() -> None:
    flow = document(ring("r", no_answer="vm", name="Yard"), voicemail(), rescue="vm")
    boxes = {"mb": True}

    def kinds(to: dict[str, Any], people: dict[str, Person], **teams: Team) -> list[str]:
        step = {**ring("r", no_answer="vm", name="Yard", machine_detection=True), "to": [{"id": "d", **to}]}
        doc = document(step, voicemail(), rescue="vm")
        around = Surroundings(boxes, (), [number(3)], people=people, teams=teams)
        return [one.kind for one in findings(doc, around)]

    yard = {"kind": "team", "team": "yard"}
    assert [one.kind for one in findings(flow, Surroundings(boxes, ()))] == ["rings_nobody"]
    assert kinds(yard, PEOPLE) == ["gone"]
    assert kinds(yard, {}, yard=team("ada")) == ["empty_team"]
    assert kinds(yard, PEOPLE, yard=team("ada", then="yard")) == ["circle"]
    assert kinds(yard, PEOPLE, yard=team("ada", "dee")) == ["rings_itself"]
    assert kinds({"kind": "person", "person": "ada"}, {"ada": Person(name="Ada")}) == ["no_phone"]
    assert kinds(yard, PEOPLE, yard=team("ada")) == []


def test_replacing_somebody_changes_each_step_once() -> None:
    step = {
        **ring("r", no_answer="vm"),
        "to": [{"kind": "person", "id": "d1", "person": "ada"}, {"kind": "person", "id": "d2", "person": "ben"}],
    }
    flow = document(step, ring("q", no_answer="vm"), voicemail(), rescue="vm")
    (changed,) = uses.replaced(flow, "ada", "ben")
    assert isinstance(changed, Ring)
    assert [getattr(one, "person", "") for one in changed.to] == ["ben"]
    shown = uses.named(flow, {"ada": "Ada Lund"})
    assert [getattr(one, "name", "") for one in getattr(shown.step("r"), "to", ())] == [
        "Ada Lund",
        "somebody who is gone",
    ]


# the engine


def test_a_line_up_is_rung_wave_by_wave_and_its_exits_follow() -> None:
    world = World(busy=[number(2)], yard=team("ada", "ben", "cleo"))
    flow = engine.prepare(
        document(
            {**ring("r", no_answer="vm"), "to": [{"kind": "team", "id": "t", "team": "yard"}]}, voicemail(), rescue="vm"
        )
    )
    step = flow.steps["r"]
    assert isinstance(step, Ring)
    asked: list[object] = []

    def source(question: questions.Question) -> questions.Answer:
        answer: questions.Answer
        if isinstance(question, CanBeRung):
            answer = tuple(state_of(one, step, world.around) for one in question.phones)
        else:
            assert isinstance(question, LineUp)
            answer = line_up(step, "step", question.round, world.around)
            asked.append(question)
        assert question.fits(answer)
        assert questions.load(questions.dump({question: answer})) == {question: answer}
        return answer

    following, answers = engine.run(flow, state.State(), events.Arrived(), source)
    rung = following.commands[0]
    assert (rung.destination.dialed, rung.destination.name) == (number(0), "Ada")
    assert state.load(state.dump(following.state)) == following.state
    following, _ = engine.run(flow, following.state, events.Leg(rung.id, "rang_out"), source)
    second = following.commands[0]
    assert second.destination.dialed == number(1)
    done, _ = engine.run(flow, following.state, events.Leg(second.id, "answered"), source)
    assert (done.state.phase, done.state.talking_to) == ("talking", "ben")
    lost, _ = engine.run(flow, following.state, events.Leg(second.id, "rang_out"), source)
    assert lost.state.at == "vm"
    assert len(asked) == 1
    assert [type(one) for one in answers] == [LineUp, CanBeRung]


def test_every_class_of_line_up_leads_somewhere() -> None:
    flow = engine.prepare(
        document(
            {**ring("r", no_answer="vm"), "to": [{"kind": "team", "id": "t", "team": "yard"}]}, voicemail(), rescue="vm"
        )
    )
    for answer in LineUp("r", 1).classes():
        following, _ = engine.run(
            flow,
            state.State(),
            events.Arrived(),
            lambda question, answer=answer: (
                answer if isinstance(question, LineUp) else ("free",) * len(question.phones)
            ),
        )
        assert following.state.phase == ("ringing" if answer[0] else "greeting")


# load


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


def test_a_rota_of_days_and_one_of_weeks_begin_where_they_say() -> None:
    assert Rota(unit="week", first=date(2026, 11, 23)).turn(date(2026, 11, 22)) == -1
    assert Rota(unit="day", first=date(2026, 11, 23)).turn(date(2026, 11, 30)) == 7


@given(
    st.lists(st.sampled_from(["free", "on_call", "off"]), min_size=1, max_size=4),
    st.lists(st.sampled_from(["rang_out", "busy", "unreachable", "declined"]), min_size=4, max_size=4),
    st.sampled_from(["in_order", "all_at_once", "round_robin", "longest_idle", "random"]),
)
def test_the_exit_of_a_team_follows_the_rule_whoever_of_it_is_free(
    states: list[str], outcomes: list[str], strategy: str
) -> None:
    """product.md, Ring: all off duty: nobody available; else any rang out or declined: no answer; else any busy or on a
    call: busy, also those of a team of whom others were rung; else unreachable. The rule read out anew."""
    keys = list(PEOPLE)[: len(states)]
    world = World(
        busy=[number(n) for n, one in enumerate(states) if one == "on_call"], yard=team(*keys, strategy=strategy)
    )
    world.around.duty = lambda key: Duty(off=states[keys.index(key)] == "off")
    ways = {name: name for name in ("no_answer", "busy", "unreachable", "nobody")}
    says = [{"kind": "announcement", "id": name, "prompt": {"say": name}, "next": "end"} for name in ways]
    step = {**ring("r"), **ways, "to": [{"kind": "team", "id": "t", "team": "yard"}]}
    flow = engine.prepare(document(step, *says))
    here = flow.steps["r"]
    assert isinstance(here, Ring)

    def source(question: questions.Question) -> questions.Answer:
        if isinstance(question, CanBeRung):
            return tuple(state_of(one, here, world.around) for one in question.phones)
        assert isinstance(question, LineUp)
        return line_up(here, "step", question.round, world.around)

    now = engine.run(flow, state.State(), events.Arrived(), source)[0].state
    rung = set()
    while now.at == "r":
        assert now.ring is not None
        leg = now.ring.legs[0]
        assert leg.rung is not None
        assert states[keys.index(leg.rung.who)] == "free"
        rung.add(leg.rung.who)
        outcome: Any = outcomes[keys.index(leg.rung.who)]
        now = engine.run(flow, now, events.Leg(leg.command, outcome), source)[0].state
    assert rung == {key for key, one in zip(keys, states, strict=True) if one == "free"}
    came = {outcomes[keys.index(key)] for key in rung}
    if not rung and "on_call" not in states:
        expected = "nobody"
    elif came & {"rang_out", "declined"}:
        expected = "no_answer"
    elif "busy" in came or "on_call" in states:
        expected = "busy"
    else:
        expected = "unreachable"
    assert now.at == expected
