"""One engine: the same calls live, in rehearsal, in the simulator and folded again from the log go the same way."""

import random
from dataclasses import asdict
from datetime import datetime, timedelta

from tests.carried import carry
from tests.conftest import NOON
from tests.flows import DANA, JOEL, document, menu, phone, ring, say, voicemail
from tests.sizes import SAME_CALLS
from tests.work.calls.test_live_calls import over, plain
from tests.world import World
from vokari.core.calls.fates import ending
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.running import engine
from vokari.core.flows.running.state import State
from vokari.core.proof.examples import Happening
from vokari.core.traffic.line import Message, Phone, ScriptedCaller, run_call
from vokari.core.traffic.pacing import BEHAVIORS
from vokari.formats.call_control.sending import to_wire
from vokari.standins.carrier.script import CallScript
from vokari.work.flows import rehearsals
from vokari.work.flows.rehearsals import Begins

ROSA = "+14105550163"


def line() -> FlowDocument:
    """Menus in menus, phones in order and at once with a key to take the call, an answer in itself, ways round, a voicemail."""
    return document(
        say("hello", "Good day", "ask", notice=True),
        menu("ask", {"1": "yard", "2": "more", "3": "tides", "*": {"hear_again": True}}, nothing="vm", wrong="vm", tries=3),
        menu("more", {"1": "both", "9": "back"}, nothing="both", wrong="ask", tries=1), {"kind": "back_to", "id": "back", "to": "ask"},
        ring("yard", phone("Dana", DANA, 15), phone("Joel", JOEL, 20), no_answer="vm", strategy="in_order", accept={"key": "1"}),
        ring("both", phone("Joel", JOEL, 20), phone("Rosa", ROSA, 20), no_answer="yard", strategy="all_at_once", machine_detection=True),
        say("tides", "High water at nine", "end", counts_as="served"), voicemail(), rescue="vm", name="One line", mark="ON",
    )  # fmt: skip


def made_up(chance: random.Random) -> tuple[ScriptedCaller, dict[str, Phone]]:
    """A caller who presses keys at random moments and hangs up at some, and phones that do anything."""
    at, keys = 0.0, []
    for _ in range(chance.randrange(6)):
        at += chance.uniform(0.5, 12)
        keys.append((round(at, 1), chance.choice("123*9")))
    hangs_up = chance.choice([None, None, None, chance.uniform(1, 90)])
    message = Message(chance.choice([0.0, 0.8, 6.0]), chance.choice(["hang_up", "key", "silence"]))
    phones = {
        number: Phone(
            chance.choice(BEHAVIORS), chance.uniform(1, 25), chance.uniform(5, 60), accepts=chance.random() < 0.7
        )
        for number in (DANA, JOEL, ROSA)
    }
    return ScriptedCaller(tuple(keys), hangs_up, message), phones


def scripted(caller: ScriptedCaller, phones: dict[str, Phone], at: datetime) -> CallScript:
    """The same for the carrier."""
    return CallScript.model_validate(
        {
            "from": "+14105550185", "to": "+14105550142", "at": at, "speed": "fast", "press": caller.press, "hangs_up": caller.hangs_up,
            "phones": {number: asdict(one) for number, one in phones.items()}, "message": asdict(caller.message),
        }
    )  # fmt: skip


def test_random_calls_go_one_way_wherever_they_run(world: World) -> None:
    flow = world.flow(line())
    world.number("+14105550142", world.source("Leaflet"), flow)
    prepared, chance = engine.prepare(line()), random.Random(18)
    for number in range(SAME_CALLS):
        caller, phones = made_up(chance)
        at = NOON + timedelta(minutes=number)
        carried = carry(world.house, f"call-{number}", scripted(caller, phones, at))
        run = run_call(prepared, caller, phones, speaking=carried.speaking)
        simulated = [[plain(to_wire(one).model_dump(mode="json")) for one in entry.commands] for entry in run.log]
        assert [(event, after) for event, after, _ in carried.log] == [(entry.event, entry.at) for entry in run.log]
        assert [[plain(one) for one in commands] for _, _, commands in carried.log] == simulated
        begins = Begins("+14105550142", "", at)
        happenings = [Happening(entry.event, entry.at) for entry in run.log]
        rehearsal = rehearsals.play(world.house, world.actor, world.client.id, flow.id, begins, happenings)
        assert [[plain(one) for one in entry["commands"]] for entry in rehearsal.log] == simulated
        assert [entry["way"] for entry in rehearsal.log] == [
            [list(one) for one in entry.following.way] for entry in run.log
        ]
        again = State()
        for entry in run.log:
            again = engine.run(prepared, again, entry.event, entry.answers.__getitem__)[0].state
        assert again == run.state == rehearsal.state
        call = over(world)[0].call
        came = ending(run.state, run.log[-1].at)
        assert (call.fate, call.reason) == (came.fate, came.reason)
