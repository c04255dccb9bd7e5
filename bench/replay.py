"""Whole calls of the demo world as a carrier would post them again."""

import json
import secrets
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import text

from vokari.formats.call_control import messages as wire
from vokari.formats.call_control.signature import CARRIER_HEADER, SIGNATURE_HEADER, sign
from vokari.work.house.house import House
from vokari.work.numbers.numbers import CARRIER

_CALLS = text(
    "SELECT c.client_id, c.caller, n.e164, l.entries FROM calls c JOIN call_logs l ON l.call_id = c.id"
    " AND l.started_at = c.started_at JOIN tracking_numbers n ON n.id = c.number_id"
    " WHERE c.flow_id IS NOT NULL AND l.entries::text NOT LIKE '%on_call%' ORDER BY c.started_at DESC LIMIT 4000"
)


@dataclass(frozen=True, slots=True)
class KnownCall:
    """A call that was: its events with the seconds since it arrived."""

    client_id: int
    events: tuple[tuple[float, dict[str, Any]], ...]


@dataclass(frozen=True, slots=True)
class Posting:
    """One event ready to be posted: its call, its number there, the body and the headers."""

    call: str
    seq: int
    body: bytes
    headers: dict[str, str]


def known_calls(house: House, clients: int, calls: int) -> list[list[KnownCall]]:
    """So many calls of each of so many clients, in which no phone was busy with another call."""
    found: dict[int, list[KnownCall]] = {}
    with house.engine.connect() as connection:
        for client_id, caller, called, entries in connection.execute(_CALLS):
            mine = found.setdefault(client_id, [])
            if len(mine) < calls:
                mine.append(KnownCall(client_id, _events(entries, caller, called)))
    return [mine for mine in found.values() if len(mine) == calls][:clients]


def _events(entries: Sequence[dict[str, Any]], caller: str, called: str) -> tuple[tuple[float, dict[str, Any]], ...]:
    began = datetime.fromisoformat(entries[0]["at"])
    return tuple(
        ((datetime.fromisoformat(one["at"]) - began).total_seconds(), on_the_wire(one["event"], caller, called))
        for one in entries
    )


def on_the_wire(event: dict[str, Any], caller: str, called: str) -> dict[str, Any]:
    """A logged event as its message."""
    match event["kind"]:
        case "arrived":
            return {"type": "call_arrived", "caller": caller, "called": called}
        case "finished":
            return {"type": "prompt_finished", "command": event["command"]}
        case "recorded":
            seconds = {"seconds": event["voice"] + 1, "voice_seconds": event["voice"]}
            name = {"recording": "bench-1"} if event["voice"] else {}
            return {
                "type": "recording_finished",
                "command": event["command"],
                "caller_gone": event["gone"],
                **seconds,
                **name,
            }
        case "gone":
            return {"type": "caller_gone", "heard_half": event["heard_half"]}
    return {"type": event["kind"], **{name: value for name, value in event.items() if name != "kind"}}


def postings(calls: Sequence[KnownCall], secret: bytes) -> list[Posting]:
    """The calls made anew, now, signed."""
    wall, made = int(time.time()), []
    start = datetime.now(UTC)
    for call in calls:
        ref = secrets.token_hex(8)
        for seq, (after, event) in enumerate(call.events, 1):
            at = start + timedelta(seconds=after)
            message = wire.EventMessage.model_validate({"call": ref, "seq": seq, "at": at, "event": event})
            body = json.dumps(message.model_dump(mode="json")).encode()
            headers = {
                CARRIER_HEADER: CARRIER, SIGNATURE_HEADER: sign(secret, body, wall), "Content-Type": "application/json",
            }  # fmt: skip
            made.append(Posting(ref, seq, body, headers))
    return made
