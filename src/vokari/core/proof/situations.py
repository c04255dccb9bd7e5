"""What a walk finds: situations that calls can be in, and what leads from one to another."""

from typing import NamedTuple

from ..flows.questions.knowledge import Knowledge
from ..flows.running.events import Event
from ..flows.running.state import State
from ..flows.running.turn import Passage
from .outcomes import Answers, Awaited


class Situation(NamedTuple):
    """Where a call stands, and what is known. `declined`: the caller could have left a message, or heard an answer, and
    chose otherwise."""

    state: State
    known: Knowledge
    declined: bool = False


class Edge(NamedTuple):
    """From one situation to another: by an event with the answers to what was asked in it, or by time that passes (no event). `time` and
    `number` are the cells in which it is taken. `rings`: a phone rings then, `takes`: a message can be left; `limit` is the step at which a
    call has gone round too often, `ends` the exit by which the call is over, `lasts` for how long the target does where the event begins that."""

    source: int
    target: int
    event: Event | None
    answers: Answers = ()
    way: tuple[Passage, ...] = ()
    time: int = -1
    number: int = -1
    rings: bool = False
    takes: bool = False
    limit: str = ""
    ends: str = ""
    lasts: Awaited | None = None
