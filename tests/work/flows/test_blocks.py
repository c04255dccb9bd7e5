"""Rows moved, doubled, dropped, pasted and taken out with what hangs below them; names of another client matched or made."""

from typing import Any

import pytest

from tests.world import World
from vokari.core.flows.outlined.blocks import Move
from vokari.work.agency.access import NotAllowed
from vokari.work.flows import blocks, client_flows, drafts, matching, open_drafts, texts
from vokari.work.flows.blocks import Row
from vokari.work.flows.matching import Match
from vokari.work.flows.open_drafts import OpenDraft
from vokari.work.flows.texts import Text
from vokari.work.house.views import CallFlowView
from vokari.work.people import everybody

PLAN = """\
say "Welcome"
ask
    1 tickets
        1 day tickets: Ada 410-555-0170
        2 season tickets: Ben 410-555-0171
    2 timetable: "Every hour"
    back to the start
    3 cars: Cy 410-555-0172
        busy: voicemail Night desk, tell desk@example.com
Everyone else: Ada, else voicemail Night desk"""


@pytest.fixture
def flow(world: World) -> CallFlowView:
    made = client_flows.create(world.house, world.actor, world.client.id, "Ferries", "PF")
    assert isinstance(made, CallFlowView)
    assert isinstance(texts.type_in(*here(world, made), PLAN, None), Text)
    return made


def here(world: World, flow: CallFlowView) -> tuple[Any, Any, int, int]:
    return world.house, world.actor, world.client.id, flow.id


def lines(world: World, flow: CallFlowView) -> list[str]:
    return texts.opened(*here(world, flow)).text.split("\n")


def row(world: World, flow: CallFlowView, words: str) -> Row:
    """The row whose line begins with some words."""
    found = next(
        one for one in blocks.written(open_drafts.opened(*here(world, flow))) if one.text.strip().startswith(words)
    )
    return (found.step, "") if found.step else found.way


@pytest.mark.parametrize(
    ("words", "how", "then"),
    [
        ("2 timetable", "up", ["    2 timetable", "    back to the start", "    1 tickets"]),
        ("1 day", "down", ["        2 season tickets: Ben", "        1 day tickets: Ada"]),
        ("3 cars", "deeper", ["    2 timetable: \"Every hour\"", "    back to the start"]),
        ("2 season", "less_deep", ["    4 season tickets: Ben", "    2 timetable"]),
        ("1 tickets", "double", ["        2 season tickets: Ben", "    4 tickets", "        1 day tickets: Ada"]),
    ],
)  # fmt: skip
def test_rows_go_where_they_are_put_with_all_that_hangs_below(
    world: World, flow: CallFlowView, words: str, how: Move, then: list[str]
) -> None:
    before = open_drafts.opened(*here(world, flow)).document
    result = blocks.move(*here(world, flow), row(world, flow, words), how)
    if how == "deeper":
        assert isinstance(result, list), "below an announcement a ring goes on, and a way back stands there already"
        assert lines(world, flow) == [one.text for one in blocks.written(open_drafts.opened(*here(world, flow)))]
        assert open_drafts.opened(*here(world, flow)).document == before
        return
    assert isinstance(result, tuple), result
    now = lines(world, flow)
    at = next(n for n, one in enumerate(now) if one.startswith(then[0]))
    assert [one.startswith(two) for one, two in zip(now[at:], then, strict=False)] == [True] * len(then), now
    kept = {step.id for step in before.steps} <= {step.id for step in result[0].document.steps}
    assert kept, "every step is the one that it was"
    assert result[0].document.unread == ()
    taken_back = drafts.undo(*here(world, flow))
    assert isinstance(taken_back, OpenDraft)
    assert taken_back.document == before


def test_a_row_is_dropped_behind_another_and_below_one(world: World, flow: CallFlowView) -> None:
    cars, tickets = row(world, flow, "3 cars"), row(world, flow, "1 tickets")
    assert isinstance(blocks.drop(*here(world, flow), cars, tickets, below=True), tuple)
    assert "        3 cars: Cy" in lines(world, flow)
    assert isinstance(blocks.drop(*here(world, flow), tickets, cars, below=False), list), "not below itself"
    assert isinstance(blocks.drop(*here(world, flow), cars, row(world, flow, "2 timetable"), below=False), tuple)
    assert "    3 cars: Cy" in lines(world, flow)
    assert isinstance(blocks.drop(*here(world, flow), ("gone", ""), cars, below=False), list)


def test_lines_of_a_mail_are_pasted_behind_a_row_with_the_next_keys(world: World, flow: CallFlowView) -> None:
    pasted = "• night boat: “Fridays at eleven”\n• holidays: Ben\n"
    assert isinstance(blocks.paste(*here(world, flow), row(world, flow, "3 cars"), pasted), tuple)
    assert lines(world, flow)[8:11] == [
        "        busy: voicemail Night desk", '    4 night boat: "Fridays at eleven"', "    5 holidays: Ben",
    ]  # fmt: skip
    assert isinstance(blocks.paste(*here(world, flow), None, "  \n"), list)


def test_an_exit_that_leads_elsewhere_is_taken_out(world: World, flow: CallFlowView) -> None:
    blocks.paste(*here(world, flow), row(world, flow, "3 cars"), "4 the same: to day tickets")
    assert isinstance(blocks.take_out(*here(world, flow), row(world, flow, "4 the same")), tuple)
    assert not [one for one in lines(world, flow) if "the same" in one]


def test_a_branch_of_another_client_is_matched_or_made_in_one_step(world: World, flow: CallFlowView) -> None:
    branch = "4 boats\n    1 lifts: Dana\n        busy: Olu 20s\n    2 parts: Dana, else voicemail Dock\n"
    pasted = blocks.paste(*here(world, flow), row(world, flow, "3 cars"), branch)
    assert isinstance(pasted, Text)
    assert [(one.kind, one.name) for one in pasted.strangers] == [
        ("person", "Dana"),
        ("person", "Olu"),
        ("mailbox", "Dock"),
    ]
    wrong = matching.match(*here(world, flow), [Match(pasted.strangers[0], "", "555")])
    assert isinstance(wrong, list)
    assert wrong[0].field == "0"
    done = matching.match(
        *here(world, flow),
        [
            Match(pasted.strangers[0], "Ben"),
            Match(pasted.strangers[1], "", "410-555-0177"),
            Match(pasted.strangers[2], "", "dock@example.com"),
        ],
    )
    assert isinstance(done, Text)
    assert (done.strangers, done.missing) == ((), {})
    assert "        1 lifts: Ben" in done.text
    people = everybody.everybody(world.house, world.actor, world.client.id).people
    assert "Olu" in [line.row.name for line in people]


def test_who_may_move_and_paste(world: World, flow: CallFlowView) -> None:
    at = row(world, flow, "3 cars")
    for role in ("client_editor", "client_viewer"):
        who = (world.house, world.actors[role], world.client.id, flow.id)
        for act in (
            lambda who=who: blocks.move(*who, at, "up"),
            lambda who=who: blocks.paste(*who, at, "label x"),
            lambda who=who: blocks.drop(*who, at, at, below=True),
            lambda who=who: blocks.take_out(*who, at),
            lambda who=who: matching.match(*who, []),
        ):
            with pytest.raises(NotAllowed):
                act()
