"""Versions that go live at a moment to come, numbers that come along, flows inside flows, and what became of calls."""

from dataclasses import replace
from datetime import datetime, timedelta

import pytest
from sqlalchemy import select, text

from tests.conftest import NOON, StandingClock
from tests.flows import document, say, voicemail
from tests.wire import Wire
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.document import FlowDocument
from vokari.store.due import DueChange
from vokari.store.flows import CallFlow, FlowPassage, FlowVersion
from vokari.store.numbers import TrackingNumber
from vokari.work.agency import today
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.flows import bringing, comparing, drafts, files, open_drafts, removing, versions
from vokari.work.flows.versions import Going, Stopped
from vokari.work.house import due
from vokari.work.house.views import CallFlowView, FlowVersionView
from vokari.worker import DUE

SMALL = document(say("a", "Hello", "vm", name="Welcome"), voicemail(name="Box"), rescue="vm", name="Small", mark="SM")
TOMORROW = NOON + timedelta(days=1)


def later(world: World, at: datetime) -> World:
    """The same world at another moment."""
    clock = StandingClock()
    clock.moment = at
    return replace(world, house=replace(world.house, clock=clock))


def edited(world: World, flow: CallFlow, words: str) -> None:
    step = FlowDocument.model_validate(
        open_drafts.opened(world.house, world.actor, world.client.id, flow.id).flow.draft
    ).by_id["a"]
    changed = step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": words})})  # type: ignore[union-attr]
    assert not isinstance(
        drafts.edit(world.house, world.actor, world.client.id, flow.id, [SetStep(step=changed)]), list
    )


def live_number(world: World, flow: CallFlow) -> int:
    with world.house.begin() as session:
        return session.get_one(FlowVersion, session.get_one(CallFlow, flow.id).live_version_id).number


def test_a_version_planned_for_tomorrow_takes_effect_then_and_once(world: World) -> None:
    flow = world.flow(SMALL)
    number = world.number("+14105550142", world.source("Search advert"))
    edited(world, flow, "Winter hours")
    args = (world.house, world.actor, world.client.id, flow.id)
    planned = versions.put_live(*args, going=Going("winter", TOMORROW, (number.id,)))
    assert isinstance(planned, FlowVersionView)
    assert live_number(world, flow) == 1
    assert due.carry_out(world.house, DUE) == 0
    after = later(world, TOMORROW + timedelta(seconds=1))
    assert due.carry_out(after.house, DUE) == 1
    assert due.carry_out(after.house, DUE) == 0
    assert live_number(world, flow) == 2
    with world.house.begin() as session:
        assert session.get_one(TrackingNumber, number.id).flow_id == flow.id
    _, lines, plan = versions.listed(*args)
    assert plan is None
    assert [(line.version.number, line.lives[0][1:]) for line in lines if line.is_live] == [
        (2, ("Specialist", "winter"))
    ]
    back = versions.put_back(*args, lines[1].version.id)
    assert isinstance(back, FlowVersionView)
    assert live_number(world, flow) == 1


def test_what_is_planned_is_taken_back_or_refused_in_words(world: World) -> None:
    flow = world.flow(SMALL)
    args = (world.house, world.actor, world.client.id, flow.id)
    for at in (NOON, NOON - timedelta(days=1), NOON + timedelta(days=900)):
        stopped = versions.put_live(*args, going=Going(at=at))
        assert isinstance(stopped, Stopped)
        assert stopped.findings[0].kind == "past"
    edited(world, flow, "One")
    assert isinstance(versions.put_live(*args, going=Going(at=TOMORROW)), FlowVersionView)
    edited(world, flow, "Two")
    assert isinstance(versions.put_live(*args, going=Going(at=TOMORROW + timedelta(hours=1))), FlowVersionView)
    plan = versions.listed(*args)[2]
    assert plan is not None
    assert (plan.version.number, plan.at) == (3, TOMORROW + timedelta(hours=1)), (
        "the later plan takes the place of the first"
    )
    with pytest.raises(NotAllowed):
        versions.take_back_planned(world.house, world.actors["client_editor"], world.client.id, flow.id, plan.id)
    with pytest.raises(NotFound):
        versions.take_back_planned(*args, plan.id + 99)
    assert versions.take_back_planned(*args, plan.id)
    assert not versions.take_back_planned(*args, plan.id)
    assert due.carry_out(later(world, TOMORROW + timedelta(days=2)).house, DUE) == 0
    assert live_number(world, flow) == 1


def test_what_cannot_go_live_any_more_at_its_moment_stands_on_today(world: World) -> None:
    flow = world.flow(SMALL)
    edited(world, flow, "Soon")
    args = (world.house, world.actor, world.client.id, flow.id)
    assert isinstance(versions.put_live(*args, going=Going(at=TOMORROW)), FlowVersionView)
    with world.house.begin() as session:
        session.execute(text("UPDATE mailboxes SET tell = '{}'"))
        session.execute(text("DELETE FROM mailboxes"))
    after = later(world, TOMORROW + timedelta(minutes=1))
    assert due.carry_out(after.house, DUE) == 1
    with world.house.begin() as session:
        change = session.scalars(select(DueChange)).one()
        assert (change.state, bool(change.words)) == ("refused", True)
    assert live_number(world, flow) == 1
    assert "did not go live as planned" in next(
        one.sentence for one in today.needs(after.house, world.actor) if one.kind == "refused"
    )


def test_two_who_put_live_at_once_make_one_version(world: World) -> None:
    flow = world.flow(SMALL, live=False)
    args = (world.house, world.actor, world.client.id, flow.id)
    first, second = versions.put_live(*args, 0), versions.put_live(*args, 0)
    assert isinstance(first, FlowVersionView)
    assert isinstance(second, FlowVersionView)
    assert first.number == second.number == 1


def inner(way: str) -> FlowDocument:
    return document(say("a", "Inside", "c"), {"kind": "come_back", "id": "c", "way": way}, name="Inner", mark="IN")


def outer(key: str) -> FlowDocument:
    step = {"kind": "continue_in", "id": "in", "flow": key, "returns": [{"id": "w", "name": "done", "to": "t"}]}
    return document(step, say("t", "Outside", "vm"), voicemail(), rescue="vm", name="Outer", mark="OU")


def world_with_inner(world: World) -> tuple[CallFlow, CallFlow]:
    made = world.flow(inner("done"))
    with world.house.begin() as session:
        row = CallFlow(
            agency_id=world.agency_id,
            client_id=world.client.id,
            revision=0,
            draft=outer(made.key).model_dump(mode="json"),
        )
        session.add(row)
        session.execute(
            text(
                "INSERT INTO mailboxes (agency_id, client_id, key, name, tell) VALUES (:a, :c, 'mb', 'Box', '{x@example.com}')"
            ),
            {"a": world.agency_id, "c": world.client.id},
        )
        session.flush()
        outside = CallFlowView.of(row)
    put = versions.put_live(world.house, world.actor, world.client.id, outside.id)
    assert isinstance(put, FlowVersionView), put
    return made, outside  # type: ignore[return-value]


def test_a_call_stays_on_the_inner_version_it_came_in_on(world: World) -> None:
    inside, outside = world_with_inner(world)
    world.number("+14105550142", world.source("Search advert"), outside)
    wire = Wire(world.house)
    assert wire.arrive()[0]["words"] == "Inside"
    edited(world, inside, "Newer inside")
    assert isinstance(versions.put_live(world.house, world.actor, world.client.id, inside.id), FlowVersionView)
    assert wire("prompt_finished", 3, command=wire.commands[0]["id"])[0]["words"] == "Outside"
    wire("caller_gone", 9)
    other = Wire(world.house, "call-2", NOON + timedelta(minutes=5))
    assert other.arrive()[0]["words"] == "Newer inside"
    other("caller_gone", 4)
    from vokari.work.calls import history
    from vokari.work.calls.history import CallFilter

    line = history.log(world.house, world.actor, world.client.id, CallFilter())[-1]
    page = history.one(world.house, world.actor, world.client.id, line.call.id)
    assert page.document.step(f"{inside.key}/a") is not None
    with world.house.begin() as session:
        rows = {(one.step, one.exit): (one.calls, one.gave_up) for one in session.scalars(select(FlowPassage))}
    assert rows[("in", "w")] == (1, 0)
    assert rows[("c", "")][0] == 1, "steps of the inner flow are told of its own versions"
    assert ("vm", "") in rows or rows[("t", "")][0] == 1


def test_an_inner_flow_is_kept_from_breaking_those_around_it(world: World) -> None:
    inside, outside = world_with_inner(world)
    args = (world.house, world.actor, world.client.id)
    assert "continues in" in removing.remove(*args, inside.id)[0].sentence
    step = inner("moved").by_id["c"]
    assert not isinstance(drafts.edit(*args, inside.id, [SetStep(step=step)]), list)
    stopped = versions.put_live(*args, inside.id)
    assert isinstance(stopped, Stopped)
    assert [one.kind for one in stopped.findings] == ["breaks_outer"]
    file = files.export(*args, outside.id)
    looked = bringing.look(*args, file)
    assert not isinstance(looked, list)
    assert ("flow", "Inner") in {(one.thing.kind, one.thing.name) for one in looked.offered}


def test_a_version_that_loses_more_callers_is_marked_and_unmarked(world: World) -> None:
    flow = world.flow(SMALL)
    number = world.number("+14105550142", world.source("Search advert"), flow)
    edited(world, flow, "Worse")
    args = (world.house, world.actor, world.client.id, flow.id)
    after = later(world, NOON + timedelta(days=3))
    second = versions.put_live(after.house, *args[1:])
    assert isinstance(second, FlowVersionView)
    _, lines, _ = versions.listed(*args)
    first = lines[1].version.id

    def calls(version: int, day: int, fates: dict[str, int]) -> None:
        rows = [
            {"id": f"{day:08x}-{n:04x}-7000-8000-{version:012x}", "at": NOON + timedelta(days=day, minutes=n), "fate": fate, "version": version}
            for n, fate in enumerate(fate for fate, count in fates.items() for _ in range(count))
        ]  # fmt: skip
        with world.house.begin() as session:
            session.execute(text(
                "INSERT INTO calls (id, started_at, agency_id, client_id, number_id, caller, flow_id, version_id, source_by, fate, reason, seconds,"
                " talk_seconds, answered_by, labels, test, fail_safe) VALUES (:id, :at, :agency, :client, :number, '', :flow, :version, 'none',"
                " :fate, '', 9, 0, '', '{}', false, '')"
            ), [{**row, "agency": world.agency_id, "client": world.client.id, "number": number.id, "flow": flow.id} for row in rows])  # fmt: skip

    calls(first, 1, {"answered": 90, "lost": 10})
    calls(second.id, 4, {"answered": 30, "lost": 20})
    watching = later(world, NOON + timedelta(days=5)).house
    assert comparing.watch(watching) == 1
    need = next(one for one in today.needs(watching, world.actor) if one.kind == "worse")
    assert "40% of 50 calls lost, before 10% of 100" in need.sentence
    assert comparing.fates_of(*args)[second.id] == {"answered": 30, "lost": 20}
    calls(second.id, 5, {"answered": 400})
    assert comparing.watch(later(world, NOON + timedelta(days=6)).house) == 0
    compared = comparing.compare(*args, first, comparing.DRAFT)
    assert [one.sentence for one in compared.differences] == ["“Welcome” says “Worse”; before: “Hello”."]
