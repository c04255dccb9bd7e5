"""A whole plan typed as text: one edit, people and mailboxes made on the spot, lines that are not understood kept."""

import pytest

from tests.world import World, main_line
from vokari.core.flows.model.steps import Junction, Menu
from vokari.work.agency.access import NotAllowed
from vokari.work.flows import client_flows, drafts, texts, versions
from vokari.work.flows.drafts import Conflict
from vokari.work.flows.texts import Text
from vokari.work.house.views import CallFlowView
from vokari.work.people import everybody

PLAN = """say "Welcome to Pell Ferries"
ask
    1 tickets
        1 day tickets: Ada 410-555-0170 20s
        2 season tickets: Ben 410-555-0171 20s
    2 timetable
        1 North pier: "Every hour from seven to seven"
        2 Lighthouse: "Sundays at noon"
        0 back to the start
    3 vehicles
        1 cars: Cy 410-555-0172 20s
        2 freight
            1 quotes: Dee 410-555-0173 20s
            2 a load under way: Eve 410-555-0174 20s
            0 back
    4 anything else
        1 lost property: Finn 410-555-0175 20s
        2 groups: Ada
Everyone else: Ada, then voicemail Night desk, tell desk@example.com
"""


@pytest.fixture
def flow(world: World) -> CallFlowView:
    made = client_flows.create(world.house, world.actor, world.client.id, "Ferries", "PF")
    assert isinstance(made, CallFlowView)
    return made


def typed(world: World, flow: CallFlowView, text: str, base: int | None = None) -> Text:
    found = texts.type_in(world.house, world.actor, world.client.id, flow.id, text, base)
    assert isinstance(found, Text), found
    return found


def test_a_plan_is_typed_in_one_go_and_nothing_stops_it(world: World, flow: CallFlowView) -> None:
    found = typed(world, flow, PLAN)
    document = found.draft.document
    assert document.unread == ()
    assert [one.sentence for one in found.draft.stops] == []
    people = everybody.everybody(world.house, world.actor, world.client.id).people
    assert sorted(line.row.name for line in people) == ["Ada", "Ben", "Cy", "Dee", "Eve", "Finn"]
    menus = {step.name: step for step in document.steps if isinstance(step, Menu)}
    assert menus["tickets"].prompt.say == "For day tickets, press 1. For season tickets, press 2."
    assert menus["timetable"].prompt.say.endswith("To go back, press 0.")
    assert menus["freight"].nothing == menus["tickets"].wrong == document.everyone_else == document.rescue
    assert drafts.undo(world.house, world.actor, world.client.id, flow.id).document.steps == ()  # type: ignore[union-attr]


def test_what_is_written_out_and_typed_again_changes_nothing(world: World, flow: CallFlowView) -> None:
    first = typed(world, flow, PLAN)
    again = typed(world, flow, first.text)
    assert (again.text, again.draft.flow.revision, again.draft.document) == (
        first.text, first.draft.flow.revision, first.draft.document,
    )  # fmt: skip
    assert "    1 tickets\n        1 day tickets: Ada 20s" in first.text


def test_a_changed_line_keeps_its_step_and_a_menu_says_its_keys_anew(world: World, flow: CallFlowView) -> None:
    first = typed(world, flow, PLAN)
    ids = {step.id for step in first.draft.document.steps}
    changed = first.text.replace(
        "1 day tickets: Ada 20s", "1 day tickets: Ada 25s, press 1\n        3 lost tickets: Gus 555-0176"
    )
    after = typed(world, flow, changed, first.draft.flow.revision)
    new = {step.id for step in after.draft.document.steps} - ids
    assert len(new) == 1
    assert not ids - {step.id for step in after.draft.document.steps}
    tickets = next(step for step in after.draft.document.steps if step.name == "tickets")
    assert "For lost tickets, press 3." in tickets.prompt.say  # type: ignore[union-attr]


def test_a_condition_below_a_line_sorts_before_it_and_leaves_it_as_it_was(world: World, flow: CallFlowView) -> None:
    before = typed(world, flow, PLAN).draft.document
    later = PLAN.replace(
        "172 20s\n", "172 20s\n            Aug and Mon-Fri 8-12: Gus 410-555-0176\n            Dec: Ben\n"
    )
    later = later.replace("Everyone else", "Night: voicemail Night desk\n    Sat: Eve\nEveryone else")
    after = typed(world, flow, later).draft.document
    assert after.unread == ()
    cars = next(step for step in after.steps if step.name == "cars" and step.kind == "ring")
    assert cars == before.by_id[cars.id]
    sorts = [step for step in after.steps if isinstance(step, Junction)]
    assert [(len(step.branches), step.otherwise) for step in sorts] == [
        (2, cars.id), (1, next(step.id for step in after.steps if step.kind == "voicemail" and step.id != after.everyone_else and not before.step(step.id))),
    ]  # fmt: skip
    written = texts.opened(world.house, world.actor, world.client.id, flow.id).text
    assert (
        "            Aug and Mon-Fri 8-12: Gus\n            Dec: Ben\n            otherwise: Cy 20s as cars" in written
    )


def test_a_key_forgotten_in_a_plan_is_asked_about(world: World, flow: CallFlowView) -> None:
    forgotten = PLAN.replace("""        1 North pier: "Every hour from seven to seven"\n""", "")
    found = typed(world, flow, forgotten).draft
    assert "“timetable” has no key 1, and one behind it: was one forgotten?" in [one.sentence for one in found.findings]


def test_lines_that_are_not_understood_stay_and_nothing_goes_live(world: World, flow: CallFlowView) -> None:
    wrong = PLAN.replace("2 groups: Ada", "2 groups: Addy\n        1 twice: Ada\n        3 work: ring 410-555-01")
    found = typed(world, flow, wrong)
    said = {one.text: one.sentence for one in found.draft.document.unread}
    assert "Key 1 stands above already." in said["1 twice: Ada"]
    assert any("Addy" in words or "Addy" in text for text, words in said.items())
    assert len(said) == 3
    assert isinstance(versions.put_live(world.house, world.actor, world.client.id, flow.id), versions.Stopped)
    for text in said:
        assert text in found.text
    again = typed(world, flow, found.text)
    assert {one.text for one in again.draft.document.unread} == set(said)


def test_two_who_type_in_one_flow_see_each_other(world: World, flow: CallFlowView) -> None:
    first = typed(world, flow, PLAN)
    typed(world, flow, first.text.replace("Pell", "Bell"), first.draft.flow.revision)
    args = (world.house, world.actors["owner"], world.client.id, flow.id)
    held = texts.type_in(*args, first.text + "\n", first.draft.flow.revision)
    assert isinstance(held, Conflict)
    assert held.words == ("typed the flow as text",)
    assert "Bell" in texts.opened(*args).text


@pytest.mark.parametrize(
    "text",
    [
        "\0" * 50, "🙂 hello", "\u202eright to left", "\n".join(" " * n + "say hi" for n in range(80)), "x\n" * 3000, '"', "1 2 3",
        "ask\n\t1 a: “Hi”\n  - 2 b: ring Zed 410-555-017", "Everyone else:", "to", "as", "open: ", "else: x", "Everyone else: end\nEveryone else: end",
    ],
)  # fmt: skip
def test_whatever_is_typed_is_kept_or_told(world: World, flow: CallFlowView, text: str) -> None:
    assert typed(world, flow, text).draft.document is not None


def test_who_may_type_and_what_cannot_be_told_as_text(world: World, flow: CallFlowView) -> None:
    for role in ("client_viewer", "client_editor"):
        for refused in (
            lambda role=role: texts.opened(world.house, world.actors[role], world.client.id, flow.id),
            lambda role=role: texts.type_in(world.house, world.actors[role], world.client.id, flow.id, PLAN, None),
        ):
            with pytest.raises(NotAllowed):
                refused()
    other = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    assert texts.opened(world.house, world.actor, world.client.id, other.id).cannot == []
    too_long = texts.type_in(world.house, world.actor, world.client.id, flow.id, "x" * 400_001, None)
    assert isinstance(too_long, list)


def test_two_who_type_at_once_lose_no_line(world: World, flow: CallFlowView) -> None:
    """What the other saved meanwhile is laid under the text; the same key of both is a line that is not understood."""
    first = typed(world, flow, PLAN)
    base, was = first.draft.flow.revision, first.text
    typed(world, flow, was.replace("2 groups: Ada", '2 groups: Ada\n        3 parking: "By the pier"'), base)
    mine = was.replace("2 groups: Ada", '2 groups: Ada\n        3 work: "In spring"').replace("Pell", "Bell")
    found = texts.type_in(world.house, world.actors["owner"], world.client.id, flow.id, mine, base, was)
    assert isinstance(found, Text)
    assert found.theirs
    assert "Bell" in found.text
    assert "3 parking: " in found.text
    assert [(one.text, one.sentence) for one in found.draft.document.unread] == [
        ('3 work: "In spring"', "Key 3 stands above already.")
    ]


def test_a_line_that_is_still_typed_makes_nobody(world: World, flow: CallFlowView) -> None:
    args = (world.house, world.actor, world.client.id, flow.id, "ask\n    1 tickets: Ada 410-555-0170", 0)
    found = texts.type_in(*args, typing=1)
    assert isinstance(found, Text)
    assert not found.kept
    assert found.draft.document.steps == ()
    assert everybody.everybody(world.house, world.actor, world.client.id).people == []
    left = texts.type_in(*args, typing=0)
    assert isinstance(left, Text)
    assert left.kept
    assert left.made == (f"Ada is a person of {world.client.name} now.",)


def test_opening_times_are_typed_once(world: World, flow: CallFlowView) -> None:
    week = 'open Mon-Sat 7:30-18, Sun 9-13: say "Welcome", then Ada 410-555-0170\nclosed: say "We are closed", then voicemail Desk, tell desk@example.com'
    found = typed(world, flow, week)
    assert found.missing == {}
    assert found.made[-1].endswith("Mon-Sat 07:30-18:00; Sun 09:00-13:00.")
    assert found.text == ('open: say "Welcome"\n    ring Ada\nclosed: say "We are closed"\n    voicemail Desk')
    again = typed(world, flow, week)
    assert (again.made, again.draft.document) == ((), found.draft.document)
    other = typed(world, flow, week.replace("18,", "19,"))
    assert "change them under Hours" in other.missing[0]
