"""Proofs of drafts: kept until the draft or the client changes, shown with calls that can be played, and heeded by Put live."""

import json
from dataclasses import replace
from datetime import datetime, timedelta

import pytest
from structlog.testing import capture_logs

from tests.conftest import NOON, StandingClock
from tests.flows import DANA, document, phone, ring, say, voicemail
from tests.hours import week
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.values import Prompt
from vokari.store.flows import CallFlow
from vokari.store.proofs import Proof
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.flows import drafts, open_drafts, rehearsals, versions
from vokari.work.flows.versions import Going, Stopped
from vokari.work.hours import sets
from vokari.work.house import apart
from vokari.work.house.problems import Row
from vokari.work.house.views import FlowVersionView, HoursSetView
from vokari.work.proof import examples, proving, worlds
from vokari.work.proof.documents import as_rows, drafted
from vokari.work.proof.walking import walked
from vokari.work.proof.walks import Walks

NEEDS = Going(proven=True)
SURE = Going(consent="as the client wants it", proven=True)


@pytest.fixture
def opening(world: World) -> str:
    """The key of hours that are open on weekdays from 9 to 17."""
    args = (world.house, world.actor, world.client.id)
    made = sets.create(*args, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    painted = sets.set_week(*args, made.id, [("open", "Open")], week(open="Mon-Fri 9-17"), None)
    assert isinstance(painted, sets.OpenHours), painted
    return made.key


def line(hours: str, closed: str = "sorry") -> FlowDocument:
    """A flow that leads elsewhere outside hours; to "sorry": it says a sentence and ends the call."""
    when = {"test": "period", "of": hours, "any_of": ["open"]}
    sort = {"kind": "junction", "id": "by", "branches": [{"id": "k", "when": when, "to": "desk"}], "otherwise": closed}
    sorry = [say("sorry", "We are closed", "end", name="Closed")] if closed == "sorry" else []
    desk = ring("desk", phone("Dana", DANA), no_answer="vm", machine_detection=True)
    return document(sort, desk, *sorry, voicemail(), rescue="vm", name="Line", mark="LN")


def prove(world: World) -> None:
    """What the worker does."""
    for job in world.jobs("prove_flow"):
        proving.prove(world.house, job["flow_id"], job["revision"])


def edited(world: World, flow: CallFlow) -> None:
    """The line no longer ends with a sentence."""
    args = (world.house, world.actor, world.client.id, flow.id)
    sorry = open_drafts.opened(*args).document.by_id["sorry"]
    assert not isinstance(drafts.edit(*args, [SetStep(step=sorry.model_copy(update={"next": "vm"}))]), list)


def test_a_gap_is_found_played_and_mended(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    first = proving.shown(*args)
    assert (first.current, first.document) == (False, None)
    prove(world)
    shown = proving.shown(*args)
    (found,) = shown.stops
    assert shown.current
    assert (found["kind"], found["step"]) == ("loses_callers", "sorry")
    assert "Mon to Fri 17:00-09:00" in found["sentence"] or "17:00" in found["sentence"]
    call = examples.play(*args, found["end"])
    assert call.ending is not None
    assert (call.ending.fate, call.ending.reason, call.state.at) == ("lost", "flow", "sorry")
    stopped = versions.put_live(*args, going=SURE)
    assert isinstance(stopped, Stopped)
    assert [one.kind for one in stopped.findings] == ["loses_callers"], "no consent lets a flow lose its callers"
    edited(world, flow)
    assert not proving.shown(*args).current
    prove(world)
    assert proving.shown(*args).stops == []
    assert isinstance(versions.put_live(*args, going=SURE), FlowVersionView)


def test_every_way_of_ending_plays_as_it_was_named(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    proving.shown(*args)
    prove(world)
    document_ = proving.shown(*args).document
    assert document_ is not None
    ends = document_["ends"]
    assert {one["fate"] for one in ends} == {"answered", "message_left", "lost"}
    for number, end in enumerate(ends):
        ending = examples.play(*args, number).ending
        assert ending is not None
        assert (ending.fate, ending.reason) == (end["fate"], end["reason"])
    with pytest.raises(NotFound):
        examples.play(*args, len(ends))


def test_a_call_is_taken_back_and_goes_otherwise(world: World, opening: str) -> None:
    flow = world.flow(line(opening, "desk"), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    proving.shown(*args)
    prove(world)
    shown = proving.shown(*args).document
    assert shown is not None
    number = [one["fate"] for one in shown["ends"]].index("answered")
    call = examples.play(*args, number)
    picked_up = next(place for place, one in enumerate(call.log) if one["event"].get("outcome") == "answered")
    back = rehearsals.back(*args[:3], call.id, picked_up)
    assert (back.state.phase, len(back.legs), back.ending) == ("ringing", 1, None)
    for wrong in (0, len(call.log) + 1, -1):
        with pytest.raises(NotFound):
            rehearsals.back(*args[:3], call.id, wrong)


def test_what_changes_of_the_client_is_proven_anew(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    proving.shown(*args)
    prove(world)
    assert proving.shown(*args).current
    hours = sets.listed(*args[:3])[1][0].set
    sets.set_week(*args[:3], hours.id, [("open", "Open")], week(open="Mon-Sun 0-24"), None)
    assert not proving.shown(*args).current
    prove(world)
    shown = proving.shown(*args)
    assert shown.current
    assert [one["kind"] for one in shown.findings] == ["never_reached"]
    world.number("+14105550142", world.source("Leaflet"), flow)
    assert not proving.shown(*args).current, "what a number is given to makes a difference to callers"
    prove(world)
    assert proving.shown(*args).current
    clock = StandingClock()
    clock.moment = NOON + timedelta(days=2)
    later = replace(world.house, clock=clock)
    assert not proving.shown(later, *args[1:]).current, "the months to come move on"


def test_a_draft_edited_meanwhile_is_not_proven_by_an_older_walk(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    proving.shown(*args)
    (job,) = world.jobs("prove_flow")
    edited(world, flow)
    proving.prove(world.house, job["flow_id"], job["revision"])
    assert proving.shown(*args) == proving.Shown(False, None)


def test_what_cannot_be_walked_is_said_and_never_called_proven(
    world: World, opening: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    flow = world.flow(line(opening, "desk"), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    monkeypatch.setattr(proving, "LIMITS", apart.Limits(seconds=0.01, cpu_seconds=1, memory=1_500_000_000))
    proving.shown(*args)
    prove(world)
    shown = proving.shown(*args)
    assert [(one["kind"], one["weight"]) for one in shown.findings] == [("not_walked", "asks")]
    asked = versions.put_live(*args, going=NEEDS)
    assert isinstance(asked, Stopped)
    assert (asked.asks, "not_walked" in {one.kind for one in asked.findings}) == (True, True)


def test_put_live_asks_for_a_word_and_keeps_it(world: World, opening: str) -> None:
    flow = world.flow(line(opening, "desk"), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    asked = versions.put_live(*args, going=NEEDS)
    assert isinstance(asked, Stopped)
    assert {one.kind for one in asked.findings} == {"not_proven", "never_verified"}
    assert {one.kind for one in versions.asks(*args)} == {"not_proven", "never_verified"}
    assert world.jobs("prove_flow"), "what is said to be under way is"
    made = versions.put_live(*args, going=SURE)
    assert isinstance(made, FlowVersionView)
    assert {(one["kind"], one["why"], one["by"]) for one in made.consents} == {
        ("not_proven", "as the client wants it", "Specialist"), ("never_verified", "as the client wants it", "Specialist"),
    }  # fmt: skip
    proving.shown(*args)
    prove(world)
    assert versions.asks(*args) == [], "what was answered stays answered"
    again = versions.put_live(*args, going=NEEDS)
    assert isinstance(again, FlowVersionView)
    assert [one["kind"] for one in again.consents] == ["never_verified"]


def test_only_who_works_for_the_client_sees_a_proof(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    for role in ("client_viewer", "client_editor"):
        at = (world.house, world.actors[role], world.client.id, flow.id)
        for call in (
            lambda at=at: proving.shown(*at),
            lambda at=at: examples.play(*at, 0),
            lambda at=at: versions.asks(*at),
        ):
            with pytest.raises(NotAllowed):
                call()


def test_what_makes_no_difference_to_callers_is_not_walked_again(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    clock = StandingClock()
    clock.moment = NOON + timedelta(hours=1)
    later = replace(world.house, clock=clock)

    def made() -> object:
        with world.house.begin() as session:
            return session.get_one(Proof, (flow.id, False)).made_at

    def prove_later() -> None:
        proving.shown(*args)
        for job in world.jobs("prove_flow"):
            proving.prove(later, job["flow_id"], job["revision"])

    proving.shown(*args)
    prove(world)
    before = proving.shown(*args)
    sorry = open_drafts.opened(*args).document.by_id["sorry"]
    assert not isinstance(drafts.edit(*args, [SetStep(step=sorry.model_copy(update={"note": "Ask Dana"}))]), list)
    assert not proving.shown(*args).current
    prove_later()
    after = proving.shown(*args)
    assert (after.current, after.document, made()) == (True, before.document, NOON)
    assert isinstance(sets.create(*args[:3], "Hours of others", "client"), HoursSetView)
    assert not proving.shown(*args).current
    prove_later()
    assert (proving.shown(*args).current, made()) == (True, NOON), "the flow asks for other hours"
    hours = next(one.set for one in sets.listed(*args[:3])[1] if one.set.key == opening)
    sets.set_week(*args[:3], hours.id, [("open", "Open")], week(open="Mon-Fri 9-18"), None)
    prove_later()
    assert (proving.shown(*args).current, made()) == (True, NOON + timedelta(hours=1))


def test_after_an_edit_only_what_it_bears_on_is_walked_again(world: World, opening: str) -> None:
    flow = world.flow(line(opening), live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    clock = StandingClock()
    later = replace(world.house, clock=clock)

    def proven(at: datetime) -> tuple[datetime | None, int, Row]:
        """The proof of the draft as it is, made at a moment: since when it was walked, how much of it anew, and what it shows."""
        clock.moment = at
        proving.shown(*args)
        with capture_logs() as logs:
            for job in world.jobs("prove_flow"):
                proving.prove(later, job["flow_id"], job["revision"])
        (anew,) = (one["anew"] for one in logs if one["event"] == "a draft was walked")
        with world.house.begin() as session:
            kept = session.get_one(Proof, (flow.id, False))
            assert kept.revision == session.get_one(CallFlow, flow.id).revision
            return kept.made_at, anew, dict(kept.document)

    proven(NOON)
    sorry = open_drafts.opened(*args).document.by_id["sorry"]
    words = sorry.model_copy(update={"prompt": Prompt(say="We are closed and open at nine")})
    assert not isinstance(drafts.edit(*args, [SetStep(step=words)]), list)
    since, anew, shown = proven(NOON + timedelta(hours=1))
    assert since == NOON, "the time is that of the walk from which something stands"
    assert 0 < anew < shown["situations"]
    with world.house.begin() as session:
        draft = drafted(session, world.house, flow.id, session.get_one(CallFlow, flow.id).revision)
        assert draft is not None
        client = worlds.known(session, world.house, draft.client, flow.id, NOON)
    whole = json.loads(json.dumps(walked(*as_rows(draft.document, draft.inner), client, NOON)))
    shown.pop("print")
    assert shown == whole, "as if all had been walked"
    edited(world, flow)
    since, _, shown = proven(NOON + timedelta(hours=23))
    assert (since, shown["findings"]) == (NOON, [])
    assert not isinstance(drafts.edit(*args, [SetStep(step=words)]), list)
    since, more, _ = proven(NOON + timedelta(hours=24))
    assert since == NOON + timedelta(hours=24), "the months to come move on"
    assert more > anew


def test_of_walks_that_are_kept_the_oldest_make_room() -> None:
    walks, day = Walks(most=10), timedelta(days=1)
    walks.keep(1, NOON, b"12345")
    walks.keep(2, NOON, b"12345")
    walks.keep(1, NOON, b"1234")
    walks.keep(3, NOON, b"12")
    assert [walks.of(one, NOON, day) for one in (1, 2, 3)] == [b"1234", None, b"12"]
    assert walks.of(1, NOON + day, day) is None
    walks.keep(4, NOON, b"12345678901")
    assert [walks.of(one, NOON, day) for one in (1, 3, 4)] == [b"1234", b"12", None], (
        "one that is too large is not kept"
    )
