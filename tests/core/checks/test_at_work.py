"""What is wrong with a live flow as it goes with its people and numbers."""

from datetime import timedelta

from tests.conftest import NOON
from tests.flows import JOEL, document, phone, ring, voicemail
from vokari.core.checks.at_work import MISSED, AtWork, findings
from vokari.core.people.directory import Member, Team

DAYS = NOON - timedelta(days=3)
CREW = {
    "crew": Team(name="Crew", members=(Member(person="ada"), Member(person="ben")), then="late"),
    "late": Team(name="Late", members=(Member(person="cy"),), then="crew"),
}


def rings(step: str, *who: str, **more: object) -> dict[str, object]:
    to = [
        {"kind": (kind := "team" if one in CREW else "person"), "id": f"d{n}", kind: one} for n, one in enumerate(who)
    ]
    return ring(step, *to, no_answer="vm", name=step.title(), **more)


def found(people: dict[str, AtWork], *steps: dict[str, object], led_to: bool = True) -> list[tuple[str, str, str]]:
    of = document(*steps, voicemail(), rescue="vm")
    return [(one.kind, one.step, one.sentence) for one in findings(of, people, CREW, led_to=led_to, now=NOON)]


def people(**changed: AtWork) -> dict[str, AtWork]:
    return {**{one: AtWork(one.title()) for one in ("ada", "ben", "cy")}, **changed}


def test_whose_phone_does_not_answer_is_told_where_they_are_rung_first() -> None:
    some = people(ada=AtWork("Ada", MISSED - 1), cy=AtWork("Cy", MISSED))
    words = "“Desk” rings Cy, whose phone has not answered 3 times in a row."
    assert found(some, rings("desk", "crew"), rings("late", "cy")) == [("never_answers", "desk", words)]
    assert found(people(), rings("desk", "crew")) == []


def test_a_step_whose_people_are_all_switched_off_for_days_reaches_nobody() -> None:
    off = people(ada=AtWork("Ada", 0, DAYS))
    said = [("switched_off", "desk", "“Desk” reaches nobody: Ada is switched off, for three days or more.")]
    assert found(off, rings("desk", "ada")) == said
    assert found(off, rings("desk", "ada", "ben")) == []
    assert found(people(ada=AtWork("Ada", 0, NOON - timedelta(days=2))), rings("desk", "ada")) == [], "a weekend"
    both = rings("desk", "ada")
    both["to"] = [*both["to"], phone("Joel", JOEL)]  # type: ignore[misc]
    assert found(off, both) == [], "a phone that is nobody’s is rung as well"


def test_a_flow_that_nothing_leads_to_is_told() -> None:
    assert [kind for kind, _, _ in found(people(), rings("desk", "ada"), led_to=False)] == ["no_number"]
