"""Where a call stands in its flow: small, hashable, and without clock, transcript or history."""

from dataclasses import asdict, dataclass, fields, replace
from typing import Any, Literal

Phase = Literal[
    "new", "saying", "waiting", "ringing", "talking", "greeting", "recording", "parting", "holding", "telling",
    "naming", "name", "looking", "ended"
]  # fmt: skip
LegStatus = Literal["ringing", "picked_up"]
Outcome = Literal["no_answer", "busy", "unreachable", "off"]


@dataclass(frozen=True, slots=True)
class Rung:
    """A phone of a line-up: whose it is (the key of a person or the id of a destination), the name, the number or SIP
    address, for how many seconds it rings, and the key of the team by which the person is rung."""

    who: str
    name: str
    to: str
    seconds: int
    team: str = ""


@dataclass(frozen=True, slots=True)
class RungLeg:
    """A phone that is being rung: its command, the index of its destination (-1 in a line-up, where `rung` says what it
    is), and whether it was picked up."""

    command: int
    destination: int
    status: LegStatus = "ringing"
    rung: Rung | None = None


@dataclass(frozen=True, slots=True)
class Ringing:
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


@dataclass(frozen=True, slots=True)
class Holding:
    """A wait in a hold line: the timers of the longest wait, of the next announcement and of the next look for somebody
    free, the key of the person whose phone rings for this caller, whether the longest wait is over, and whether place and
    wait were told."""

    limit: int = 0
    tell: int = 0
    look: int = 0
    offered: str = ""
    over: bool = False
    told: bool = False


@dataclass(frozen=True, slots=True)
class State:
    """The whole state of one call in one flow.

    `awaiting` is the command whose event is expected, `played` how often a prompt was heard through, `pending`
    the digits of an entry so far, `kept` keys pressed early; `noticed` whether a notice was heard to its end, `named` the
    command that recorded the caller's name (-1: asked for and not given); `talking_to` the
    key of the person who took the call last; `confirmed` whether an accept key or the carrier's detection
    told that a person took it, and no mailbox; `said` is the last of served and turned away.
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
    values: tuple[tuple[str, str], ...] = ()
    stack: tuple[tuple[str, str], ...] = ()
    ring: Ringing | None = None
    hold: Holding | None = None
    talking_to: str = ""
    noticed: bool = False
    named: int = 0
    rang: bool = False
    held: bool = False
    answered: bool = False
    confirmed: bool = False
    message: bool = False
    said: Literal["", "served", "turned_away"] = ""
    gone: bool = False
    ended_by: Literal["", "caller", "flow"] = ""
    left_in: str = ""

    @property
    def ended(self) -> bool:
        return self.phase == "ended"


def without_counters(state: State) -> State:
    """The state as the proof sees it: entries, steps and command ids make no difference to what can follow."""
    ring = state.ring
    if ring is not None:
        legs = tuple(replace(leg, command=index) for index, leg in enumerate(ring.legs))
        ring = replace(ring, legs=legs, timer=min(ring.timer, 1))
    hold = state.hold
    if hold is not None:
        hold = replace(hold, limit=min(hold.limit, 1), tell=min(hold.tell, 1), look=min(hold.look, 1))
    named = max(-1, min(state.named, 1))
    return replace(state, serial=0, awaiting=0, steps=0, entries=(), ring=ring, hold=hold, named=named)


_DEFAULTS = {field.name: field.default for field in fields(State)}


def dump(state: State) -> dict[str, Any]:
    """The fields that differ from a new call's, JSON-ready."""
    raw = {name: getattr(state, name) for name in _DEFAULTS if getattr(state, name) != _DEFAULTS[name]}
    if state.ring is not None:
        raw["ring"] = asdict(state.ring)
    if state.hold is not None:
        raw["hold"] = asdict(state.hold)
    return raw


def load(raw: dict[str, Any]) -> State:
    """The state that `dump` wrote, also after a way through JSON, which turns tuples into lists."""
    known = dict(raw)
    for name in ("entries", "values", "stack"):
        if name in known:
            known[name] = tuple((key, value) for key, value in known[name])
    if "labels" in known:
        known["labels"] = tuple(known["labels"])
    if "hold" in known:
        known["hold"] = Holding(**known["hold"])
    if "ring" in known:
        ring = known["ring"]
        known["ring"] = Ringing(
            round=ring["round"],
            legs=tuple(
                RungLeg(**{**leg, "rung": Rung(**leg["rung"]) if leg.get("rung") else None}) for leg in ring["legs"]
            ),
            queue=tuple(ring["queue"]),
            outcomes=tuple(ring["outcomes"]),
            timer=ring["timer"],
            waves=tuple(tuple(Rung(**one) for one in wave) for wave in ring.get("waves", ())),
            more=ring.get("more", False),
            rung=ring.get("rung", True),
        )
    return State(**known)
