"""Calls that the carrier stand-in carries: its own line and clock, signed events to the call-control application, and nothing in between."""

import asyncio
import json
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any

import httpx
from pydantic import TypeAdapter

from vokari.api.control import create
from vokari.core.flows.running import events
from vokari.core.flows.running.commands import Play
from vokari.core.proof.examples import Happening
from vokari.formats.call_control.messages import EventMessage
from vokari.formats.call_control.signature import carrier_secret
from vokari.standins.carrier.inventory import Inventory
from vokari.standins.carrier.line import Line
from vokari.standins.carrier.register import CallRegister
from vokari.standins.carrier.script import CallScript, MessageScript, PhoneScript, Vokari
from vokari.work.house.house import House
from vokari.work.numbers.numbers import CARRIER

_EVENTS = TypeAdapter(EventMessage)
_BEHAVIORS = {
    "answered": "answers",
    "busy": "busy",
    "declined": "declines",
    "unreachable": "unreachable",
    "machine": "mailbox",
}


@dataclass
class Carried:
    """What went over the wire of one call: each event as the engine takes it, its second, and the commands that came back."""

    start: datetime
    log: list[tuple[events.Event, float, list[dict[str, Any]]]] = field(default_factory=list)

    def speaking(self, play: Play) -> float:
        """How long a prompt took to say."""
        lasted = {one["id"]: one["seconds"] for _, _, commands in self.log for one in commands if one["type"] == "play"}
        return float(lasted[play.id])


@dataclass
class _Control(httpx.AsyncBaseTransport):
    """The way to the application; `told` is called with the commands of each answer, before it obeys."""

    app: httpx.ASGITransport
    carried: Carried
    told: Callable[[list[dict[str, Any]]], None]

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        answer = await self.app.handle_async_request(request)
        body = await answer.aread()
        assert answer.status_code == 200, body
        sent, commands = _EVENTS.validate_json(await request.aread()), json.loads(body)["commands"]
        self.carried.log.append((sent.event.to_core(), (sent.at - self.carried.start).total_seconds(), commands))
        self.told(commands)
        return httpx.Response(200, headers=answer.headers, content=body)


def carry(house: House, ref: str, script: CallScript, happenings: Sequence[Happening] = ()) -> Carried:
    """Carries one call to its end, as its script says, or as the happenings of an example go on after its arrival."""
    assert script.at is not None
    carried, lines = Carried(script.at), list[Line]()

    def told(commands: list[dict[str, Any]]) -> None:
        if happenings:
            _lead(lines[0], happenings, len(carried.log), commands)

    async def run() -> None:
        control = _Control(httpx.ASGITransport(create(house)), carried, told)
        async with httpx.AsyncClient(transport=control) as http:
            register = CallRegister(Inventory(Path(tempfile.mkdtemp()) / "carrier.sqlite"))
            vokari = Vokari("http://control", CARRIER, carrier_secret(house.secret, CARRIER))
            lines.append(Line(ref, script, vokari, "", http, register))
            await lines[0].run()

    asyncio.run(run())
    return carried


def _lead(line: Line, happenings: Sequence[Happening], done: int, commands: list[dict[str, Any]]) -> None:
    """Makes what happens next in an example happen on the line, of which so many events are over."""
    if done > len(happenings):
        return
    since, left = happenings[done - 1].seconds, happenings[done:]
    for command in commands:
        if command["type"] == "ring":
            line.script.phones[command["number"]] = _phone(command["id"], since, left)
        elif command["type"] == "record":
            spoken = next((one.event for one in left if isinstance(one.event, events.Recorded)), None)
            line.message = MessageScript(voice=spoken.voice if spoken else 0.0, then="silence")
    if left and isinstance(left[0].event, events.Digit):
        half = max((one["seconds"] for one in commands if one["type"] == "play"), default=0.0) * 0.6
        line.later(half if left[0].event.heard_half else 0.01, left[0].event.key)


def _phone(command: int, since: float, left: Sequence[Happening]) -> PhoneScript:
    """How a phone behaves that rings from a second on, by what comes of it."""
    own = [(one.event.outcome, one.seconds) for one in left if isinstance(one.event, events.Leg) and one.event.command == command]  # fmt: skip
    outcomes = dict(own)
    if not own or own[0][0] == "rang_out":
        return PhoneScript(behavior="rings_out")
    talk = outcomes.get("ended", 0.0) - (own[-2][1] if len(own) > 1 else 0.0)
    return PhoneScript.model_validate(
        {
            "behavior": _BEHAVIORS[own[0][0]], "after": max(0.1, own[0][1] - since), "accepts": "refused" not in outcomes,
            "talk": talk if "ended" in outcomes else 60.0,
        }
    )  # fmt: skip
