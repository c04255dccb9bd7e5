"""The Junction: conditions on hours and dates, how they are typed, what is wrong with them, and own times of phones."""

from datetime import UTC, datetime, timedelta
from itertools import product
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.flows import DANA, JOEL, Talk, document, menu, phone, ring, say, voicemail
from tests.hours import closed, day, hours
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.conditions import tests as conditions
from vokari.core.flows.conditions.base import HoursNames, Names, Told
from vokari.core.flows.drafting import typed_conditions
from vokari.core.flows.drafting.edits import AddStep, Applied, SetStep, apply
from vokari.core.flows.model.condition import Condition
from vokari.core.flows.model.dates import in_ranges
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import Junction
from vokari.core.flows.model.walks import names_in
from vokari.core.flows.questions import kinds as questions
from vokari.core.flows.questions import stored as answers_stored
from vokari.core.flows.questions.knowledge import Knowledge
from vokari.core.flows.running import engine
from vokari.core.flows.running.answering import answer_source
from vokari.core.flows.running.commands import RingLeg
from vokari.core.flows.running.events import Arrived
from vokari.core.flows.running.state import State
from vokari.core.flows.shown.outline import outline
from vokari.core.flows.shown.words import summary
from vokari.core.hours.timetable import Timetable
from vokari.core.proof.times import Asked, Times

ZONE = ZoneInfo("America/New_York")
NAMES = Names(
    {
        "yard": HoursNames("Yard", {"desk": "Front desk", "shop": "Workshop"}),
        "own": HoursNames("Dana", {"d": "On duty"}),
    }
)
NOON = datetime(2026, 11, 24, 17, tzinfo=UTC)


def junction(*branches: tuple[dict[str, Any], str | None], otherwise: str | None = None, **more: Any) -> dict[str, Any]:
    ways = [{"id": f"b{n}", "when": when, "to": to} for n, (when, to) in enumerate(branches)]
    return {"kind": "junction", "id": "j", "branches": ways, "otherwise": otherwise, **more}


def period(*periods: str, of: str = "yard") -> dict[str, Any]:
    return {"test": "period", "of": of, "any_of": periods}


def by_hours(**more: Any) -> FlowDocument:
    return document(
        junction((period("desk"), "r"), (period("shop"), "s"), otherwise="vm", **more),
        ring("r", phone("Dana", DANA), no_answer="vm", machine_detection=True), say("s", "The workshop", "vm"), voicemail(), rescue="vm",
    )  # fmt: skip


YARD = hours(closed("2026-11-26"), desk="Mon-Fri 8-12", shop="Mon-Fri 12-16")


def reached(flow: FlowDocument, local: str, one: Any = YARD) -> str:
    """The step that a call waits in which arrives at a local time."""
    at = datetime.fromisoformat(local).replace(tzinfo=ZONE)
    prepared = engine.prepare(flow)
    table = Timetable(one, ZONE)
    source = answer_source(prepared, at, ZONE, {"yard": table}.get, lambda numbers: ())
    return engine.run(prepared, State(), Arrived(), source)[0].state.at


def test_a_call_takes_the_exit_of_the_period_that_holds() -> None:
    flow = by_hours()
    assert reached(flow, "2026-11-24T09:00") == "r"
    assert reached(flow, "2026-11-24T12:00") == "s"
    assert reached(flow, "2026-11-24T20:00") == "vm"
    assert reached(flow, "2026-11-26T09:00") == "vm", "closed by an exception"


def test_conditions_combine_and_the_first_that_holds_is_taken() -> None:
    not_exception = {"test": "not", "parts": [{"test": "exception", "of": "yard"}]}
    dates = {"test": "dates", "any_of": ["2026-12-01/2026-12-24", "2027-01-02"]}
    flow = document(
        junction(
            ({"test": "all", "parts": [dates, not_exception]}, "r"),
            ({"test": "any", "parts": [{"test": "exception", "of": "yard"}, period("shop")]}, "s"), otherwise="vm",
        ),
        ring("r", phone("Dana", DANA), no_answer="vm"), say("s", "Special", "vm"), voicemail(),
    )  # fmt: skip
    special = hours(closed("2026-12-20", spans=day("10-12")), desk="Mon-Fri 8-12", shop="Mon-Fri 12-16")
    assert reached(flow, "2026-12-02T23:59", special) == "r"
    assert reached(flow, "2026-12-20T11:00", special) == "s"
    assert reached(flow, "2026-11-24T13:00", special) == "s"
    assert reached(flow, "2026-11-24T09:00", special) == "vm"
    assert reached(flow, "2027-01-02T09:00", special) == "r"


def test_hours_that_are_gone_count_as_closed_and_limit_no_phone() -> None:
    flow = document(
        junction((period("desk", of="gone"), "vm"), otherwise="r"),
        ring("r", {**phone("Dana", DANA), "hours": "gone"}, no_answer="vm"), voicemail(),
    )  # fmt: skip
    assert reached(flow, "2026-11-24T09:00") == "r"


def test_a_phone_is_off_duty_outside_its_own_times() -> None:
    flow = document(
        ring("r", {**phone("Dana", DANA), "hours": "yard"}, phone("Joel", JOEL), no_answer="vm", strategy="all_at_once"),
        voicemail(), rescue="vm",
    )  # fmt: skip

    def rung(local: str) -> list[str]:
        at = datetime.fromisoformat(local).replace(tzinfo=ZONE)
        source = answer_source(engine.prepare(flow), at, ZONE, {"yard": Timetable(YARD, ZONE)}.get, lambda numbers: ())
        return [one.destination.name for one in Talk(flow, source).last if isinstance(one, RingLeg)]  # type: ignore[union-attr]

    assert rung("2026-11-24T09:00") == ["Dana", "Joel"]
    assert rung("2026-11-24T20:00") == ["Joel"]


def test_the_answers_of_the_log_come_back_as_they_were() -> None:
    used: questions.Answers = {
        questions.WhatHolds("yard"): ("desk", True), questions.InDates(("2026-12-01/2026-12-24",)): False,
        questions.WhoIsFree("r", 1, ("d1", "d2")): ("free", "off"),
    }  # fmt: skip
    assert answers_stored.load(answers_stored.dump(used)) == used
    for question, answer in used.items():
        assert question.fits(answer)
        assert not question.fits(("desk",))


# words and text


def test_exits_are_called_by_their_period_as_it_is_named_now() -> None:
    shown = conditions.named(by_hours(), NAMES)
    names = [row.exit.name for row in outline(shown) if row.exit]
    assert {"Front desk", "Workshop", "closed"} <= set(names)
    assert summary(shown.steps[0], shown) == "sorts by Front desk, Workshop, closed"
    renamed = Names({"yard": HoursNames("Yard", {"desk": "Reception", "shop": "Workshop"})})
    assert summary(conditions.named(by_hours(), renamed).steps[0], shown) == "sorts by Reception, Workshop, closed"


@pytest.mark.parametrize(
    ("typed", "means"),
    [
        ("Front desk", "Front desk"), ("front desk or workshop", "Front desk or Workshop"), ("closed", "closed"),
        ("Yard: closed", "closed"), ("Dana: closed", "Dana: closed"), ("not exception", "not exception"),
        ("Front desk and not (exception or 2026-12-24)", "Front desk and not (exception or 2026-12-24)"),
        ("2026-12-01 - 2026-12-24, 2026-12-31", "2026-12-01 to 2026-12-24 or 2026-12-31"),
        ("(Front desk or closed) and 2026-12-24", "(Front desk or closed) and 2026-12-24"),
        ("On duty and Front desk or exception", "(On duty and Front desk) or exception"),
    ],
)  # fmt: skip
def test_conditions_are_typed_in_words(typed: str, means: str) -> None:
    read = typed_conditions.read(typed, NAMES)
    assert isinstance(read, Condition), read
    assert typed_conditions.write(read, NAMES) == means
    assert typed_conditions.read(means, NAMES) == read


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "Say when"), ("Attic", "“Attic” is no condition"), ("Front desk Workshop", "is too much"), ("(closed", "not closed"),
        ("2026-02-30", "no days in order"), ("2026-12-24 to 2026-12-01", "no days in order"), ("not", "“Nothing” is no condition"),
        ("x" * 500, "at most 400"), ("(" * 200, "nested too deeply"),
    ],
)  # fmt: skip
def test_conditions_that_cannot_be_read_are_refused_in_words(typed: str, says: str) -> None:
    assert says in str(typed_conditions.read(typed, NAMES))


_leaf = st.one_of(
    st.sampled_from(["desk", "shop", "closed"]).map(lambda one: Condition(test="period", of="yard", any_of=(one,))),
    st.just(Condition(test="exception", of="own")),
    st.sampled_from(["2026-12-24/2026-12-26", "--12-01/--12-31", "--12-28/--01-03", "--02-29"]).map(
        lambda days: Condition(test="dates", any_of=(days,))
    ),
    st.sampled_from(["Mon-Fri 08:00-12:00", "Sat, Sun 00:00-24:00", "Daily 22:00-06:00", "Mon 08:00-12:00; Tue 13:00-24:00"]).map(
        lambda week: Condition(test="times", any_of=(week,))
    ),
)  # fmt: skip
_conditions = st.recursive(
    _leaf,
    lambda inner: st.one_of(
        inner.map(lambda one: Condition(test="not", parts=(one,))),
        st.lists(inner, min_size=2, max_size=3).map(lambda parts: Condition(test="all", parts=tuple(parts))),
        st.lists(inner, min_size=2, max_size=3).map(lambda parts: Condition(test="any", parts=tuple(parts))),
    ),
    max_leaves=6,
)


@given(_conditions, st.sampled_from(["desk", "shop", "closed"]), st.booleans(), st.booleans())
def test_a_condition_written_and_read_again_means_the_same(
    one: Condition, held: str, exceptional: bool, dated: bool
) -> None:
    def ask(question: questions.Question) -> questions.Answer:
        return dated if isinstance(question, questions.InDates | questions.InTimes) else (held, exceptional)

    again = typed_conditions.read(typed_conditions.write(one, NAMES), NAMES)
    assert isinstance(again, Condition), again
    assert conditions.holds(again, Told(ask)) == conditions.holds(one, Told(ask))


# edits and findings


def around(table: Timetable | None = None, **more: Timetable) -> Surroundings:
    tables = {"yard": table or Timetable(YARD, ZONE), **more}
    return Surroundings({"mb": True}, (), (), tables, NOON)


def kinds(flow: FlowDocument, where: Surroundings) -> set[tuple[str, str]]:
    return {(one.kind, one.weight) for one in findings(flow, where)}


def test_a_sound_junction_has_no_findings_and_each_slip_has_one() -> None:
    assert kinds(by_hours(), around()) == set()
    empty = document(junction(otherwise="vm"), voicemail(), rescue="vm")
    assert ("no_branches", "stops") in kinds(empty, around())
    gone = document(junction((period("desk", of="gone"), "vm"), otherwise="vm"), voicemail(), rescue="vm")
    assert ("no_hours", "stops") in kinds(gone, around())
    lost = document(junction((period("attic"), "vm"), otherwise="vm"), voicemail(), rescue="vm")
    assert {("gone_period", "asks"), ("no_exit", "asks")} <= kinds(lost, around())
    twice = document(junction((period("desk"), "vm"), (period("desk"), "vm"), otherwise="vm"), voicemail(), rescue="vm")
    assert ("same_twice", "asks") in kinds(twice, around())
    past = document(
        junction(({"test": "dates", "any_of": ["2026-01-01"]}, "vm"), otherwise="vm"), voicemail(), rescue="vm"
    )
    assert ("past_dates", "advises") in kinds(past, around())
    open_exit = document(junction((period("desk"), None), otherwise="vm"), voicemail(), rescue="vm")
    assert ("open_exit", "stops") in kinds(open_exit, around())


def test_times_in_which_nobody_can_be_rung_are_found() -> None:
    own = Timetable(hours(desk="Mon-Thu 8-12"), ZONE)
    flow = document(
        junction((period("desk"), "r"), otherwise="vm"), ring("r", {**phone("Dana", DANA), "hours": "own"}, no_answer="vm"),
        voicemail(), rescue="vm",
    )  # fmt: skip
    sentences = [one.sentence for one in findings(flow, around(own=own)) if one.kind == "uncovered"]
    assert sentences == [
        "Nobody of “Dana” can be rung Fri 08:00 to 12:00 while Front desk holds, and there is no exit of its own"
        " for nobody available."
    ]
    covered = Timetable(hours(desk="Mon-Fri 7-13"), ZONE)
    assert not [one for one in findings(flow, around(own=covered)) if one.kind == "uncovered"]


def test_silence_may_go_round_through_a_junction() -> None:
    flow = document(
        menu("m", {"1": "vm"}, nothing="j", wrong="vm"),
        junction((period("desk"), "m"), otherwise="vm"),
        voicemail(),
        rescue="vm",
    )
    assert ("silent_round", "stops") in kinds(flow, around())


def test_a_junction_is_added_between_steps_and_loses_the_exits_of_a_removed_period() -> None:
    before = document(say("a", "Hello", "vm"), voicemail(), rescue="vm")
    sorting = conditions.by_period("yard", ["desk", "shop"], lambda _: "b1")[:1]
    added = apply(
        before,
        AddStep(
            id="j",
            kind="junction",
            at_step="a",
            at_exit="next",
            fill={"branches": [one.model_dump() for one in sorting]},
        ),
    )
    assert isinstance(added, Applied)
    made = added.document.step("j")
    assert made is not None
    assert made.otherwise == "vm"  # type: ignore[union-attr]
    step = by_hours().steps[0]
    less = step.without_period("yard", "shop")  # type: ignore[union-attr]
    assert [branch.when.any_of for branch in less.branches] == [("desk",)]
    both = Condition(test="period", of="yard", any_of=("desk", "shop"))
    wide = step.model_copy(update={"branches": (step.branches[0].model_copy(update={"when": both}),)})  # type: ignore[union-attr]
    assert wide.without_period("yard", "shop").branches[0].when.any_of == ("desk",)
    assert isinstance(apply(by_hours(), SetStep(step=less)), Applied)


def test_hours_of_a_file_get_the_keys_of_another_client() -> None:
    uses = {(named.key, named.exit, named.called) for _, named in names_in(by_hours(), "hours")}
    assert uses == {("yard", "b0", ""), ("yard", "b1", "")}
    other = by_hours().with_steps(tuple(step.renamed(lambda kind, key: "h2") for step in by_hours().steps))
    assert {named.key for _, named in names_in(other, "hours")} == {"h2"}


def test_a_condition_of_which_nothing_is_known_is_not_true_and_neither_is_its_opposite() -> None:
    """Kleene’s strong logic of three values (S. C. Kleene, Introduction to Metamathematics, 1952, § 64): the whole table."""
    known = {
        True: Condition(test="dates", any_of=("2026-12-24",)),
        False: Condition(test="dates"),
        None: Condition(test="first_call"),
    }

    def holds(one: Condition) -> bool | None:
        return conditions.holds(
            one, Told(lambda asked: bool(asked.ranges) if isinstance(asked, questions.InDates) else None)
        )  # type: ignore[union-attr]

    for a, b in product((True, False, None), repeat=2):
        both, either = (Condition(test=test, parts=(known[a], known[b])) for test in ("all", "any"))
        assert holds(both) is (False if False in (a, b) else None if None in (a, b) else True)
        assert holds(either) is (True if True in (a, b) else None if None in (a, b) else False)
    assert holds(Condition(test="not", parts=(known[None],))) is None
    asked = Junction.model_validate(
        {
            "id": "j",
            "branches": [{"id": "b", "to": "x", "when": {"test": "not", "parts": [{"test": "first_call"}]}}],
            "otherwise": "y",
        }
    )
    talk = Talk(document(asked.model_dump(), say("x", "Known"), say("y", "Not known")))
    assert talk.words == ["Not known"]


def test_hours_and_dates_are_one_dimension_of_time() -> None:
    """What holds on Christmas Eve is asked of the days that are left once the date is known, and of no other."""
    table = Timetable(YARD, ZONE)
    ranges = ("2026-12-24/2026-12-26",)
    since = datetime(2026, 11, 24, tzinfo=ZONE)
    times = Times(Asked({"yard": table}, ranges=ranges), ZONE, since, since + timedelta(days=60))
    kinds = {(tuple(one.holds.items()), in_ranges(ranges, one.day)) for one in times.cells.each}
    assert len(kinds) == len({one.kind for one in times.whole})
    every = Knowledge.of(times.cells.each)
    on_the_day = dict(questions.InDates(ranges).classes(every))[True]
    held = {answer for answer, _ in questions.WhatHolds("yard").classes(on_the_day)}
    minutes = (datetime(2026, 12, 24, tzinfo=ZONE) + timedelta(minutes=15 * n) for n in range(3 * 96))
    assert held == {(table.at(at).period, table.at(at).is_exception) for at in minutes}
    assert [answer for answer, _ in questions.InDates(ranges).classes(on_the_day)] == [True]
