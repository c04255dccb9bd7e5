"""Numbers that come across in stages, documents that carriers ask for, and numbers that leave."""

import time
from datetime import timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.flows import DANA
from tests.wire import Wire
from tests.world import World, main_line, make_world
from vokari.standins.carrier.app import Carrier
from vokari.standins.carrier.porting import LETTER, PortDesk, Stages
from vokari.store.numbers import Port
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.house.views import PortView
from vokari.work.numbers import free, number_page, numbers, plan, porting
from vokari.work.numbers.plan import Asked

MAIN = "+14105550177"
PDF = b"%PDF-1.7 a signed letter"


@pytest.fixture
def quick(carrier: Carrier) -> PortDesk:
    """A carrier that looks at once, and brings numbers across after two days of its clock."""
    carrier.ports.stages = Stages(0, 0, 2 * 86400)
    return carrier.ports


def asked(world: World, **more: object) -> Port:
    made = porting.request(
        world.house, world.actor, world.client.id, "410-555-0177", "Old Harbor Telephone", "884-2", **more
    )  # type: ignore[arg-type]
    assert isinstance(made, PortView), made
    return made


def stage(world: World) -> str:
    porting.ask_now(world.house, world.actor, world.client.id)
    return porting.listed(world.house, world.actor, world.client.id)[0].port.stage


def test_a_main_line_comes_across_with_its_flow_and_source_at_the_moment_of_the_transfer(
    world: World, quick: PortDesk, clock: StandingClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    source = world.source("Main line, printed everywhere")
    port = asked(world, source_id=source.id, flow_id=flow.id)
    assert stage(world) == "documents"
    page = number_page.opened(world.house, world.actor, world.client.id, port.number_id)
    assert (page.number.state, page.number.asked_for) == ("porting_in", [LETTER])
    args = (world.house, world.actor, world.client.id, port.number_id)
    assert porting.give_document(*args, LETTER, "letter.pdf", PDF) == []
    assert stage(world) == "accepted"
    moves_at = porting.listed(world.house, world.actor, world.client.id)[0].port.moves_at
    assert moves_at is not None
    page = number_page.opened(*args)
    assert [(at, one.name if one else None) for at, one in page.planned] == [(moves_at, source.name)]
    wire = Wire(world.house, "first", moves_at + timedelta(seconds=1))
    wire.arrive(MAIN)
    wire("caller_gone", 30)
    assert history.log(world.house, world.actor, world.client.id, CallFilter())[0].source == source.name
    real = time.time
    monkeypatch.setattr("vokari.standins.carrier.porting.time.time", lambda: real() + 3 * 86400)
    assert stage(world) == "done"
    assert numbers.of_client(world.house, world.actor, world.client.id)[0].number.state == "in_service"
    assert porting.follow_all(world.house) == 0


def test_a_port_is_rejected_with_the_reason_and_can_be_asked_for_again(world: World, quick: PortDesk) -> None:
    rejected = porting.request(world.house, world.actor, world.client.id, MAIN, "Old Harbor Telephone", "0000")
    assert isinstance(rejected, PortView)
    stage(world)
    porting.give_document(world.house, world.actor, world.client.id, rejected.number_id, LETTER, "letter.pdf", PDF)
    assert stage(world) == "rejected"
    line = porting.listed(world.house, world.actor, world.client.id)[0]
    assert "no account" in line.port.words
    assert numbers.of_client(world.house, world.actor, world.client.id) == []
    assert stage(world) == "rejected"
    assert asked(world).stage in ("requested", "documents")


def test_a_port_is_withdrawn_until_it_is_done(world: World, quick: PortDesk) -> None:
    port = asked(world, source_id=world.source("Main line").id)
    assert porting.withdraw(world.house, world.actor, world.client.id, port.id) == []
    assert porting.listed(world.house, world.actor, world.client.id)[0].port.stage == "withdrawn"
    assert porting.withdraw(world.house, world.actor, world.client.id, port.id)[0].sentence.endswith("over already.")


def test_what_cannot_be_ported_gets_words_and_leaves_nothing(world: World, quick: PortDesk) -> None:
    world.number("+14105550142")
    args = (world.house, world.actor, world.client.id)

    def fields(number: str, carrier: str = "Old", account: str = "1") -> list[str]:
        result = porting.request(*args, number, carrier, account)
        assert isinstance(result, list)
        return [one.field for one in result]

    assert fields("410-555-12") == ["number"]
    assert fields("911-555-0142") == ["number"]
    assert fields("410-555-0142") == ["number"]
    assert fields("410-555-0143") == ["number"], "the carrier has it for sale"
    assert fields("410-555-0177", " ", "") == ["losing_carrier", "account"]
    assert porting.listed(*args) == []


def test_a_number_that_needs_papers_waits_for_them(world: World, carrier: Carrier) -> None:
    number = world.number("+441632960001")
    assert (number.state, len(number.asked_for)) == ("awaiting_documents", 1)
    args = (world.house, world.actor, world.client.id, number.id)
    kind = number.asked_for[0]
    for content, name in (
        (b"", "empty.pdf"),
        (b"MZ\x90 a program", "cv.pdf"),
        (b"%PDF-" + b"x" * 2_600_000, "big.pdf"),
    ):
        assert porting.give_document(*args, kind, name, content)[0].field == "file"
    assert porting.give_document(*args, "a passport", "x.pdf", PDF)[0].field == "file"
    assert numbers.of_client(world.house, world.actor, world.client.id)[0].number.state == "awaiting_documents"
    assert porting.give_document(*args, kind, "..\\..\\C:/secret/bill\n.pdf", PDF) == []
    (given,) = number_page.opened(*args).documents
    assert given.name == "bill.pdf", "a document is kept under its name, without the folders sent along"
    line = numbers.of_client(world.house, world.actor, world.client.id)[0]
    assert (line.number.state, line.number.asked_for) == ("in_service", [])
    assert [one.name for one in number_page.opened(*args).documents] == ["bill.pdf"]


def test_a_number_that_leaves_is_closed_and_its_history_stays(
    world: World, carrier: Carrier, clock: StandingClock
) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    number = world.number("+14105550142", world.source("Van"), flow)
    wire = Wire(world.house)
    wire.arrive()
    wire("caller_gone", 30)
    clock.move(days=2)
    args = (world.house, world.actor, world.client.id, number.id)
    assert porting.leave(*args, sure=False)[0].field == "leave"
    assert porting.leave(*args, sure=True) == []
    gone = plan.view(world.house, world.actor, world.client.id, Asked(state="released")).numbers[0]
    assert (gone.line.number.ended_how, gone.source.name if gone.source else "") == ("ported out", "Van")
    assert history.log(world.house, world.actor, world.client.id, CallFilter())[0].source == "Van"
    assert carrier.inventory.taken() == []
    assert isinstance(free.take(world.house, world.actor, world.client.id, "+14105550142", None, None), list)
    refused = Wire(world.house, "after", NOON + timedelta(days=3))
    answer = refused.post(refused.body(1, 0, {"type": "call_arrived", "called": "+14105550142", "caller": DANA}))
    assert answer.status_code == 404


def test_who_may_port(world: World, quick: PortDesk) -> None:
    port = asked(world)
    other = make_world(world.house, "Other", "o.example.com")
    for role in ("client_editor", "client_viewer"):
        args = (world.house, world.actors[role], world.client.id)
        for refused in (
            lambda args=args: porting.request(*args, MAIN, "Old", "1"),
            lambda args=args: porting.ask_now(*args),
            lambda args=args: porting.withdraw(*args, port.id),
            lambda args=args: porting.leave(*args, port.number_id, sure=True),
            lambda args=args: porting.listed(*args),
        ):
            with pytest.raises(NotAllowed):
                refused()
    with pytest.raises(NotFound):
        porting.withdraw(world.house, other.actor, other.client.id, port.id)
