"""Verification calls: who is rung, what comes of it, and what flows say of phones that nobody ever tried."""

import pytest

from tests.conftest import StandingClock
from tests.flows import DANA, JOEL, document, phone, ring, voicemail
from tests.wire import Wire
from tests.work.people.test_people import CALLED, add, add_team, rings_team
from tests.world import World
from vokari.core.flows.drafting.edits import AddStep
from vokari.core.flows.model.document import FlowDocument
from vokari.standins.carrier.app import Carrier
from vokari.store.flows import CallFlow
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.flows import client_flows, drafts, open_drafts
from vokari.work.house.problems import Refused
from vokari.work.people import everybody, keeping, renumbering, verifying
from vokari.work.people.verifying import Destination


@pytest.fixture
def line(world: World, carrier: Carrier) -> World:
    """Ada and Ben in a team, and a flow that rings two phones of its own."""
    carrier.verifying.seconds = 0
    add_team(world, "Yard", [add(world, "Ada"), add(world, "Ben")])
    steps = (ring("r", phone("Dana", DANA), phone("Joel", "+14105550113"), no_answer="vm"), voicemail())
    world.flow(document(*steps, rescue="vm", name="Main line", mark="ML"))
    return world


def ask(world: World, to: str) -> list[str]:
    return [one.sentence for one in verifying.ask(world.house, world.actor, world.client.id, to)]


def of(world: World, to: str) -> Destination:
    found = verifying.phones(world.house, world.actor, world.client.id).of(to)
    assert found is not None
    return found


def test_every_phone_that_can_be_rung_is_listed_with_whose_it_is(line: World) -> None:
    found = verifying.phones(line.house, line.actor, line.client.id).destinations
    assert {one.to: one.whose for one in found} == {
        "+14105550165": ["Ada, desk"], "+14105550166": ["Ben, desk"],
        DANA: ["Main line, Dana and Joel, Dana"], "+14105550113": ["Main line, Dana and Joel, Joel"],
    }  # fmt: skip
    assert all(one.verified is None for one in found)


def test_a_phone_whose_key_is_pressed_is_verified_from_that_moment(line: World, clock: StandingClock) -> None:
    assert ask(line, DANA) == []
    assert of(line, DANA) == Destination(DANA, ["Main line, Dana and Joel, Dana"], clock.now(), "", False)


@pytest.mark.parametrize(
    ("to", "said"), [("+14105550113", "nobody answered"), ("+14105550114", "nobody pressed the key")]
)
def test_a_phone_that_does_not_answer_is_not_verified(line: World, to: str, said: str) -> None:
    keeping.keep_person(
        line.house, line.actor, line.client.id, None, {"name": "Cleo", "phones": [{"to": "+14105550114"}]}
    )
    assert ask(line, to) == []
    assert (of(line, to).verified, of(line, to).latest) == (None, said)


def test_while_it_rings_it_is_not_rung_again_and_after_a_while_it_counts_as_not_answered(
    line: World, carrier: Carrier, clock: StandingClock
) -> None:
    carrier.verifying.seconds = 3600
    assert ask(line, DANA) == []
    assert of(line, DANA).ringing
    assert ask(line, DANA) == ["This phone is being rung already."]
    clock.move(minutes=3)
    assert of(line, DANA).latest == "nobody answered"
    assert verifying.follow(line.house) == 0


def test_only_phones_that_can_be_rung_anyhow_are_called(line: World) -> None:
    assert ask(line, "+14105550199") == ["No person and no flow of this client has this phone."]
    for role, raises in (("client_viewer", NotAllowed),):
        with pytest.raises(raises):
            verifying.ask(line.house, line.actors[role], line.client.id, DANA)
    assert verifying.ask(line.house, line.actors["client_editor"], line.client.id, DANA) == []
    with pytest.raises(NotFound):
        verifying.phones(line.house, line.actor, line.client.id + 1)


def test_a_carrier_that_cannot_is_said(line: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(
        line.house.carrier._port,
        "http",
        type(line.house.carrier.http)(line.house.carrier.http.app, base_url="http://carrier"),
    )
    assert ask(line, DANA) == ["The carrier does not know you."]
    assert of(line, DANA).latest == "the carrier refused: The carrier does not know you."


def test_those_never_verified_are_rung_one_after_the_other(line: World, carrier: Carrier, clock: StandingClock) -> None:
    args = (line.house, line.actor, line.client.id)
    ask(line, DANA)
    verifying.follow(line.house)
    carrier.verifying.seconds = 3600
    assert verifying.ask_all(*args) == []
    assert [len(line.jobs("verify_next")), verifying.waiting_clients(line.house)] == [1, [line.client.id]]
    assert verifying.phones(*args).waiting == 3
    assert verifying.ask_all(*args)[0].sentence == "Every phone was verified, or is about to be rung."
    rung = []
    while verifying.ring_next(line.house, line.client.id):
        ringing = [one.to for one in verifying.phones(*args).destinations if one.ringing]
        assert len(ringing) == 1, "one at a time"
        verifying.ring_next(line.house, line.client.id)
        assert [one.to for one in verifying.phones(*args).destinations if one.ringing] == ringing
        rung += ringing
        clock.move(minutes=3)
    assert sorted(rung) == ["+14105550113", "+14105550165", "+14105550166"]
    assert verifying.waiting_clients(line.house) == []


def test_what_waits_to_be_verified_can_be_stopped_and_comes_again_by_itself_until_then(line: World) -> None:
    args = (line.house, line.actor, line.client.id)
    verifying.ask_all(*args)
    line.jobs("verify_next")
    verifying.ring_on(line.house, line.client.id)
    assert len(line.jobs("verify_next")) == 1
    verifying.stop(*args)
    verifying.follow(line.house)
    verifying.ring_on(line.house, line.client.id)
    assert line.jobs("verify_next") == []
    for act in (verifying.ask_all, verifying.stop):
        with pytest.raises(NotAllowed):
            act(line.house, line.actors["client_viewer"], line.client.id)


def never(world: World, flow_id: int) -> list[str]:
    found = open_drafts.opened(world.house, world.actor, world.client.id, flow_id).findings
    return [one.sentence for one in found if one.kind == "never_verified"]


def test_a_flow_says_which_of_its_phones_were_never_verified(line: World) -> None:
    team = everybody.everybody(line.house, line.actor, line.client.id).teams[0].row
    flow = rings_team(line, team)
    assert never(line, flow.id) == [
        "“Yard office” rings phones that were never verified: Ada, Ben. A call to each settles it, under People."
    ]
    for to in ("+14105550165", "+14105550166"):
        ask(line, to)
    verifying.follow(line.house, line.client.id)
    assert never(line, flow.id) == []
    assert CALLED not in {one.to for one in verifying.phones(line.house, line.actor, line.client.id).destinations}
    assert JOEL not in {one.to for one in verifying.phones(line.house, line.actor, line.client.id).destinations}


# another number in the place of one


def swap(world: World, old: str, new: str, *agreed: str, live: bool = False, only: str = "") -> list[str]:
    args = (world.house, world.actor, world.client.id)
    found = renumbering.having(*args, old)
    chosen = [one.id for one in found.people] if only != "flows" else []
    flows = [one.id for one in found.flows] if only != "people" else []
    done = renumbering.replace(*args, old, new, chosen, flows, live=live, agreed=agreed)
    return [one.sentence for one in done.problems] if isinstance(done, Refused) else done


def dialed(world: World) -> set[str]:
    return {one.to for one in verifying.phones(world.house, world.actor, world.client.id).destinations}


def test_a_number_is_replaced_in_people_and_flows_at_once_and_live(line: World) -> None:
    keeping.keep_person(
        line.house, line.actor, line.client.id, None, {"name": "Dana", "phones": [{"to": DANA, "name": "desk"}]}
    )
    assert swap(line, DANA, "410 555 0188", live=True) == ["Dana", "the draft of Main line", "Main line, live"]
    assert DANA not in dialed(line)
    number = line.number(CALLED, line.source("Sign"), own_flow(line))
    wire = Wire(line.house)
    wire.arrive(number.e164)
    assert wire.commands[0]["number"] == "+14105550188"


def test_a_replacement_that_goes_live_takes_nothing_else_of_a_half_finished_draft_along(line: World) -> None:
    flow, args = own_flow(line), (line.house, line.actor, line.client.id)
    half = drafts.edit(*args, flow.id, [AddStep(id="z", kind="announcement", fill={"name": "Half-finished"})])
    assert isinstance(half, open_drafts.OpenDraft)
    assert swap(line, DANA, "410 555 0188", live=True)[-1] == "Main line, live"
    after = open_drafts.opened(*args, flow.id)
    assert after.live is not None
    live = FlowDocument.model_validate(after.live.document)
    assert (live.step("z"), bool(after.document.step("z")), after.changed) == (None, True, True)
    assert after.live.number == 2
    assert DANA not in dialed(line)


def own_flow(world: World) -> CallFlow:
    return client_flows.listed(world.house, world.actor, world.client.id)[0][0]


def test_a_number_that_only_the_live_version_rings_goes_with_the_next_one(line: World) -> None:
    assert swap(line, DANA, "410 555 0188") == ["the draft of Main line"]
    assert [one.name for one in renumbering.having(line.house, line.actor, line.client.id, DANA).flows] == ["Main line"]
    assert swap(line, DANA, "410 555 0188", live=True) == ["Main line, live"]
    assert DANA not in dialed(line)


def test_only_what_is_chosen_changes(line: World) -> None:
    keeping.keep_person(line.house, line.actor, line.client.id, None, {"name": "Dana", "phones": [{"to": DANA}]})
    assert swap(line, DANA, "sip:dana@phones.example.com", only="people") == ["Dana"]
    assert {DANA, "sip:dana@phones.example.com"} <= dialed(line)
    assert swap(line, DANA, "sip:dana@phones.example.com") == ["the draft of Main line"]


@pytest.mark.parametrize(
    ("new", "said"),
    [("911", "This is an emergency number"), ("410 555 01", ""), (DANA, "This is the number that it has already."), ("+44 20 7946 0011", "This phone is in another country")],
)  # fmt: skip
def test_a_number_that_cannot_be_rung_takes_no_place(line: World, new: str, said: str) -> None:
    (sentence,) = swap(line, DANA, new)
    assert said in sentence
    assert DANA in dialed(line)
    if "another country" in sentence:
        assert swap(line, DANA, new, "+442079460011") == ["the draft of Main line"]


def test_who_may_replace_a_number_and_which(line: World) -> None:
    args = (line.client.id, DANA)
    with pytest.raises(NotAllowed):
        renumbering.having(line.house, line.actors["client_editor"], *args)
    with pytest.raises(NotFound):
        renumbering.having(line.house, line.actor, line.client.id, "+14105550199")
