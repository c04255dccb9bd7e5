"""What changes for callers: worked examples, and no random call goes another way where nothing is said to change."""

import random
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.flows import DANA, JOEL, document, menu, phone, ring, say, voicemail
from tests.hours import hours
from tests.random_flows import random_flows
from tests.worlds import CLIENT, NOW, TABLES, UNTIL, ZONE
from vokari.core.flows.conditions.base import Names
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.kept import KeptRehearsal, OnDate, PhoneScript, Pressed
from vokari.core.flows.model.values import END
from vokari.core.flows.running.commands import Play, Record, RingLeg
from vokari.core.flows.running.flow import Flow
from vokari.core.flows.shown.reasons import fact_as_case
from vokari.core.hours.timetable import Timetable
from vokari.core.proof.changes import Changes, changes
from vokari.core.proof.sentences import sentences as told
from vokari.core.proof.world import Client
from vokari.core.rehearsals.calls import Setting, call

RANDOM = settings(
    max_examples=250, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)


def line(**more: Any) -> FlowDocument:
    """A menu behind a greeting; key 1 is sorted by hours."""
    usual: dict[str, Any] = {
        "hello": say("hello", "Good day", "ask"),
        "ask": menu("ask", {"1": "by", "2": "joel"}, nothing="vm", wrong="vm", tries=2),
        "by": {"kind": "junction", "id": "by", "branches": [{"id": "k", "when": {"test": "period", "of": "yard", "any_of": ["desk"]}, "to": "dana"}], "otherwise": "shut"},
        "dana": ring("dana", phone("Dana", DANA), no_answer="vm", name="Yard office"),
        "joel": ring("joel", phone("Joel", JOEL), no_answer="vm", name="Joel"),
        "shut": say("shut", "We are closed", "vm"), "vm": voicemail(name="Yard box"),
    }  # fmt: skip
    return document(*{**usual, **more}.values(), rescue="vm")


def sentences(before: FlowDocument, after: FlowDocument, client: Client = CLIENT) -> list[str]:
    found = changes((Flow(before, {}), CLIENT), (Flow(after, {}), client), NOW, UNTIL, {"mb": "Yard"})
    assert found.compared
    return [one.text for one in told(found, lambda asked, answer: fact_as_case(asked, answer, Names()))]


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        ({}, []),
        ({"vm": voicemail(name="Another name", note="A note")}, []),
        ({"hello": say("hello", "Hello", "ask")}, ["The flow now says “Hello”; before, it says “Good day”."]),
        ({"hello": say("hello", "Good day", "new"), "new": say("new", "We record", "ask")}, ["The flow now says “We record” first."]),
        ({"dana": ring("dana", phone("Dana", DANA, 35), no_answer="vm", name="Yard office")}, ["rings Dana for 35 s; before, it rings Dana for 20 s."]),
        (
            {"ask": menu("ask", {"1": "by", "2": "joel", "4": "dana"}, nothing="vm", wrong="vm", tries=2, prompt={"say": "Press 1. Press 2."})},
            ["Key 4 now rings “Yard office”; before, it says “Press 1. Press 2.”"],
        ),
        ({"joel": ring("joel", phone("Joel", JOEL), no_answer="shut", name="Joel")}, ["Key 2, when nobody answers, now says “We are closed” first."]),
    ],
)  # fmt: skip
def test_an_edit_is_told_as_callers_meet_it(edit: dict[str, Any], says: list[str]) -> None:
    found = sentences(line(), line(**edit))
    assert len(found) >= len(says)
    assert [one for one in says if not any(one in sentence for sentence in found)] == []
    assert bool(found) == bool(says)


def test_a_change_of_hours_is_told_with_its_stretch_of_time() -> None:
    longer = hours(desk="Mon-Fri 8-12; Sat 6.30-9", shop="Mon-Fri 12-16")
    before = Client(ZONE, {"yard": Timetable(hours(desk="Mon-Fri 8-12", shop="Mon-Fri 12-16"), ZONE)})
    after = Client(ZONE, {"yard": Timetable(longer, ZONE)})
    flow = (Flow(line(), {}), before)
    found = changes(flow, (flow[0], after), NOW, UNTIL)
    (only,) = found.all
    assert told(found)[0].text.startswith(
        "Sat 06:30-09:00, key 1 now rings “Yard office”; before, it says “We are closed”."
    )
    assert "answered" in only.fates_after
    assert "answered" not in only.fates_before
    assert changes(flow, flow, NOW, UNTIL).all == []


def around(limit: int = 10, rescue: str = "box", greeting: str = "Sorry", key: str = "joel") -> FlowDocument:
    """A menu with a way back to itself; its rescue is reached by going round too often only."""
    return document(
        menu("ask", {"1": "tides", "2": "joel"}, nothing="joel", wrong="joel"), say("tides", "High water", "back"),
        {"kind": "back_to", "id": "back", "to": "ask"}, ring("joel", phone("Joel", JOEL), no_answer="vm", name="Joel"), voicemail(name="Yard box"),
        voicemail("box", greeting={"say": greeting}), menu("desk", {"1": key}, nothing="vm", wrong="vm"), rescue=rescue, entry_limit=limit,
    )  # fmt: skip


def test_what_changes_for_calls_that_go_round_too_often_is_told() -> None:
    often = "when the call has gone round too often, now"
    assert sentences(around(), around()) == []
    assert sentences(around(), around(greeting="Pardon")) == [
        f"The flow, {often} says “Pardon”; before, it says “Sorry”."
    ]
    led, *_ = sentences(around(), around(rescue="joel"))
    assert led.startswith(f"The flow, {often} rings “Joel”; before, it goes to ")
    key, *_ = sentences(around(rescue="desk"), around(rescue="desk", key="box"))
    assert key.startswith(f"Key 1, {often} ")
    (both,) = sentences(around(), around(rescue="ask"))
    assert "now asks “Press 1. Press 2.” or says “We are sorry" in both, "the second time the rescue is none"
    assert sentences(around(), around(5)) == [
        "A call that goes round may enter one step 5 times now; before, 10 times."
    ]
    straight = line()
    assert sentences(straight, straight.model_copy(update={"entry_limit": 5})) == []


def test_what_only_some_callers_meet_is_told_of_them() -> None:
    def sorted_by(when: dict[str, Any]) -> FlowDocument:
        return line(
            by={
                "kind": "junction",
                "id": "by",
                "branches": [{"id": "k", "when": when, "to": "dana"}],
                "otherwise": "shut",
            }
        )

    found = sentences(sorted_by({"test": "called", "days": 30}), sorted_by({"test": "withheld"}))
    assert any("number withheld" in one.casefold() for one in found)
    assert all("key 1" in one.casefold() for one in found)


def test_what_was_not_compared_is_said() -> None:
    flow = Flow(line(), {})
    found = changes((flow, CLIENT), (flow, CLIENT), NOW, UNTIL, most=5)
    assert not found.compared
    assert "beyond that nothing was compared" in found.abreast.unwalked[0]


@given(random_flows())
@RANDOM
def test_a_flow_is_no_other_than_itself(flow: Flow) -> None:
    found = changes((flow, CLIENT), (flow, CLIENT), NOW, UNTIL, most=200, most_steps=10_000)
    assert found.all == [], told(found)


Edit = Callable[[random.Random, FlowDocument], FlowDocument]


def led_elsewhere(chance: random.Random, document_: FlowDocument) -> FlowDocument:
    """One exit leads somewhere else."""
    step = chance.choice(document_.steps)
    if not step.exits:
        return document_
    to = chance.choice([*document_.by_id, END, None])
    other = step.with_target(chance.choice(step.exits).id, to)
    return document_.with_steps(tuple(other if one is step else one for one in document_.steps))


def reworded(chance: random.Random, document_: FlowDocument) -> FlowDocument:
    """One step says something else, where it says something."""
    step = chance.choice(document_.steps)
    prompt = getattr(step, "prompt", None)
    if prompt is None:
        return document_
    other = step.model_copy(update={"prompt": prompt.model_copy(update={"say": "Other words"})})
    return document_.with_steps(tuple(other if one is step else one for one in document_.steps))


def rescued_elsewhere(chance: random.Random, document_: FlowDocument) -> FlowDocument:
    """Another rescue, or another limit of going round."""
    other: dict[str, Any] = {"rescue": chance.choice([*document_.by_id, None])}
    return document_.model_copy(update=chance.choice([other, {"entry_limit": 3}]))


def seen(flow: Flow, kept: KeptRehearsal) -> list[str]:
    """What a caller and the phones notice of a call."""
    went = call(flow, kept, Setting(Client(ZONE, TABLES, CLIENT.people, CLIENT.teams, CLIENT.numbers), NOW))
    assert went is not None
    found = []
    for entry in went.run.log:
        for one in entry.commands:
            match one:
                case Play():
                    found += [one.prompt.say] if one.prompt.say else []
                case RingLeg():
                    found.append(f"rings {one.destination.dialed}")
                case Record():
                    found.append("records")
    return [*found, f"ends at {entry.at:.0f}"]


@given(random_flows(), st.sampled_from([led_elsewhere, reworded, rescued_elsewhere]), st.integers(0, 2**32))
@RANDOM
def test_no_call_goes_otherwise_where_nothing_changes(flow: Flow, edit: Edit, seed: int) -> None:
    chance = random.Random(seed)
    edited = Flow(edit(chance, flow.document), flow.inner)
    found: Changes = changes((flow, CLIENT), (edited, CLIENT), NOW, UNTIL, most=200, most_steps=10_000)
    if not found.compared or found.all or found.limits:
        return
    for number in range(40):
        at = NOW + timedelta(hours=chance.uniform(1, 24 * 30))
        keys = [chance.choice(["", "1", "2", "12", "3", "*", "9"]) for _ in range(4)]
        does = [chance.choice(["answers", "busy", "rings_out", "on_call", "declines"]) for _ in range(2)]
        kept = KeptRehearsal(
            id=f"r{number}", name="A caller", when=OnDate(date=at.astimezone(ZONE).date(), at=f"{at.astimezone(ZONE):%H:%M}"),
            caller=chance.choice(["", "+14105550185"]), presses=tuple(Pressed(keys=key) for key in keys),
            phones=(PhoneScript(who="+14105550170", does=(does[0],)), PhoneScript(does=(does[1],))), message=chance.choice([None, 5.0]),
        )  # fmt: skip
        assert seen(flow, kept) == seen(edited, kept)
