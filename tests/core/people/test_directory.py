"""People and teams that cannot be, phones that cannot be rung, and what is found where flows name them."""

from typing import Any

import pytest

from tests.flows import document, ring, voicemail
from tests.staff import PEOPLE, number, team
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.flows.model.steps import Ring
from vokari.core.people import phone_rules, uses
from vokari.core.people.directory import Person, Team


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
    read = phone_rules.check(typed, country, {"+14105550142"})
    if says:
        assert says in getattr(read, "sentence", ""), read
    else:
        assert isinstance(read, phone_rules.Checked)


def test_a_phone_abroad_asks_once_and_others_do_not() -> None:
    abroad = phone_rules.check("+44 20 7946 0630", "US", ())
    assert isinstance(abroad, phone_rules.Checked)
    assert "another country (GB)" in abroad.asks
    assert phone_rules.check("020 7946 0630", "GB", ()) == phone_rules.Checked("+442079460630")


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
