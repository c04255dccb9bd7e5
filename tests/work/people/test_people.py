"""People and teams: kept with words for every mistake, rung by live calls with fair turns, and replaced everywhere."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from sqlalchemy import select

from tests.conftest import NOON, StandingClock
from tests.flows import document, ring, voicemail
from tests.wire import Wire
from tests.world import World, make_world
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.steps import Ring
from vokari.core.people import erlang
from vokari.formats import flow_file
from vokari.store.calls import Call
from vokari.store.flows import CallFlow
from vokari.store.people import DutyRow, PersonRow, TeamRow
from vokari.work.agency import clients, trail
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.flows import bringing, drafts, files, open_drafts, rehearsals, versions
from vokari.work.hours import sets
from vokari.work.house import undoing
from vokari.work.house.problems import Problem, Refused
from vokari.work.house.views import CallFlowView, ClientView, HoursSetView, PersonView, TeamView
from vokari.work.people import everybody, keeping, meanings, replacing

CALLED = "+14105550142"
PHONES = {"Ada": "+14105550165", "Ben": "+14105550166", "Cleo": "+14105550167"}


def add(world: World, name: str, **more: Any) -> PersonRow:
    phones = [{"to": PHONES.get(name, "+14105550168"), "name": "desk"}]
    made = keeping.keep_person(
        world.house, world.actor, world.client.id, None, {"name": name, "phones": phones, **more}
    )
    assert isinstance(made, PersonView), made
    return made


def add_team(world: World, name: str, members: list[PersonRow], **more: Any) -> TeamRow:
    rows = [{"person": one.key} for one in members]
    made = keeping.keep_team(world.house, world.actor, world.client.id, None, {"name": name, "members": rows, **more})
    assert isinstance(made, TeamView), made
    return made


def rings_team(world: World, team: TeamRow, **more: Any) -> CallFlow:
    step = {
        **ring("r", no_answer="vm", name="Yard office", **more),
        "to": [{"kind": "team", "id": "t1", "team": team.key}],
    }
    return world.flow(document(step, voicemail(), rescue="vm", name="Team line", mark="TL"))


def said(result: object) -> list[tuple[str, str]]:
    problems = result.problems if isinstance(result, Refused) else result
    assert isinstance(problems, list), result
    return [(one.field, one.sentence) for one in problems if isinstance(one, Problem)]


@pytest.fixture
def staff(world: World) -> dict[str, PersonRow]:
    return {name: add(world, name) for name in PHONES}


@pytest.fixture
def line(world: World, staff: dict[str, PersonRow]) -> World:
    """A number whose callers ring three people by turns."""
    team = add_team(world, "Yard", list(staff.values()), strategy="round_robin")
    world.number(CALLED, world.source("Search advert"), rings_team(world, team))
    return world


def arrive(world: World, ref: str, clock: StandingClock | None = None) -> Wire:
    wire = Wire(world.house, ref, clock.now() if clock else NOON)
    wire.arrive(CALLED)
    return wire


# live calls


def test_turns_go_round_from_call_to_call(line: World) -> None:
    firsts = [arrive(line, f"c{n}").commands[0]["number"] for n in range(5)]
    assert firsts == [PHONES[name] for name in ("Ada", "Ben", "Cleo", "Ada", "Ben")]


def test_calls_from_test_phones_and_rehearsals_take_no_turn(line: World) -> None:
    assert not isinstance(clients.add_test_phone(line.house, line.actor, "410 555 0190", "Test", "US"), list)
    wire = Wire(line.house, "t")
    assert wire.arrive(CALLED, "+14105550190")[0]["number"] == PHONES["Ada"]
    flow_id = everybody.everybody(line.house, line.actor, line.client.id).teams[0].places[0].flow.id
    for _ in range(2):
        call = rehearsals.begin(line.house, line.actor, line.client.id, flow_id, called=CALLED, caller="", at=NOON)
        assert isinstance(call, rehearsals.OpenRehearsal)
        assert [(leg.name, leg.number) for leg in call.legs] == [("Ada", PHONES["Ada"])]
    assert arrive(line, "c").commands[0]["number"] == PHONES["Ada"]


def test_simultaneous_calls_never_take_the_same_turn(line: World) -> None:
    with ThreadPoolExecutor(6) as pool:
        wires = list(pool.map(lambda n: arrive(line, f"c{n}"), range(30)))
    counts = Counter(wire.commands[0]["number"] for wire in wires)
    assert counts == dict.fromkeys(PHONES.values(), 10)


def test_whoever_talks_is_busy_and_idle_again_afterwards(line: World, clock: StandingClock) -> None:
    first = arrive(line, "a")
    first("leg", 5, command=first.commands[0]["id"], outcome="answered")
    second = arrive(line, "b")
    rung = [second.commands[0]["number"]]
    rung.append(second("leg", 20, command=second.commands[0]["id"], outcome="rang_out")[0]["number"])
    last = second("leg", 40, command=second.commands[0]["id"], outcome="rang_out")
    assert rung == [PHONES["Ben"], PHONES["Cleo"]], "Ada is on a call"
    assert last[0]["type"] == "play"
    first("leg", 65, command=1, outcome="ended")
    duty = {one.person: one for one in rows(line, DutyRow)}
    staff = {row.name: row.key for row in rows(line, PersonRow)}
    ada = duty[staff["Ada"]]
    assert (ada.taken, ada.missed, ada.idle_since) == (1, 0, NOON.replace(minute=1, second=5))
    assert [duty[staff[name]].missed for name in ("Ben", "Cleo")] == [1, 1]
    done = history.log(line.house, line.actor, line.client.id, CallFilter())
    assert [one.call.answered_by for one in done if one.call.fate == "answered"] == [PHONES["Ada"]]


def test_a_daily_limit_holds_for_the_clients_own_day(world: World, clock: StandingClock) -> None:
    ada, ben = add(world, "Ada", daily_limit=1), add(world, "Ben")
    world.number(CALLED, world.source("Search advert"), rings_team(world, add_team(world, "Yard", [ada, ben])))
    first = arrive(world, "a")
    first("leg", 5, command=first.commands[0]["id"], outcome="answered")
    first("leg", 50, command=1, outcome="ended")
    assert arrive(world, "b").commands[0]["number"] == PHONES["Ben"]
    clock.move(days=1)
    assert arrive(world, "c", clock).commands[0]["number"] == PHONES["Ada"]


def test_switched_off_people_are_not_rung_and_nobody_left_is_said(line: World, staff: dict[str, PersonRow]) -> None:
    args = (line.house, line.actors["client_editor"], line.client.id)
    keeping.set_duty(*args, staff["Ada"].id, off=True)
    assert arrive(line, "a").commands[0]["number"] == PHONES["Ben"]
    for name in ("Ben", "Cleo"):
        keeping.set_duty(*args, staff[name].id, off=True)
    assert arrive(line, "b").commands[0]["type"] == "play"
    keeping.set_duty(*args, staff["Cleo"].id, off=False)
    assert arrive(line, "c").commands[0]["number"] == PHONES["Cleo"]
    words = [one.words for one in trail.listed(line.house, line.actor, line.client.id)]
    assert words[:2] == ["switched Cleo on", "switched Cleo off"]


def rows(world: World, model: Any) -> list[Any]:
    with world.house.begin() as session:
        return list(session.scalars(select(model)))


# keeping


@pytest.mark.parametrize(
    ("form", "field", "says"),
    [
        ({"name": " "}, "name", "1 to 60 letters"),
        ({"name": "ada"}, "name", "has this name already"),
        ({"name": "Dee", "extension": "12a"}, "extension", "up to six digits"),
        ({"name": "Dee", "extension": "21"}, "extension", "has this extension"),
        ({"name": "Dee", "daily_limit": 0}, "daily_limit", "greater than or equal to 1"),
        ({"name": "Dee", "leave": [{"first": "2026-12-02", "last": "2026-12-01"}]}, "leave.0", "ends before it starts"),
        ({"name": "Dee", "phones": [{"to": "911"}]}, "phones.0.to", "emergency"),
        ({"name": "Dee", "phones": [{"to": "410 555"}]}, "phones.0.to", "too few digits"),
        ({"name": "Dee", "phones": [{"to": "410 555 01420"}]}, "phones.0.to", "too many digits"),
        ({"name": "Dee", "phones": [{"to": CALLED}]}, "phones.0.to", "our own tracking numbers"),
        ({"name": "Dee", "phones": [{"to": "020 7946 0630"}]}, "phones.0.to", ""),
        ({"name": "Dee", "phones": [{"to": "+44 20 7946 0630"}]}, "phones.0.to", "another country (GB)"),
        ({"name": "Dee", "phones": [{"to": "410 555 0168", "seconds": 500}]}, "phones.0.seconds", "less than or equal to 120"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_person_is_said_and_nothing_is_kept(
    world: World, form: dict[str, Any], field: str, says: str
) -> None:
    add(world, "Ada", extension="21")
    world.number(CALLED, world.source("Search advert"))
    refused = said(keeping.keep_person(world.house, world.actor, world.client.id, None, form))
    assert [(one, says in sentence) for one, sentence in refused] == [(field, True)]
    assert [row.name for row in rows(world, PersonRow)] == ["Ada"]


def test_a_phone_abroad_is_kept_once_it_was_agreed_to(world: World) -> None:
    form = {"name": "Dee", "phones": [{"to": "+44 20 7946 0630"}]}
    kept = keeping.keep_person(world.house, world.actor, world.client.id, None, form, ["+442079460630"])
    assert isinstance(kept, PersonView)


def test_what_is_wrong_with_a_team_is_said(world: World, staff: dict[str, PersonRow]) -> None:
    args = (world.house, world.actor, world.client.id)
    one = add_team(world, "One", [staff["Ada"]])
    two = add_team(world, "Two", [staff["Ben"]], then=one.key)
    ada = {"person": staff["Ada"].key}
    for form, field, says in (
        ({"name": ""}, "name", "1 to 60 letters"),
        ({"name": "ONE"}, "name", "has this name already"),
        ({"name": "A", "members": [{"person": "pe_none"}]}, "members", "is gone"),
        ({"name": "A", "then": "te_none"}, "then", "is gone"),
        ({"name": "A", "members": [ada, ada]}, "members", "in this team twice"),
        (
            {"name": "A", "strategy": "weighted_share", "members": [{**ada, "weight": 0}]},
            "members",
            "every share is zero",
        ),
    ):
        refused = said(keeping.keep_team(*args, None, form))
        assert refused[0][0] == field
        assert says.lower() in refused[0][1].lower()
    circle = said(keeping.keep_team(*args, one.id, {"name": "One", "members": [ada], "then": two.key}))
    assert circle == [("then", "Teams would go round in a circle: One, then Two, then One.")]


def test_somebody_in_use_stays_and_who_was_removed_comes_back(line: World, staff: dict[str, PersonRow]) -> None:
    args = (line.house, line.actor, line.client.id)
    team = everybody.everybody(*args).teams[0].row
    assert said(keeping.remove(*args, "person", staff["Ada"].id)) == [
        ("", "Ada is rung by the team Yard: put somebody else there first.")
    ]
    assert "Team line, row 1 Yard office" in said(keeping.remove(*args, "team", team.id))[0][1]
    dee = add(line, "Dee")
    assert keeping.remove(*args, "person", dee.id) == []
    assert [row.name for row in everybody.everybody(*args).removed] == ["Dee"]
    again = add(line, "Dee")
    assert "has this name" in said(keeping.bring_back(*args, "person", dee.id))[0][1]
    assert keeping.remove(*args, "person", again.id) == []
    assert keeping.bring_back(*args, "person", dee.id) == []
    assert "Dee" in [one.row.name for one in everybody.everybody(*args).people]


# in somebody's place


def test_a_person_is_replaced_in_drafts_teams_and_live_in_one_step(line: World, staff: dict[str, PersonRow]) -> None:
    args = (line.house, line.actor, line.client.id)
    to = [{"kind": "person", "id": "p1", "person": staff["Ada"].key, "seconds": 15}]
    flow = line.flow(
        document(
            {**ring("r", no_answer="vm", name="Ada first"), "to": to},
            voicemail(),
            rescue="vm",
            name="Ada line",
            mark="AL",
        )
    )
    dee = add(line, "Dee")
    places = everybody.everybody(*args).person(staff["Ada"].id).places
    assert [(place.words, place.draft, place.live) for place in places] == [("Ada line, row 1 Ada first", True, True)]
    done = replacing.replace(*args, "person", staff["Ada"].id, dee.id, [flow.id], live=True)
    assert done == ["the team Yard", "the draft of Ada line", "Ada line, live"]
    everyone = everybody.everybody(*args)
    assert everyone.teams[0].members == ["Dee", "Ben", "Cleo"]
    assert everyone.person(staff["Ada"].id).places == []
    draft = open_drafts.opened(*args, flow.id)
    step = draft.shown.step("r")
    assert isinstance(step, Ring)
    assert [getattr(one, "name", "") for one in step.to] == ["Dee"]
    assert draft.live
    assert draft.live.number == 2
    assert not draft.changed, "what is live equals the draft, as before"
    assert keeping.remove(*args, "person", staff["Ada"].id) == []
    assert said(replacing.replace(*args, "person", dee.id, dee.id, [], live=False)) == [("by", "Choose somebody else.")]


def test_a_flow_that_rings_somebody_who_is_gone_does_not_go_live(world: World) -> None:
    flow = world.flow(document(ring("r", no_answer="vm"), voicemail(), rescue="vm"), live=False)
    gone = {**ring("r", no_answer="vm"), "to": [{"kind": "person", "id": "p1", "person": "pe_none"}]}
    edited = drafts.edit(
        world.house, world.actor, world.client.id, flow.id, [SetStep.model_validate({"do": "set_step", "step": gone})]
    )
    assert isinstance(edited, open_drafts.OpenDraft)
    put = versions.put_live(world.house, world.actor, world.client.id, flow.id)
    assert isinstance(put, versions.Stopped)
    assert any("gone" in one.sentence for one in put.findings)


def test_who_may_change_people(world: World, staff: dict[str, PersonRow]) -> None:
    house, client_id, ada = world.house, world.client.id, staff["Ada"].id
    other = make_world(house, "Other agency", "other.example.com")
    changes = [
        lambda actor: everybody.everybody(house, actor, client_id),
        lambda actor: keeping.keep_person(house, actor, client_id, ada, {"name": "Ada"}),
        lambda actor: keeping.keep_team(house, actor, client_id, None, {"name": ""}),
        lambda actor: keeping.set_duty(house, actor, client_id, ada, off=True),
        lambda actor: keeping.remove(house, actor, client_id, "person", ada),
        lambda actor: keeping.bring_back(house, actor, client_id, "person", ada),
    ]
    for change in changes:
        change(world.actors["client_editor"])
        with pytest.raises(NotAllowed):
            change(world.actors["client_viewer"])
        with pytest.raises(NotFound):
            change(other.actor)
    with pytest.raises(NotAllowed):
        replacing.replace(
            house, world.actors["client_editor"], client_id, "person", ada, staff["Ben"].id, [], live=False
        )
    theirs = keeping.keep_person(house, other.actor, other.client.id, None, {"name": "Theirs"})
    assert isinstance(theirs, PersonView)
    with pytest.raises(NotFound):
        replacing.replace(house, world.actor, client_id, "person", ada, theirs.id, [], live=False)


def test_the_log_of_a_call_says_who_was_lined_up(line: World) -> None:
    wire = arrive(line, "a")
    wire("leg", 20, command=1, outcome="answered")
    wire("caller_gone", 60)
    call = rows(line, Call)[0]
    page = history.one(line.house, line.actor, line.client.id, call.id)
    answer = next(one for one in page.entries[0]["answers"] if one["ask"] == "line_up")
    assert [[one["name"] for one in wave] for wave in answer["answer"][0]] == [["Ada"], ["Ben"], ["Cleo"]]
    assert page.document.step("r").to[0].name == "Yard"


def test_what_a_team_means_now_and_at_its_own_load(line: World, staff: dict[str, PersonRow]) -> None:
    args = (line.house, line.actor, line.client.id)
    team = everybody.everybody(*args).teams[0]
    few = meanings.of_team(*args, team.row.id)
    assert few.now.longest == 54
    assert few.hours == []
    for n in range(24):
        wire = arrive(line, f"m{n}")
        wire("leg", 5, command=wire.commands[0]["id"], outcome="answered")
        wire("leg", 185, command=wire.commands[0]["id"] if wire.commands else 1, outcome="ended")
        if not wire.ended:
            wire("caller_gone", 190)
    means = meanings.of_team(*args, team.row.id)
    assert [(one.hour, one.calls, one.people) for one in means.hours] == [(12, 24 / 20, 3)]
    assert means.mean_seconds == pytest.approx(180, abs=6)
    assert means.hours[0].chance == pytest.approx(erlang.blocking(3, means.hours[0].erlangs))
    flow = team.places[0].flow
    step = meanings.of_step(*args, flow.id, "r")
    assert step
    assert step.now.longest == 54
    assert meanings.of_step(*args, flow.id, "vm") is None
    keeping.set_duty(*args, staff["Ada"].id, off=True)
    assert meanings.of_team(*args, team.row.id).now.longest == 36
    with pytest.raises(NotAllowed):
        meanings.of_team(line.house, line.actors["client_viewer"], line.client.id, team.row.id)
    with pytest.raises(NotFound):
        meanings.of_step(*args, 999, "r")


def test_a_flow_carries_its_people_and_teams_to_another_client(world: World, staff: dict[str, PersonRow]) -> None:
    duty = sets.create(world.house, world.actor, world.client.id, "Ben’s times", "own")
    assert isinstance(duty, HoursSetView)
    args = (world.house, world.actor, world.client.id)
    ben = {"name": "Ben", "phones": [{"to": PHONES["Ben"]}], "hours": duty.key, "extension": "22"}
    assert isinstance(keeping.keep_person(*args, staff["Ben"].id, ben), PersonView)
    behind = add_team(world, "Duty", [staff["Ben"]])
    yard = add_team(world, "Yard", [staff["Ada"]], then=behind.key)
    text = files.export(*args, rings_team(world, yard).id)
    file = flow_file.read(text)
    assert isinstance(file, flow_file.FlowFile)
    assert {one.name for one in file.materials.people.values()} == {"Ada", "Ben"}
    assert {one.name for one in file.materials.teams.values()} == {"Yard", "Duty"}
    other = clients.take_on(world.house, world.actor, ClientForm("Alder Lane Cattery", "US", "America/New_York"))
    assert isinstance(other, ClientView)
    for n in range(2):
        made = bringing.bring_in(world.house, world.actor, other.id, text, f"Copy {n}", rest=bringing.NEW)
        assert isinstance(made, CallFlowView), made
    there = everybody.everybody(world.house, world.actor, other.id)
    assert [one.row.name for one in there.people] == ["Ada", "Ben"], "the second copy finds them by name"
    assert [(one.row.name, one.members, one.then) for one in there.teams] == [
        ("Duty", ["Ben"], ""),
        ("Yard", ["Ada"], "Duty"),
    ]
    assert there.people[1].person.hours in there.hours
    assert there.hours[there.people[1].person.hours or ""] == "Ben’s times"
    assert not {one.row.key for one in there.people} & {one.key for one in staff.values()}
    draft = open_drafts.opened(world.house, world.actor, other.id, made.id)
    assert [one.sentence for one in draft.findings if one.weight == "stops"] == []
    assert files.export(world.house, world.actor, other.id, made.id).count('"name": "Ada"') == 1


def test_a_saved_person_and_a_saved_team_can_be_taken_back_and_done_again(line: World) -> None:
    args = (line.house, line.actor, line.client.id)
    found = everybody.everybody(*args)
    ada, yard = found.people[0], found.teams[0]
    assert keeping.steps(*args, "person", ada.row.id) == undoing.Steps()
    assert keeping.step_back(*args, "person", ada.row.id, "undo") == [Problem("", "There is nothing to undo.")]
    changed = {**ada.person.model_dump(mode="json"), "name": "Ada Lark", "note": "Mornings"}
    assert not isinstance(keeping.keep_person(*args, ada.row.id, changed), list)
    assert keeping.steps(*args, "person", ada.row.id).undo == "changed the name and the note"
    assert keeping.step_back(*args, "person", ada.row.id, "undo") == []
    assert everybody.everybody(*args).person(ada.row.id).person == ada.person
    assert keeping.step_back(*args, "person", ada.row.id, "redo") == []
    assert everybody.everybody(*args).person(ada.row.id).person.name == "Ada Lark"
    fewer = {**yard.team.model_dump(mode="json"), "members": yard.team.model_dump(mode="json")["members"][1:]}
    assert not isinstance(keeping.keep_team(*args, yard.row.id, fewer), list)
    assert keeping.remove(*args, "person", ada.row.id) == []
    gone = keeping.step_back(*args, "team", yard.row.id, "undo")
    assert [one.sentence for one in gone] == ["Somebody in this team is gone: take them out."]
    assert len(everybody.everybody(*args).team(yard.row.id).team.members) == len(yard.team.members) - 1
    assert keeping.bring_back(*args, "person", ada.row.id) == []
    assert keeping.step_back(*args, "team", yard.row.id, "undo") == []
    assert everybody.everybody(*args).team(yard.row.id).team == yard.team
