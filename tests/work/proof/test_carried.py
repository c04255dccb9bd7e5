"""Examples of what a proof claims, carried live by the carrier stand-in: each comes to what was named."""

from datetime import datetime, timedelta

from tests.carried import carry
from tests.flows import DANA, JOEL, menu, phone, ring, voicemail
from tests.flows import document as flow_of
from tests.wire import Wire
from tests.work.calls.test_live_calls import over
from tests.work.flows.test_one_engine import ROSA
from tests.work.flows.test_one_engine import line as menus
from tests.work.proof.test_proving import line, prove
from tests.work.proof.test_proving import opening as opening
from tests.world import World
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.questions.kinds import WhoIsFree
from vokari.core.proof import stored
from vokari.core.proof.examples import Happening
from vokari.standins.carrier.script import CallScript
from vokari.store.flows import CallFlow
from vokari.work.proof import proving

CALLED, OTHER = "+14105550142", "+14105550143"
PHONES = (DANA, JOEL, ROSA)


def engaged(document: FlowDocument, happenings: list[Happening]) -> set[str] | None:
    """The phones that are on another call throughout an example; None where one comes free meanwhile."""
    said: dict[str, str] = {}
    for one in happenings:
        for question, answer in one.answers:
            if not isinstance(question, WhoIsFree):
                continue
            dialed = {to.id: to.dialed for to in document.by_id[question.step].to}  # type: ignore[union-attr]
            for destination, state in zip(question.destinations, answer, strict=True):  # type: ignore[arg-type]
                if said.setdefault(dialed[destination], str(state)) != state:
                    return None
    return {number for number, state in said.items() if state == "on_call"}


def talks(world: World, number: str, ref: str, at: datetime) -> Wire:
    """A call that keeps a phone busy."""
    wire = Wire(world.house, f"busy-{number[1:]}-{ref}", at)
    wire.arrive(OTHER, "+14105550186")
    rung = wire("digit", 1, key=str(PHONES.index(number) + 1))
    connected = wire("leg", 2, command=rung[-1]["id"], outcome="answered")
    assert [one["type"] for one in connected] == ["connect"]
    return wire


def carried(world: World, flow: CallFlow, document: FlowDocument) -> set[str]:
    """The fates to which the examples of a flow come; each is what was claimed."""
    args = (world.house, world.actor, world.client.id, flow.id)
    lines = [ring(f"r{place}", phone("Desk", number, 15), no_answer="vm") for place, number in enumerate(PHONES)]
    keys = {str(place + 1): f"r{place}" for place in range(len(PHONES))}
    busy = world.flow(flow_of(menu("ask", keys, nothing="vm", wrong="vm"), *lines, voicemail(), rescue="vm", name="Others", mark="OT"))  # fmt: skip
    world.number(CALLED, world.source("Leaflet"), flow)
    world.number(OTHER, world.source("Sign"), busy)
    proving.shown(*args)
    prove(world)
    shown = proving.shown(*args).document
    assert shown is not None
    found = set()
    for place, end in enumerate(shown["ends"]):
        happenings = stored.load_happenings(end["example"])
        at = datetime.fromisoformat(end["example"]["at"]) + timedelta(milliseconds=place)
        phones = engaged(document, happenings)
        if phones is None:
            continue
        others = [talks(world, number, str(place), at - timedelta(minutes=1)) for number in phones]
        script = CallScript.model_validate({"from": "+14105550185", "to": CALLED, "at": at, "speed": "fast"})
        went = carry(world.house, f"{flow.id}-{place}", script, happenings)
        assert [event for event, _, _ in went.log] == [one.event for one in happenings]
        call = next(one.call for one in over(world) if one.call.started_at == at)
        assert (call.fate, call.reason) == (end["fate"], end["reason"])
        found.add(call.fate)
        for other in others:
            other("caller_gone", 7200)
    return found


def test_what_is_claimed_of_hours_comes_true_on_the_wire(world: World, opening: str) -> None:
    document = line(opening)
    assert carried(world, world.flow(document), document) == {"answered", "message_left", "lost"}


def test_what_is_claimed_of_menus_comes_true_on_the_wire(world: World) -> None:
    document = menus()
    assert carried(world, world.flow(document), document) == {"answered", "message_left", "served", "lost"}
