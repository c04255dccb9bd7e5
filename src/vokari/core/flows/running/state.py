"""Where a call stands in its flow: small, hashable, and without clock, transcript or history."""

from typing import Literal, NamedTuple

from ..questions.kinds import Rung

Phase = Literal[
    "new", "saying", "waiting", "ringing", "talking", "greeting", "recording", "parting", "holding", "telling",
    "naming", "name", "looking", "ended"
]  # fmt: skip
LegStatus = Literal["ringing", "picked_up"]
Outcome = Literal["no_answer", "busy", "unreachable", "off"]
Said = Literal["", "served", "turned_away"]
EndedBy = Literal["", "caller", "flow"]


class RungLeg(NamedTuple):
    """A phone that is being rung: its command, the index of its destination (-1 in a line-up, where `rung` says what it
    is), whether it was picked up, whether it takes a key to take the call there, and whether an answering service does."""

    command: int
    destination: int
    status: LegStatus = "ringing"
    rung: Rung | None = None
    by_key: bool = False
    service: bool = False


class Ringing(NamedTuple):
    """A ring in progress: the round, the legs that ring now, destinations or waves of a line-up still to come, whether
    another round follows, whether anybody was rung in this one, and what came of others."""

    round: int = 1
    legs: tuple[RungLeg, ...] = ()
    queue: tuple[int, ...] = ()
    outcomes: tuple[Outcome, ...] = ()
    timer: int = 0
    waves: tuple[tuple[Rung, ...], ...] = ()
    more: bool = False
    rung: bool = False


class Holding(NamedTuple):
    """A wait in a hold line: the timers of the longest wait, of the next announcement and of the next look for somebody
    free, the key of the person whose phone rings for this caller, whether the longest wait is over, and whether place and
    wait were told."""

    limit: int = 0
    tell: int = 0
    look: int = 0
    offered: str = ""
    over: bool = False
    told: bool = False


class State(NamedTuple):
    """The whole state of one call in one flow. A turn works on a copy of it (`turn.Turn` has the same fields).

    `stack` are the steps that continued in another flow and wait for it to come back, the latest last;
    `awaiting` is the command whose event is expected, `played` how often a prompt was heard through, `pending`
    the digits of an entry so far, `kept` keys pressed early; `noticed` whether a notice was heard to its end, `named` the
    command that recorded the caller's name (-1: asked for and not given); `talking_to` the
    key of the person who took the call last; `recorded` the command that recorded last, where the flow plays it back; `confirmed` whether an accept key or the carrier's detection
    told that a person took it, and no mailbox, `service` whether only an answering service did; `said` is the last of served and turned away.
    """

    at: str = ""
    phase: Phase = "new"
    serial: int = 0
    awaiting: int = 0
    steps: int = 0
    entries: tuple[tuple[str, int], ...] = ()
    rescued: bool = False
    tries: int = 0
    played: int = 0
    pending: str = ""
    kept: str = ""
    language: str = ""
    source: str = ""
    labels: tuple[str, ...] = ()
    lead_status: str = ""
    values: tuple[tuple[str, str], ...] = ()
    stack: tuple[str, ...] = ()
    ring: Ringing | None = None
    hold: Holding | None = None
    talking_to: str = ""
    noticed: bool = False
    named: int = 0
    rang: bool = False
    held: bool = False
    answered: bool = False
    confirmed: bool = False
    service: bool = False
    message: bool = False
    said: Said = ""
    gone: bool = False
    ended_by: EndedBy = ""
    left_in: str = ""
    recorded: int = 0

    @property
    def ended(self) -> bool:
        return self.phase == "ended"
