"""What a carrier answers when it is asked about calls: which still exist, how others ended, and which it took to their fail-safe.

The application asks over the carrier's own interface; events go the other way (see `messages`).
"""

from typing import Annotated, Literal

from pydantic import Field

from .messages import E164, EventMessage, Message, Moment

Ref = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,64}$")]

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
    """Records in the order of their numbers; `more`: others follow the last of them."""

    calls: tuple[CallRecord, ...]
    more: bool = False
