"""Notify steps: filled in, sent once to each, also after the caller has gone; and what keeps them from arriving."""

from typing import Any

import pytest
from sqlalchemy import text

from tests.flows import document, ring, voicemail
from tests.wire import Wire
from tests.work.people.test_people import CALLED, PHONES, add
from tests.world import World
from vokari.core.checks.finding import Surroundings
from vokari.core.checks.flows import findings
from vokari.core.checks.supported import unsupported
from vokari.core.flows.model.document import FlowDocument
from vokari.core.people import carried, uses
from vokari.core.people.directory import Person, Phone
from vokari.store.people import PersonRow
from vokari.work.agency import clients
from vokari.work.calls import notifying
from vokari.work.people import everybody, keeping, replacing


def tell(step: str = "n", **more: Any) -> dict[str, Any]:
    return {"kind": "notify", "id": step, "name": "Tell the yard", "words": "New call", "next": "end", **more}


@pytest.fixture
def ada(world: World) -> PersonRow:
    return add(world, "Ada", email="ada@example.com")


@pytest.fixture
def line(world: World, ada: PersonRow) -> World:
    words = "{caller} called {client} ({source}, {label}) on {when}; {answered_by} took it. {nothing}"
    step = {**ring("r", no_answer="vm", after="l"), "to": [{"kind": "person", "id": "p", "person": ada.key}]}
    steps = (
        step, {"kind": "label", "id": "l", "labels": ["lift"], "next": "n"},
        tell(words=words, to=[{"kind": "person", "of": ada.key}, {"kind": "email", "of": "yard@example.com"}], next="t"),
        tell("t", by="text", words="Thank you for calling {client}.", to=[{"kind": "caller"}]), voicemail(),
    )  # fmt: skip
    flow = world.flow(document(*steps, rescue="vm", name="Told", mark="TD"))
    world.number(CALLED, world.source("Harbor sign"), flow)
    return world


def sent(world: World) -> list[dict[str, str]]:
    """The notices that were queued, each handed to the post twice, as a worker may."""
    with world.house.begin() as session:
        jobs = list(
            session.scalars(text("SELECT args FROM procrastinate_jobs WHERE task_name = 'send_notice' ORDER BY id"))
        )
    for job in jobs * 2:
        notifying.send(world.house, **job)
    return jobs


def call(world: World, caller: str | None = "+14105550185") -> Wire:
    wire = Wire(world.house)
    wire.arrive(CALLED, caller)
    wire("leg", 5, command=wire.commands[0]["id"], outcome="answered")
    return wire


def test_notices_after_an_answered_call_are_filled_in_and_sent_once_each(line: World) -> None:
    wire = call(line)
    assert sent(line) == []
    wire("leg", 60, command=1, outcome="ended")
    jobs = sent(line)
    assert [(one["by"], one["to"]) for one in jobs] == [
        ("email", "ada@example.com"), ("email", "yard@example.com"), ("text", "+14105550185")
    ]  # fmt: skip
    assert jobs[0]["words"] == (
        "410-555-0185 called Brightwater Boatyard (Harbor sign, lift) on Tue, Nov 24, 12:00; Ada took it."
    )
    mails = [path.read_text() for path in line.house.post.folder.glob("*.eml")]
    texts = [path.read_text() for path in line.house.post.folder.glob("*.txt")]
    assert len(mails) == 2
    assert "Subject: Brightwater Boatyard: Tell the yard" in mails[0]
    assert texts == ["To: +14105550185\n\nThank you for calling Brightwater Boatyard.\n"]


def test_they_run_on_when_the_caller_has_gone_and_a_withheld_number_gets_none(line: World) -> None:
    call(line, None)("caller_gone", 30)
    jobs = sent(line)
    assert [one["to"] for one in jobs] == ["ada@example.com", "yard@example.com"]
    assert jobs[0]["words"].startswith("a withheld number called")


def test_calls_from_test_phones_tell_nobody(line: World) -> None:
    clients.add_test_phone(line.house, line.actor, "410 555 0185", "Test", "US")
    call(line)("caller_gone", 30)
    assert sent(line) == []


def test_somebody_told_is_replaced_with_the_rest_and_cannot_be_removed(line: World, ada: PersonRow) -> None:
    ben = add(line, "Ben", email="ben@example.com")
    args = (line.house, line.actor, line.client.id)
    assert "is rung by" in keeping.remove(*args, "person", ada.id)[0].sentence
    flow = everybody.everybody(*args).people[0].places[0].flow
    assert replacing.replace(*args, "person", ada.id, ben.id, [flow.id], live=True) == [
        "the draft of Told",
        "Told, live",
    ]
    call(line)("caller_gone", 30)
    assert [one["to"] for one in sent(line)][:1] == ["ben@example.com"]


PEOPLE = {
    "pe_a": Person(name="Ada", email="ada@example.com"), "pe_b": Person(name="Ben", phones=(Phone(id="p", to=PHONES["Ben"]),)),
}  # fmt: skip


def slips(**step: Any) -> list[str]:
    around = Surroundings({"mb": True}, [], ["+14105550142"], people=PEOPLE)
    return [one.sentence for one in findings(document(tell(**step)), around) if one.kind == "tells_nobody"]


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"to": []}, "tells nobody: choose who is told."),
        ({"to": [{"kind": "person", "of": "pe_a"}], "words": " "}, "has no words yet."),
        ({"to": [{"kind": "person", "of": "pe_x"}]}, "tells somebody who is gone: choose somebody else."),
        ({"to": [{"kind": "person", "of": "pe_b"}]}, "tells Ben by email, for which there is no email address."),
        ({"to": [{"kind": "person", "of": "pe_a"}], "by": "text"}, "tells Ada by text message, for which there is no phone for text messages."),
        ({"to": [{"kind": "caller"}]}, "tells the caller by email, for which there is no email address."),
        ({"to": [{"kind": "email", "of": "yard at example"}]}, "tells “yard at example”, which is no email address."),
        ({"to": [{"kind": "number", "of": "+14105550142"}], "by": "text"}, "sends a text message to +14105550142, which is no phone that can get one."),
    ],
)  # fmt: skip
def test_what_keeps_a_notice_from_arriving_is_found(step: dict[str, Any], said: str) -> None:
    assert slips(**step) == [f"“Tell the yard” {said}"]


def test_a_notice_that_arrives_has_no_finding_and_goes_with_its_flow() -> None:
    assert slips(to=[{"kind": "person", "of": "pe_a"}, {"kind": "email", "of": "x@example.com"}]) == []
    assert slips(to=[{"kind": "caller"}, {"kind": "person", "of": "pe_b"}], by="text") == []
    flow: FlowDocument = document(tell(to=[{"kind": "person", "of": "pe_a"}, {"kind": "person", "of": "pe_b"}]))
    assert set(carried.needed(flow, PEOPLE, {})[0]) == {"pe_a", "pe_b"}
    (step,) = uses.replaced(flow, "pe_a", "pe_b")
    assert [one.of for one in step.to] == ["pe_b"]
    odd = document(tell(by="http", to=[{"kind": "url", "of": "https://example.com"}]))
    assert [one.path for one in unsupported(odd)] == ["steps.0.by", "steps.0.to.0"]
