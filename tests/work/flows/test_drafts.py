"""Drafts: edits, undo and redo, two people at once, and what goes live."""

from typing import Any

from tests.flows import document, say, voicemail
from tests.world import World, main_line
from vokari.core.flows.drafting.edits import AddStep, Connect, RemoveStep, SetFlow, SetStep
from vokari.formats.mistakes import Mistake
from vokari.store.flows import CallFlow
from vokari.work.flows import bringing, client_flows, drafts, files, open_drafts, typed, versions
from vokari.work.flows.drafts import Conflict
from vokari.work.flows.open_drafts import OpenDraft
from vokari.work.house.problems import Problem
from vokari.work.house.views import CallFlowView, FlowVersionView, PersonView, TeamView
from vokari.work.people import keeping

SMALL = document(say("a", "Welcome", "vm", name="Welcome"), voicemail(name="Box"), rescue="vm", name="Small")


def spoken(world: World, flow: CallFlow, words: str) -> SetStep:
    step = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.step("a")
    return SetStep(step=step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": words})}))


def edit(world: World, flow: CallFlow, *wanted: object, base: int | None = None, who: str = "specialist") -> object:
    return drafts.edit(world.house, world.actors[who], world.client.id, flow.id, wanted, base)


def words(draft: OpenDraft) -> str:
    return draft.document.step("a").prompt.say


def test_undo_and_redo_go_back_and_forth(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    for text in ("One", "Two"):
        assert isinstance(edit(world, flow, spoken(world, flow, text)), OpenDraft)
    at = (world.house, world.actor, world.client.id, flow.id)
    assert words(drafts.undo(*at)) == "One"
    assert words(drafts.undo(*at)) == "Welcome"
    assert isinstance(drafts.undo(*at), list)
    assert words(drafts.redo(*at)) == "One"
    assert words(drafts.redo(*at)) == "Two"
    assert words(drafts.undo(*at)) == "One"
    edit(world, flow, spoken(world, flow, "Three"))
    assert isinstance(drafts.redo(*at), list)
    assert [entry.kind for entry, _ in drafts.history(*at)] == [
        "edit",
        "undo",
        "redo",
        "redo",
        "undo",
        "undo",
        "edit",
        "edit",
    ]


def test_what_was_all_taken_back_is_as_live(world: World) -> None:
    flow = world.flow(SMALL)
    at = (world.house, world.actor, world.client.id, flow.id)
    edited = edit(world, flow, spoken(world, flow, "Mine"))
    assert isinstance(edited, OpenDraft)
    assert edited.changed
    back = drafts.undo(*at)
    assert isinstance(back, OpenDraft)
    assert not back.changed
    ((listed, version, _),) = client_flows.listed(*at[:3])
    assert version is not None
    assert not open_drafts.differs(listed, version)


def test_edits_of_different_rows_by_two_people_both_stand(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    assert isinstance(edit(world, flow, spoken(world, flow, "Mine"), base=0), OpenDraft)
    box = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.step("vm")
    other = edit(world, flow, SetStep(step=box.model_copy(update={"longest": 60})), base=0, who="owner")
    assert isinstance(other, OpenDraft)
    assert (words(other), other.document.step("vm").longest) == ("Mine", 60)


def test_the_second_to_edit_a_row_is_told_and_shown_what_changed(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    mine, theirs = spoken(world, flow, "Mine"), spoken(world, flow, "Theirs")
    edit(world, flow, theirs, base=0, who="owner")
    told = edit(world, flow, mine, base=0)
    assert isinstance(told, Conflict)
    assert (told.who, told.before["prompt"]["say"], told.now["prompt"]["say"]) == ("Owner", "Welcome", "Theirs")
    assert isinstance(edit(world, flow, RemoveStep(id="a"), base=0), Conflict)
    knowing = edit(world, flow, mine, base=1)
    assert isinstance(knowing, OpenDraft)
    assert words(knowing) == "Mine"


def test_what_somebody_else_changed_since_is_not_undone_in_silence(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    edit(world, flow, spoken(world, flow, "Mine"))
    edit(world, flow, spoken(world, flow, "Theirs"), who="owner")
    refused = drafts.undo(world.house, world.actor, world.client.id, flow.id)
    assert isinstance(refused, list)
    assert "someone else" in refused[0].sentence
    assert words(open_drafts.opened(world.house, world.actor, world.client.id, flow.id)) == "Theirs"


def test_findings_stop_put_live_and_a_sound_draft_becomes_a_version(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    at = (world.house, world.actor, world.client.id, flow.id)
    edit(world, flow, Connect(step="a", exit="next", to=None))
    stopped = versions.put_live(*at)
    assert isinstance(stopped, versions.Stopped)
    assert {one.kind for one in stopped.findings} == {"open_exit"}
    drafts.undo(*at)
    first = versions.put_live(*at)
    assert isinstance(first, FlowVersionView)
    edit(world, flow, spoken(world, flow, "Changed"))
    second = versions.put_live(*at)
    assert isinstance(second, FlowVersionView)
    assert (first.number, second.number) == (1, 2)
    versions.put_back(world.house, world.actors["owner"], world.client.id, flow.id, first.id)
    _, lines, _ = versions.listed(*at)
    assert [(line.version.number, line.is_live, len(line.lives)) for line in lines] == [(2, False, 1), (1, True, 2)]
    assert lines[1].lives[1][1] == "Owner"
    assert lines[0].version.document["steps"][0]["prompt"]["say"] == "Changed"


def test_a_draft_that_was_edited_meanwhile_does_not_go_live_unseen(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    edit(world, flow, spoken(world, flow, "Other"), who="owner")
    stopped = versions.put_live(world.house, world.actor, world.client.id, flow.id, revision=0)
    assert isinstance(stopped, versions.Stopped)


def test_a_line_in_plain_words_adds_a_branch_and_its_step(world: World) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus panel"})
    draft = open_drafts.opened(world.house, world.actor, world.client.id, flow.id)
    ids = iter(range(100))
    wanted = typed.line_edits(
        draft, "4 ring Boat lifts 410-555-0162 25s", "m", "", lambda prefix: f"{prefix}n{next(ids)}"
    )
    assert isinstance(wanted, list)
    after = edit(world, flow, *wanted)
    assert isinstance(after, OpenDraft)
    menu = after.document.step("m")
    added = after.document.step(menu.branches[-1].to)
    assert (menu.branches[-1].keys, added.kind, added.to[0].number) == ("4", "ring", "+14105550162")
    assert len(drafts.history(world.house, world.actor, world.client.id, flow.id)) == 1


def test_a_typed_line_finds_who_is_called_so_and_asks_about_a_near_miss(world: World) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus panel"})
    args = (world.house, world.actor, world.client.id)
    ada = keeping.keep_person(*args, None, {"name": "Ada Marsh", "phones": [{"to": "+14105550171"}]})
    assert isinstance(ada, PersonView)
    team = keeping.keep_team(*args, None, {"name": "Moorings", "members": [{"person": ada.key}]})
    assert isinstance(team, TeamView)

    def typed_at(line: str) -> object:
        draft = open_drafts.opened(*args, flow.id)
        wanted = typed.line_edits(draft, line, "m", "nothing", lambda prefix: f"{prefix}new")
        return wanted if isinstance(wanted, Problem) else wanted[-1].fill

    assert typed_at("ring moorings")["to"] == [{"kind": "team", "id": "d1", "team": team.key}]
    assert typed_at("ring Moorings 35s")["limit"] == 35
    assert typed_at("ring Ada Marsh")["to"] == [{"kind": "person", "id": "d1", "person": ada.key}]
    assert typed_at("hold Moorings") == {"name": "Moorings", "team": team.key}
    box = open_drafts.opened(*args, flow.id).mailboxes[0]
    assert typed_at(f"voicemail {box.name.upper()}")["mailbox"] == box.key
    assert typed_at("ring Morings").sentence == "Nothing here is called “Morings”. Did you mean “Moorings”?"
    assert typed_at("hold Mooring").sentence.endswith("Did you mean “Moorings”?")
    assert "to" not in typed_at("ring Boat lifts")


def test_a_name_that_is_taken_is_told(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    world.flow(main_line(), live=False, sources={"ls_bus": "Bus panel"})
    assert isinstance(client_flows.create(world.house, world.actor, world.client.id, "small", ""), list)
    renamed = edit(world, flow, SetFlow(name="Main line"))
    assert isinstance(renamed, list)
    assert renamed[0].field == "name"
    assert client_flows.create(world.house, world.actor, world.client.id, "", "")[0].field == "name"
    made = client_flows.create(world.house, world.actor, world.client.id, "Tide and info line", "")
    assert isinstance(made, CallFlowView)
    assert made.mark == "TAI"


def test_a_flow_is_carried_to_another_client_with_its_materials(world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    text = files.export(world.house, world.actor, world.client.id, flow.id)
    copied = bringing.bring_in(world.house, world.actor, world.client.id, text, "Second line")
    assert isinstance(copied, CallFlowView)
    assert copied.draft["steps"] == flow.draft["steps"]
    twice = bringing.bring_in(world.house, world.actor, world.client.id, text)
    assert isinstance(twice, list)
    bad = bringing.bring_in(
        world.house, world.actor, world.client.id, text.replace("yard@example.com", "yard at example")
    )
    assert isinstance(bad, list)
    assert isinstance(bad[0], Mistake)


def test_a_file_with_what_cannot_run_leaves_nothing_behind(world: World) -> None:
    text = '{"flow": {"name": "Q", "mark": "QQ", "steps": [{"kind": "ring", "id": "h", "strategy": "rota"}]}, "materials": {"mailboxes": {"x": {"name": "New"}}}}'
    refused = bringing.bring_in(world.house, world.actor, world.client.id, text)
    assert isinstance(refused, list)
    assert "rota" in refused[0].sentence
    assert client_flows.listed(world.house, world.actor, world.client.id) == []


def test_adding_to_a_step_that_is_gone_is_told(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    gone = edit(world, flow, AddStep(id="n", kind="label", at_step="zz", at_exit="next"))
    assert isinstance(gone, list)
    assert "no longer" in gone[0].sentence


def test_the_only_person_team_and_mailbox_are_chosen_by_themselves(world: World) -> None:
    at = (world.house, world.actor, world.client.id)
    made = client_flows.create(*at, "Short line", "SL")
    assert isinstance(made, CallFlowView)
    ada = keeping.keep_person(*at, None, {"name": "Ada", "phones": [{"to": "+14105550170"}]}, ["+14105550170"])
    assert isinstance(ada, PersonView)

    def filled(kind: str) -> Any:
        return typed.usual_fill(open_drafts.opened(*at, made.id), kind)

    assert [one["person"] for one in filled("ring")["to"]] == [ada.key]
    keeping.keep_person(*at, None, {"name": "Ben", "phones": [{"to": "+14105550171"}]}, ["+14105550171"])
    assert "to" not in filled("ring")
