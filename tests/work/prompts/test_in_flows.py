"""Which take callers hear: live flows keep theirs until told otherwise, six at once are changed and taken back, seasons give back."""

from datetime import date, timedelta
from typing import Any

from tests.conftest import NOON
from tests.flows import document, say, voicemail
from tests.prompts import brought, key_of, prompt, sound
from tests.wire import Wire
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.document import FlowDocument
from vokari.store.flows import CallFlow
from vokari.work.flows import drafts, versions
from vokari.work.flows.open_drafts import OpenDraft
from vokari.work.prompts import in_flows, library, takes

NUMBER = "+14105550142"


def line(key: str, words: str = "Old words", name: str = "Line") -> FlowDocument:
    hello = {**say("a", words, "vm"), "prompt": {"say": words, "prompt": key}}
    return document(hello, voicemail(), rescue="vm", name=name)


def heard(world: World, ref: str, at: Any = NOON, called: str = NUMBER) -> dict[str, Any]:
    wire = Wire(world.house, ref, at)
    first = wire.arrive(called)[0]
    wire("caller_gone", 2.0)
    return first


def latest(world: World, prompt_id: int) -> int:
    with world.house.begin() as session:
        return takes.of_prompt(session, prompt_id)[0].id


def test_a_live_flow_keeps_its_take_until_told_otherwise(world: World) -> None:
    at = prompt(world, "Yard greeting", "First words")
    key = key_of(world, at)
    flow = world.flow(line(key))
    world.number(NUMBER, world.source("Van"), flow)
    assert heard(world, "c1")["words"] == "First words"
    takes.say(world.house, world.actor, world.client.id, at, "en-US", "Second words")
    assert heard(world, "c2")["words"] == "First words"
    batch = in_flows.use(world.house, world.actor, world.client.id, at, latest(world, at), [flow.id])
    assert isinstance(batch, str)
    assert heard(world, "c3")["words"] == "Second words"
    assert in_flows.take_back(world.house, world.actor, world.client.id, at, batch) == []
    assert heard(world, "c4")["words"] == "First words"
    in_flows.take_back(world.house, world.actor, world.client.id, at, batch, again=True)
    assert heard(world, "c5")["words"] == "Second words"


def test_a_new_take_is_put_into_six_flows_and_taken_back(world: World) -> None:
    at = prompt(world, "Notice", "We record calls.", shared=False)
    key = key_of(world, at)
    flows = [world.flow(line(key, name=f"Line {n}")) for n in range(6)]
    recorded = brought(world, at, sound(1.5), words="We record calls to learn.")
    with world.house.begin() as session:
        before = in_flows.playing_flows(session, world.house, library.own(session, world.actor, world.client.id, at))
    assert [one.now for one in before] == [{"en-US": 1}] * 6
    batch = in_flows.use(world.house, world.actor, world.client.id, at, recorded, [one.id for one in flows])
    assert isinstance(batch, str)
    with world.house.begin() as session:
        row = library.own(session, world.actor, world.client.id, at)
        assert [one.now for one in in_flows.playing_flows(session, world.house, row)] == [{"en-US": 2}] * 6
        (change,) = in_flows.changes(session, at)
        assert (change.flows, change.take, change.taken_back) == (6, 2, False)
    in_flows.take_back(world.house, world.actor, world.client.id, at, batch)
    with world.house.begin() as session:
        row = library.own(session, world.actor, world.client.id, at)
        assert [one.now for one in in_flows.playing_flows(session, world.house, row)] == [{"en-US": 1}] * 6


def test_a_moment_to_come_and_a_season_begin_and_end_by_themselves(world: World) -> None:
    at = prompt(world, "Yard greeting", "Usual words")
    flow = world.flow(line(key_of(world, at)))
    world.number(NUMBER, world.source("Van"), flow)
    usual = latest(world, at)
    holiday = takes.say(world.house, world.actor, world.client.id, at, "en-US", "Holiday words")
    new = takes.say(world.house, world.actor, world.client.id, at, "en-US", "New words")
    assert isinstance(holiday, int)
    assert isinstance(new, int)
    first = NOON.date() + timedelta(days=10)
    assert isinstance(
        in_flows.season(world.house, world.actor, world.client.id, at, holiday, first, first + timedelta(days=4)), str
    )
    local = (NOON + timedelta(days=12)).replace(tzinfo=None)
    assert isinstance(in_flows.use(world.house, world.actor, world.client.id, at, new, [flow.id], local), str)
    said = {days: heard(world, f"d{days}", NOON + timedelta(days=days))["words"] for days in (0, 9, 11, 14, 16)}
    assert said == {0: "Usual words", 9: "Usual words", 11: "Holiday words", 14: "Holiday words", 16: "New words"}
    wrong = in_flows.use(
        world.house, world.actor, world.client.id, at, new, [flow.id], (NOON - timedelta(days=1)).replace(tzinfo=None)
    )
    assert isinstance(wrong, list)
    assert isinstance(
        in_flows.season(world.house, world.actor, world.client.id, at, usual, date(2020, 1, 1), date(2020, 1, 2)), list
    )


def test_a_prompt_that_is_over_is_heard_as_the_one_it_falls_back_on(world: World) -> None:
    usual, spring = prompt(world, "Season calendar", "Usual words"), prompt(world, "Spring concert", "Spring words")
    keys = {one: key_of(world, one) for one in (usual, spring)}
    until = NOON.date() + timedelta(days=3)
    kept = {"true_until": until.isoformat(), "fallback": keys[usual]}
    assert library.keep(world.house, world.actor, world.client.id, spring, kept) == []
    world.number(NUMBER, world.source("Van"), world.flow(line(keys[spring])))
    assert [heard(world, f"e{days}", NOON + timedelta(days=days))["words"] for days in (0, 3, 4)] == [
        "Spring words", "Spring words", "Usual words",
    ]  # fmt: skip


def test_put_live_takes_the_newest_and_going_back_takes_what_was(world: World) -> None:
    at = prompt(world, "Yard greeting", "First words")
    flow = world.flow(line(key_of(world, at)))
    world.number(NUMBER, world.source("Van"), flow)
    takes.say(world.house, world.actor, world.client.id, at, "en-US", "Second words")
    _edited(world, flow, "Another name")
    assert not isinstance(versions.put_live(world.house, world.actor, world.client.id, flow.id), versions.Stopped)
    assert heard(world, "v2")["words"] == "Second words"
    _, lines, _ = versions.listed(world.house, world.actor, world.client.id, flow.id)
    versions.put_back(world.house, world.actor, world.client.id, flow.id, lines[-1].version.id)
    assert heard(world, "v1")["words"] == "First words"


def _edited(world: World, flow: CallFlow, name: str) -> OpenDraft:
    document_ = FlowDocument.model_validate(flow.draft)
    step = document_.step("a")
    assert step is not None
    made = drafts.edit(
        world.house, world.actor, world.client.id, flow.id, [SetStep(step=step.model_copy(update={"name": name}))]
    )
    assert isinstance(made, OpenDraft)
    return made


def test_a_removed_prompt_is_played_by_none_and_one_that_is_played_stays(world: World) -> None:
    used, unused = prompt(world, "Used", "Hello"), prompt(world, "Unused", "Goodbye")
    world.flow(line(key_of(world, used)), live=False)
    wrong = library.remove(world.house, world.actor, world.client.id, used)
    assert "is played by Line" in wrong[0].sentence
    assert library.remove(world.house, world.actor, world.client.id, unused) == []
    assert [one.prompt.name for one in library.listed(world.house, world.actor, world.client.id).prompts] == ["Used"]
    assert library.bring_back(world.house, world.actor, world.client.id, unused) == []
