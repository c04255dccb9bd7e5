"""A flow from another client's file: all that it names is listed first, and comes along only as the specialist says."""

import json

import pytest

from tests.flows import DANA, document, menu, phone, ring, voicemail
from tests.work.people.test_people import PHONES, add, add_team
from tests.world import World
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import Menu, Ring, Voicemail
from vokari.store.agency import Client
from vokari.work.agency import clients, mailboxes
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.clients import ClientForm
from vokari.work.flows import bringing, client_flows, files, open_drafts
from vokari.work.flows.bringing import NEW, Offered
from vokari.work.hours import sets
from vokari.work.house.views import CallFlowView, ClientView, HoursSetView
from vokari.work.numbers import sources
from vokari.work.people import everybody, keeping


@pytest.fixture
def file(world: World) -> str:
    """A flow of the boatyard with a team, own times, a mailbox, a lead source, a phone of its own, a notice and a look-up."""
    args = (world.house, world.actor, world.client.id)
    times = sets.create(*args, "Yard times", "own")
    assert isinstance(times, HoursSetView)
    ada = add(world, "Ada", hours=times.key, email="ada@example.com")
    team = add_team(world, "Yard", [ada])
    to = [*ring("r", phone("Dana", DANA))["to"], {"kind": "team", "id": "t1", "team": team.key}]
    steps = (
        menu("m", {"1": "r", "7": {"to": "n", "source": "ls_bus"}}, nothing="r", wrong="r"),
        {**ring("r", no_answer="vm"), "to": to},
        {"kind": "notify", "id": "n", "to": [{"kind": "email", "of": "desk@example.com"}], "words": "A call", "next": "l"},
        {"kind": "look_up", "id": "l", "url": "https://system.example.com/boats", "found": "vm", "not_found": "vm", "failed": "vm"},
        voicemail(),
    )  # fmt: skip
    flow = world.flow(document(*steps, rescue="vm"), live=False, sources={"ls_bus": "Bus panel"})
    return files.export(*args, flow.id)


@pytest.fixture
def other(world: World) -> Client:
    made = clients.take_on(world.house, world.actor, ClientForm("Alder Lane Cattery", "US", "America/New_York"))
    assert isinstance(made, ClientView)
    return made


def look(world: World, client: Client, file: str, **choices: str) -> dict[str, Offered]:
    found = bringing.look(world.house, world.actor, client.id, file, choices)
    assert isinstance(found, bringing.Looked), found
    return {one.thing.name: one for one in found.offered}


def brought(
    world: World, client: Client, file: str, choices: dict[str, str] | None = None, rest: str = "open"
) -> FlowDocument:
    made = bringing.bring_in(world.house, world.actor, client.id, file, "", choices, rest)
    assert isinstance(made, CallFlowView), made
    return FlowDocument.model_validate(made.draft)


def has(world: World, client: Client) -> list[int]:
    """How many people, teams, hours, mailboxes and sources a client has."""
    args = (world.house, world.actor, client.id)
    found = everybody.everybody(*args)
    return [
        len(found.people), len(found.teams), len(sets.listed(*args)[1]), len(mailboxes.of_client(*args)),
        len(sources.lead_sources(*args)),
    ]  # fmt: skip


def test_everything_that_a_file_names_is_listed_before_anything_is_kept(world: World, other: Client, file: str) -> None:
    found = look(world, other, file)
    assert {name: (one.thing.kind, one.chosen) for name, one in found.items()} == {
        "Ada": ("person", "open"), "Yard": ("team", "open"), "Yard times": ("hours", "open"), "Box mb": ("mailbox", "open"),
        "Bus panel": ("source", "open"), "Dana": ("phone", "open"), "desk@example.com": ("address", "open"),
        "https://system.example.com/boats": ("address", "open"),
    }  # fmt: skip
    assert PHONES["Ada"] in found["Ada"].thing.says
    assert "ada@example.com" in found["Ada"].thing.says
    assert has(world, other) == [0] * 5


def test_nothing_comes_along_unasked(world: World, other: Client, file: str) -> None:
    flow = brought(world, other, file)
    assert has(world, other) == [0] * 5
    ringing, box, keys = flow.step("r"), flow.step("vm"), flow.step("m")
    assert isinstance(ringing, Ring)
    assert isinstance(box, Voicemail)
    assert isinstance(keys, Menu)
    assert (ringing.to, box.mailbox, {branch.source for branch in keys.branches}) == ((), None, {None})
    text = json.dumps(flow.model_dump(mode="json"))
    assert "example.com" not in text
    assert DANA not in text
    draft = open_drafts.opened(
        world.house, world.actor, other.id, client_flows.listed(world.house, world.actor, other.id)[0][0].id
    )
    assert draft.stops, "what is left open is told, and stops Put live"


def test_each_is_matched_made_or_left_open_as_is_said(world: World, other: Client, file: str) -> None:
    args = (world.house, world.actor, other.id)
    box = mailboxes.keep(*args, None, "Cattery desk", "cattery@example.com")
    assert not isinstance(box, list)
    named = {name: one.thing.id for name, one in look(world, other, file).items()}
    mailbox = next(one.thing.id for one in look(world, other, file).values() if one.thing.kind == "mailbox")
    phone_id = next(one.thing.id for one in look(world, other, file).values() if one.thing.kind == "phone")
    flow = brought(world, other, file, {mailbox: f"as:{box.key}", named["Ada"]: NEW, named["Yard"]: NEW, phone_id: NEW})
    assert has(world, other) == [1, 1, 0, 1, 0]
    ringing, keeps = flow.step("r"), flow.step("vm")
    assert isinstance(ringing, Ring)
    assert isinstance(keeps, Voicemail)
    assert keeps.mailbox == box.key
    assert [one.kind for one in ringing.to] == ["number", "team"]
    (ada,) = everybody.everybody(*args).people
    assert ada.teams == ["Yard"]


def test_what_has_the_same_name_here_is_matched(world: World, other: Client, file: str) -> None:
    args = (world.house, world.actor, other.id)
    mine = keeping.keep_person(*args, None, {"name": "ada", "phones": [{"to": "+14105550171"}]})
    assert not isinstance(mine, list)
    offered = look(world, other, file)["Ada"]
    assert (offered.chosen, offered.known) == (f"as:{mine.key}", [(mine.key, "ada")])
    brought(world, other, file, rest=NEW)
    assert has(world, other) == [1, 1, 1, 1, 1]
    (member,) = everybody.everybody(*args).teams[0].team.members
    assert member.person == mine.key
    assert [one.to for one in everybody.everybody(*args).people[0].person.phones] == ["+14105550171"]


@pytest.mark.parametrize(
    ("to", "said"), [("911", "emergency number"), ("+14105550142", "our own tracking numbers"), ("+1900555", "")]
)
def test_phones_are_looked_at_as_the_form_does(world: World, other: Client, file: str, to: str, said: str) -> None:
    world.number("+14105550142")
    for phone_of_file in (PHONES["Ada"], DANA):
        bad = file.replace(phone_of_file, to)
        found = look(world, other, bad)
        wrong = [one for one in found.values() if one.wrong]
        assert len(wrong) == 1
        assert said in wrong[0].wrong[0]
        assert not wrong[0].can_be_made
        made = bringing.bring_in(
            world.house, world.actor, other.id, bad, f"With {phone_of_file}", {wrong[0].thing.id: NEW}, NEW
        )
        assert isinstance(made, CallFlowView)
        dialed = [
            phone.to
            for line in everybody.everybody(world.house, world.actor, other.id).people
            for phone in line.person.phones
        ]
        assert to not in dialed
        assert to not in json.dumps(made.draft)


def test_a_phone_of_another_country_is_named(world: World, other: Client, file: str) -> None:
    found = look(world, other, file.replace(PHONES["Ada"], "+442079460011"))["Ada"]
    assert found.notes == ["+442079460011 is in another country."]
    assert found.can_be_made


def test_a_key_that_the_file_does_not_explain_is_nobody_of_the_client(world: World, other: Client, file: str) -> None:
    raw = json.loads(file)
    raw["materials"] = {}
    found = look(world, other, json.dumps(raw))
    assert {one.thing.kind for one in found.values() if not one.thing.brought} == {"team", "mailbox", "source"}
    assert not any(one.can_be_made for one in found.values() if not one.thing.brought)
    brought(world, other, json.dumps(raw), rest=NEW)
    assert has(world, other) == [0] * 5
    back = bringing.look(world.house, world.actor, world.client.id, json.dumps(raw))
    assert isinstance(back, bringing.Looked)
    assert all(one.chosen.startswith("as:") or one.chosen == NEW for one in back.offered), (
        "its own client knows them by key"
    )


def test_who_may_bring_a_flow_in_and_what_cannot_be_read(world: World, file: str) -> None:
    for act in (bringing.look, bringing.bring_in):
        for role in ("client_editor", "client_viewer"):
            with pytest.raises(NotAllowed):
                act(world.house, world.actors[role], world.client.id, file)
        with pytest.raises(NotFound):
            act(world.house, world.actor, 99, file)
        for odd in (
            "[" * 100_000,
            '{"flow": ' * 2000,
            f'{{"flow": {"9" * 5000}}}',
            "\x00",
            '{"flow": {"version": 1e999}}',
        ):
            assert isinstance(act(world.house, world.actor, world.client.id, odd), list)
    deep = {"test": "all", "parts": []}
    for _ in range(200):
        deep = {"test": "all", "parts": [deep]}
    steps = [{"kind": "junction", "id": "j", "branches": [{"id": "b", "when": deep, "to": "j"}], "otherwise": "j"}]
    nested = json.dumps({"flow": {"name": "Deep", "mark": "DP", "steps": steps}})
    assert isinstance(bringing.look(world.house, world.actor, world.client.id, nested), list)
