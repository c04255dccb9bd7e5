"""The wire: an event of a call told to Vokari, again while it is away and the carrier's patience lasts."""

import asyncio
import json
import time
from collections.abc import Callable
from dataclasses import dataclass
from itertools import chain, repeat
from typing import Any

import httpx
from pydantic import ValidationError

from ...formats.call_control import messages as wire
from ...formats.call_control.signature import CARRIER_HEADER, SIGNATURE_HEADER, sign
from .script import Vokari

RETRIES = (0.1, 0.3, 0.6, 1.0)
"""Seconds between tries of one event, wall time; the last again and again while the patience lasts."""
FIRST_PATIENCE, PATIENCE = 6.0, 10.0
"""Seconds that a carrier waits in all for the answer to a call's first event, and to a later one; then it goes on alone."""
ONE_TRY = 3.0
"""Seconds that one try may take of it: another may find a part that is not hung."""


class Failed(Exception):
    """Vokari cannot be reached, or answers with nonsense."""


@dataclass(frozen=True, slots=True)
class Wire:
    """The way to Vokari of one call."""

    ref: str
    vokari: Vokari
    http: httpx.AsyncClient

    async def tell(self, message: wire.EventMessage, waits: Callable[[], None]) -> httpx.Response:
        """The answer to an event; `waits` is called when a try brought none. Raises Failed when the patience is over."""
        body = message.model_dump_json().encode()
        ends = time.monotonic() + (FIRST_PATIENCE if message.seq == 1 else PATIENCE)
        pauses = chain(RETRIES, repeat(RETRIES[-1]))
        while True:
            left = ends - time.monotonic()
            answer = await self._try_once(body, min(ONE_TRY, left)) if left > 0 else None
            if answer is not None and answer.status_code < 500:
                return answer
            pause = next(pauses)
            if ends - time.monotonic() <= pause:
                raise Failed("Vokari does not answer")
            if answer is None:
                waits()
            await asyncio.sleep(pause)

    async def _try_once(self, body: bytes, seconds: float) -> httpx.Response | None:
        """One try, which takes at most so many seconds in all; None when nothing came back."""
        headers = {
            "Content-Type": "application/json", CARRIER_HEADER: self.vokari.carrier,
            SIGNATURE_HEADER: sign(self.vokari.secret, body, int(time.time())),
        }  # fmt: skip
        try:
            async with asyncio.timeout(seconds):
                return await self.http.post(f"{self.vokari.url}/calls/{self.ref}/events", content=body, headers=headers)
        except (httpx.HTTPError, TimeoutError):
            return None


def commands_of(answer: httpx.Response) -> wire.CommandsMessage:
    """What Vokari answered. Raises Failed for a refusal, and for nonsense."""
    try:
        if answer.status_code != 200:
            raise Failed(f"Vokari refuses: {answer.json().get('title', answer.status_code)}")
        return wire.CommandsMessage.model_validate_json(answer.content)
    except (ValidationError, json.JSONDecodeError, AttributeError) as error:
        raise Failed("Vokari answers with nonsense") from error


def is_last(event: Any) -> bool:
    """Whether a call is as good as over with an event: the caller has gone, or has talked with somebody. It needs no fail-safe
    then; the event is told when Vokari asks, and so is a recording."""
    if isinstance(event, wire.RecordingFinished):
        return event.caller_gone
    return isinstance(event, wire.CallerGone) or (isinstance(event, wire.LegChanged) and event.outcome == "ended")


def words_of(event: Any) -> str:
    """An event in the words of a call's trace."""
    match event:
        case wire.CallArrived():
            return f"{event.caller or 'a withheld number'} calls {event.called}"
        case wire.DigitPressed():
            return f"presses {event.key}"
        case wire.LegChanged():
            return f"the phone: {event.outcome.replace('_', ' ')}"
        case wire.RecordingFinished():
            return f"left {event.voice_seconds} s of message"
    return str(event.type).replace("_", " ")
