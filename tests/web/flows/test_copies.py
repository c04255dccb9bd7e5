"""A copy of a flow, and earlier versions of one: read, rehearsed, and left as they are."""

from collections.abc import Callable

import pytest

from tests.conftest import NOON
from tests.flows import document, say, voicemail
from tests.web.conftest import Browser
from tests.world import World, main_line, make_world
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.steps import Announcement
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.flows import client_flows, drafts, open_drafts, rehearsals, versions
from vokari.work.flows.open_drafts import OpenDraft
from vokari.work.flows.open_rehearsals import OpenRehearsal


def test_a_copy_has_the_draft_and_a_name_and_mark_of_its_own(world: World) -> None:
    flow = world.flow(main_line(name="Main line", mark="ML"), sources={"ls_bus": "Bus panel"})
    args = (world.house, world.actor, world.client.id)
    copies = [client_flows.duplicate(*args, flow.id) for _ in range(3)]
    assert [(one.name, one.mark) for one in copies] == [
        ("Main line copy", "ML2"), ("Main line copy 2", "ML3"), ("Main line copy 3", "ML4"),
    ]  # fmt: skip
    mine, other = open_drafts.opened(*args, flow.id).document, open_drafts.opened(*args, copies[0].id)
    assert other.document.steps == mine.steps
    assert other.live is None
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            client_flows.duplicate(world.house, world.actors[role], world.client.id, flow.id)
    elsewhere = make_world(world.house, "Other agency", "other.example.com")
    with pytest.raises(NotFound):
        client_flows.duplicate(world.house, elsewhere.actor, elsewhere.client.id, flow.id)


def test_an_earlier_version_is_rehearsed_as_it_was(world: World, sign_in: Callable[..., Browser]) -> None:
    flow = world.flow(document(say("a", "The old words", "vm"), voicemail(), rescue="vm"))
    args = (world.house, world.actor, world.client.id)
    old = versions.listed(*args, flow.id)[1][0].version
    step = open_drafts.opened(*args, flow.id).document.step("a")
    assert isinstance(step, Announcement)
    new = SetStep(step=step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": "The new words"})}))
    assert isinstance(drafts.edit(*args, flow.id, [new]), OpenDraft)
    assert not isinstance(versions.put_live(*args, flow.id), versions.Stopped)
    begun = rehearsals.begin(*args, flow.id, called="", caller="", at=NOON, version_id=old.id)
    assert isinstance(begun, OpenRehearsal)
    assert [step.prompt.say for step in begun.document.steps if isinstance(step, Announcement)] == ["The old words"]
    assert (begun.settings["version"], begun.is_stale) == (1, False)

    browser = sign_in("specialist")
    here = f"/clients/{world.client.id}/flows/{flow.id}"
    assert "Read and rehearse" in browser.get(f"{here}/versions").text
    page = browser.get(f"{here}/rehearse?version={old.id}").text
    assert "The old words" in page
    assert "The new words" not in page
    assert "an earlier version" in page
    assert browser.get(f"{here}/rehearse?version={old.id + 10**6}").status_code == 404
    form = {"called": "", "caller": "", "at": "2026-11-24T14:05", "ahead": "0", "version": str(old.id)}
    answer = browser.submit(f"{here}/rehearse", form)
    assert "The old words" in browser.get(answer.headers["location"]).text  # type: ignore[attr-defined]
