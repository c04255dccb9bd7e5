"""Rehearsals kept with a flow: from a test call, typed, proposed; run with each edit; heeded by Put live; carried to another client."""

from zoneinfo import ZoneInfo

import pytest

from tests.conftest import NOON
from tests.flows import DANA, JOEL, document, menu, phone, ring, voicemail
from tests.work.people.test_people import add
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.kept import Expected, KeptRehearsal, OnWeekday, PhoneScript, Pressed
from vokari.core.flows.running import events
from vokari.store.flows import CallFlow
from vokari.work.agency import clients
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm
from vokari.work.flows import bringing, drafts, files, kept_rehearsals, open_drafts, rehearsals, versions
from vokari.work.flows.bringing import NEW
from vokari.work.flows.open_rehearsals import OpenRehearsal
from vokari.work.flows.versions import Going, Stopped
from vokari.work.house.views import CallFlowView, ClientView, FlowVersionView
from vokari.work.proof import proposing


def line() -> FlowDocument:
    steps = (
        menu("ask", {"1": "desk", "2": "vm"}, nothing="vm", wrong="vm"),
        ring("desk", phone("Dana", DANA), phone("Joel", JOEL), no_answer="vm", machine_detection=True), voicemail(),
    )  # fmt: skip
    return document(*steps, rescue="vm", name="Line", mark="LN")


@pytest.fixture
def flow(world: World) -> CallFlow:
    return world.flow(line(), live=False)


def answered(**more: object) -> KeptRehearsal:
    return KeptRehearsal(
        id="r1", name="Dana picks up", when=OnWeekday(day=1, at="10:00"), caller="+14105550185", presses=(Pressed(keys="1"),),
        phones=(PhoneScript(who="Dana", does=("answers",)),), expects=Expected(fate="answered", rings=("Dana",)),
    ).model_copy(update=more)  # fmt: skip


def test_one_that_fails_is_found_with_the_edit_and_asks_for_a_word(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    kept = kept_rehearsals.keep(*args, [answered()])
    assert isinstance(kept, open_drafts.OpenDraft)
    assert [one.holds for one in kept.verdicts] == [True]
    assert isinstance(versions.put_live(*args, going=Going(consent="never rung yet")), FlowVersionView)
    ask = kept.document.by_id["ask"]
    first, second = ask.branches  # type: ignore[union-attr]
    branches = (first.model_copy(update={"to": "vm"}), second.model_copy(update={"to": "desk"}))
    edited = drafts.edit(*args, [SetStep(step=ask.model_copy(update={"branches": branches}))])  # type: ignore[arg-type]
    assert isinstance(edited, open_drafts.OpenDraft)
    (found,) = (one for one in edited.findings if one.kind == "rehearsal_fails")
    assert found.weight == "asks"
    assert "“Dana picks up” fails" in found.sentence
    assert "Dana is not rung; nobody is" in found.sentence
    stopped = versions.put_live(*args)
    assert isinstance(stopped, Stopped)
    assert stopped.asks
    assert "rehearsal_fails" in [one.kind for one in stopped.findings]
    lives = versions.put_live(*args, going=Going(consent="the menu is being rebuilt"))
    assert isinstance(lives, FlowVersionView)
    undone = drafts.undo(*args)
    assert isinstance(undone, open_drafts.OpenDraft)
    assert [one.holds for one in undone.verdicts] == [True]


def test_a_test_call_is_kept_and_played_again(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    call = rehearsals.begin(*args, called="", caller="(410) 555-0185", at=NOON)
    assert isinstance(call, OpenRehearsal)
    for event, seconds in ((events.Finished(1), None), (events.Digit("1"), 2.0)):
        call = rehearsals.happen(*args[:3], call.id, event, seconds)
        assert isinstance(call, OpenRehearsal)
    (leg,) = call.legs
    call = rehearsals.happen(*args[:3], call.id, events.Leg(leg.command, "declined"), 3.0)
    assert isinstance(call, OpenRehearsal)
    (leg,) = call.legs
    call = rehearsals.happen(*args[:3], call.id, events.Leg(leg.command, "answered"), 3.0)
    assert isinstance(call, OpenRehearsal)
    assert kept_rehearsals.keep_call(*args[:3], call.id, "  ")[0].field == "name"  # type: ignore[union-attr]
    done = kept_rehearsals.keep_call(*args[:3], call.id, "Joel takes over")
    assert not isinstance(done, list)
    _, kept = done
    assert kept.when == OnWeekday(day=NOON.weekday(), at=f"{NOON.astimezone(kept_zone(world)):%H:%M}")
    assert [(one.who, one.does) for one in kept.phones] == [("Dana", ("declines",)), ("Joel", ("answers",))]
    assert (kept.expects.ends_at, kept.expects.rings) == ("desk", ("Dana", "Joel"))
    draft = open_drafts.opened(*args)
    assert [one.holds for one in draft.verdicts] == [True]
    played = kept_rehearsals.play(*args, kept.id)
    assert played.ending is not None
    assert played.ending.fate == "answered"
    assert kept_rehearsals.drop(*args, kept.id).document.rehearsals == ()  # type: ignore[union-attr]
    assert kept_rehearsals.drop(*args, kept.id)[0].sentence == "This rehearsal was removed already."  # type: ignore[index]
    with pytest.raises(NotFound):
        kept_rehearsals.play(*args, kept.id)


def kept_zone(world: World) -> ZoneInfo:
    return ZoneInfo(world.client.time_zone)


def test_what_somebody_else_changed_meanwhile_is_not_written_over(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    seen = answered()
    kept_rehearsals.keep(*args, [seen])
    theirs = answered(name="Theirs")
    kept_rehearsals.keep(world.house, world.actors["owner"], world.client.id, flow.id, [theirs], seen)
    mine = kept_rehearsals.keep(*args, [answered(name="Mine")], seen)
    assert isinstance(mine, list)
    assert "changed or removed meanwhile" in mine[0].sentence
    assert open_drafts.opened(*args).document.rehearsals == (theirs,)


def propose(world: World) -> None:
    for job in world.jobs("propose_rehearsals"):
        proposing.propose(world.house, job["flow_id"], job["revision"])


def test_a_set_is_proposed_for_what_the_kept_ones_do_not_take(world: World, flow: CallFlow) -> None:
    args = (world.house, world.actor, world.client.id, flow.id)
    assert kept_rehearsals.proposed(*args) == proposing.Proposed()
    kept_rehearsals.keep(*args, [answered()])
    kept_rehearsals.propose(*args)
    assert kept_rehearsals.proposed(*args).asked
    propose(world)
    found = kept_rehearsals.proposed(*args)
    assert found.made
    assert found.takes == found.exits
    assert {one.id for one in found.rehearsals}.isdisjoint({"r1"})
    taken = kept_rehearsals.take_proposed(*args, [one.id for one in found.rehearsals])
    assert isinstance(taken, open_drafts.OpenDraft)
    assert len(taken.verdicts) == 1 + len(found.rehearsals)
    assert all(one.holds for one in taken.verdicts)
    assert kept_rehearsals.proposed(*args) == proposing.Proposed(), "it was of the draft before"
    kept_rehearsals.propose(*args)
    drafts.undo(*args)
    propose(world)
    assert not kept_rehearsals.proposed(*args).made, "edited meanwhile"


def test_they_travel_with_their_flow(world: World) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    to = [{"kind": "person", "id": "d1", "person": ada.key}]
    kept = answered(
        presses=(),
        phones=(PhoneScript(who=ada.key, does=("answers",)),),
        expects=Expected(fate="answered", rings=(ada.key,)),
    )
    steps = ({**ring("desk", no_answer="vm"), "to": to}, voicemail())
    flow = world.flow(document(*steps, rescue="vm", rehearsals=[kept]), live=False)
    assert [one.holds for one in open_drafts.opened(world.house, world.actor, world.client.id, flow.id).verdicts] == [
        True
    ]
    content = files.export(world.house, world.actor, world.client.id, flow.id)
    other = clients.take_on(world.house, world.actor, ClientForm("Sorrel Tearoom", "US", "America/New_York", "", ""))
    assert isinstance(other, ClientView)
    made = bringing.bring_in(world.house, world.actor, other.id, content, "Line", {}, NEW)
    assert isinstance(made, CallFlowView)
    draft = open_drafts.opened(world.house, world.actor, other.id, made.id)
    (verdict,) = draft.verdicts
    assert verdict.kept.expects.rings[0] in draft.people
    assert verdict.kept.expects.rings[0] != ada.key
    assert verdict.holds, verdict.misses


def test_who_may_keep_them(world: World, flow: CallFlow) -> None:
    viewer = world.actors["client_viewer"]
    args = (world.house, viewer, world.client.id, flow.id)
    for refused in (
        lambda: kept_rehearsals.keep(*args, [answered()]), lambda: kept_rehearsals.drop(*args, "r1"), lambda: kept_rehearsals.propose(*args),
        lambda: kept_rehearsals.proposed(*args), lambda: kept_rehearsals.take_proposed(*args, ["p1"]),
    ):  # fmt: skip
        with pytest.raises(NotAllowed):
            refused()
