"""A carrier for tests: posts signed events to the call-control application and keeps what came back."""

import json
import time
from datetime import datetime, timedelta
from typing import Any

import httpx
from starlette.testclient import TestClient

from vokari.api.control import create
from vokari.core.flows.running.events import Arrived, Digit, Event, Finished, Gone, Leg, Recorded, Silence, TimerFired
from vokari.formats.call_control.signature import CARRIER_HEADER, SIGNATURE_HEADER, carrier_secret, sign
from vokari.work.house.house import House
from vokari.work.numbers.numbers import CARRIER

from .conftest import NOON


class Wire:
    """One call, event by event."""

    def __init__(
        self, house: House, ref: str = "call-1", start: datetime = NOON, client: TestClient | None = None
    ) -> None:
        self.client = client or TestClient(create(house))
        self.secret = carrier_secret(house.secret, CARRIER)
        self.ref, self.start, self.seq = ref, start, 0
        self.commands: list[dict[str, Any]] = []
        self.ended = False

    def body(self, seq: int, after: float, event: dict[str, Any]) -> bytes:
        at = self.start + timedelta(seconds=after)
        return json.dumps({"call": self.ref, "seq": seq, "at": at.isoformat(), "event": event}).encode()

    def post(self, body: bytes, wall: float | None = None, **headers: str) -> httpx.Response:
        signed = {CARRIER_HEADER: CARRIER, SIGNATURE_HEADER: sign(self.secret, body, int(wall or time.time()))}
        return self.client.post(f"/calls/{self.ref}/events", content=body, headers={**signed, **headers})

    def __call__(self, type_: str, after: float = 0.0, **fields: Any) -> list[dict[str, Any]]:
        self.seq += 1
        answer = self.post(self.body(self.seq, after, {"type": type_, **fields}))
        assert answer.status_code == 200, answer.text
        self.commands, self.ended = answer.json()["commands"], answer.json()["ended"]
        return self.commands

    def arrive(self, called: str = "+14105550142", caller: str | None = "+14105550185") -> list[dict[str, Any]]:
        return self("call_arrived", caller=caller, called=called)

    def happens(self, event: Event, after: float) -> list[dict[str, Any]]:
        """An event of the engine as a carrier sends it."""
        match event:
            case Arrived():
                return self.arrive()
            case Finished(command):
                return self("prompt_finished", after, command=command)
            case Silence(command):
                return self("silence", after, command=command)
            case Digit(key, half):
                return self("digit", after, key=key, heard_half=half)
            case Leg(command, outcome):
                return self("leg", after, command=command, outcome=outcome)
            case TimerFired(command):
                return self("timer", after, command=command)
            case Recorded(command, voice, gone):
                spoken = {"seconds": voice, "voice_seconds": voice, "caller_gone": gone}
                return self("recording_finished", after, command=command, **spoken)
            case Gone(half):
                return self("caller_gone", after, heard_half=half)
        raise AssertionError(event)
