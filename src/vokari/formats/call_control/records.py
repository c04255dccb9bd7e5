"""What a carrier answers when it is asked about calls: which still exist, how others ended, and which it took to their fail-safe.

The application asks over the carrier's own interface; events go the other way (see `messages`).
"""

import json
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, ValidationError

from .messages import E164, EventMessage, Message, Moment

Ref = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,64}$")]

Read = TypeVar("Read", bound=Message)

MOST_ASKED = 500
"""How many calls are asked about at once, and how many records come in one answer."""


class Question(Message):
    """Which of these calls still exist, and how did the others end?"""

    calls: Annotated[tuple[Ref, ...], Field(max_length=MOST_ASKED)]


class FailSafeUse(Message):
    """What became of a call at its fail-safe: the destination (empty: there was none), what came of ringing it, and the
    seconds talked."""

    to: str = ""
    outcome: Literal["answered", "not_answered", "none"]
    talk_seconds: Annotated[float, Field(ge=0, le=86_400)] = 0.0


class CallRecord(Message):
    """A call that is over, as the carrier has it. `number` counts up over all calls that ended there; `at` and `ended_at` are
    the call's own clock. `reached`: the application answered its first event."""

    number: Annotated[int, Field(ge=1)]
    call: Ref
    caller: E164 | None = None
    called: E164
    at: Moment
    ended_at: Moment
    by: Literal["caller", "application", "carrier"]
    reached: bool
    fail_safe: FailSafeUse | None = None


class CallStanding(Message):
    """How a call stands: it exists; it is at its fail-safe, without the application; it is over; or it is unknown. `untold` are the
    last events of one that is over and that could not be delivered."""

    call: Ref
    state: Literal["exists", "at_fail_safe", "over", "unknown"]
    record: CallRecord | None = None
    untold: tuple[EventMessage, ...] = ()


class Standings(Message):
    """The answer to a question, one for each call that was asked about."""

    calls: tuple[CallStanding, ...]


class Records(Message):
    """Records in the order of their numbers; `last` is the number of the last of them (0: there are none), `more`: others
    follow it."""

    calls: tuple[CallRecord, ...]
    last: Annotated[int, Field(ge=0)] = 0
    more: bool = False


def read_standings(body: bytes) -> tuple[Standings, list[str]]:
    """An answer to a question, and what was wrong with calls in it that cannot be read: they are left out, and stop no other.
    Raises ValueError when nothing can be made of it."""
    raw = _object(body)
    calls, wrong = _each(CallStanding, raw.get("calls"))
    return Standings(calls=tuple(calls)), wrong


def read_records(body: bytes) -> tuple[Records, list[str]]:
    """Records, as `read_standings`; one that cannot be read is not asked for again, since `last` goes past it."""
    raw = _object(body)
    calls, wrong = _each(CallRecord, raw.get("calls"))
    return Records(calls=tuple(calls), last=raw.get("last", 0), more=raw.get("more", False)), wrong


def _object(body: bytes) -> dict[str, Any]:
    raw = json.loads(body)
    if not isinstance(raw, dict):
        raise ValueError("the answer is no object")
    return raw


def _each(model: type[Read], raw: object) -> tuple[list[Read], list[str]]:
    if not isinstance(raw, list):
        raise ValueError("the answer has no list of calls")
    found, wrong = [], []
    for one in raw:
        try:
            found.append(model.model_validate_json(json.dumps(one)))
        except ValidationError as error:
            first = error.errors(include_url=False, include_input=False)[0]
            wrong.append(f"{'.'.join(map(str, first['loc']))}: {first['msg']}")
    return found, wrong
