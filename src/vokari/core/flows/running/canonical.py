"""States as a walk over all ways of a call sees them: what no later step can tell apart is one, and every state can be stepped.

Counters of steps and entries are left out: ways round are found as cycles, each of which also leads, once, to the rescue. Ids of
commands lie in named slots, so that two calls that came here by different ways await the same.
"""

from ..model.steps import KeypadEntry
from .flow import Flow
from .state import Holding, Outcome, Ringing, RungLeg, State

AWAITED, RING_TIMER, HOLD_LIMIT, HOLD_TELL, HOLD_LOOK, NAME = 1, 2, 3, 4, 5, 6
"""The slots of commands that a state can name; the legs of a ring follow them."""
FIRST_LEG = 7
OTHER = "?"
"""Stands for every kept value that no later condition looks for."""


def canonical(flow: Flow, state: State) -> State:
    """The state with all that makes no difference to the exits that can follow left out."""
    if state.phase in ("new", "ended"):
        return state._replace(
            serial=0, awaiting=0, steps=0, entries=(), kept="", labels=(), lead_status="", values=(), source="", talking_to="", named=0
        )  # fmt: skip
    legs = state.ring.legs if state.ring else ()
    return state._replace(
        serial=FIRST_LEG - 1 + len(legs), awaiting=AWAITED, steps=0, entries=(), labels=(), lead_status="", source="", talking_to="",
        pending=_pending(flow, state), kept=flow.reads.kept(state.at, state.kept), values=_values(flow, state), named=NAME if state.named > 0 else state.named,
        ring=_ring(state.ring, state.hold is not None), hold=_hold(state.hold),
    )  # fmt: skip


def commands_of(state: State) -> dict[int, int]:
    """The ids of the commands that a state can name, by the slots in which they lie once it is canonical."""
    found = {AWAITED: state.awaiting}
    if state.ring is not None:
        found[RING_TIMER] = state.ring.timer
        found |= {FIRST_LEG + index: leg.command for index, leg in enumerate(sorted(state.ring.legs, key=_which))}
    if state.hold is not None:
        found |= {HOLD_LIMIT: state.hold.limit, HOLD_TELL: state.hold.tell, HOLD_LOOK: state.hold.look}
    return found


def _pending(flow: Flow, state: State) -> str:
    """The digits of an entry so far; of a Keypad entry that no later condition looks for, only how many they are."""
    here = flow.steps.get(state.at)
    if not isinstance(here, KeypadEntry) or any(one.startswith(state.pending) for one in flow.reads.entries(here)):
        return state.pending
    return OTHER * len(state.pending)


def _values(flow: Flow, state: State) -> tuple[tuple[str, str], ...]:
    wanted = flow.reads.values_from(state.at)
    names = {name for name, _ in wanted}
    return tuple(
        sorted((name, text if (name, text) in wanted else OTHER) for name, text in state.values if name in names)
    )


STRONGEST: tuple[Outcome, ...] = ("no_answer", "busy", "unreachable")
"""Outcomes of phones by what they make of the exit: the first that occurred chooses it; where none did, nobody was available."""


def _ring(ring: Ringing | None, holds: bool) -> Ringing | None:
    """The legs in an order of their own, as which of them was rung first makes no difference, and of what came of others that which
    chooses the exit; a hold line's exits do not depend on it."""
    if ring is None:
        return None
    outcomes = () if holds else tuple(one for one in STRONGEST if one in ring.outcomes)[:1]
    legs = sorted(ring.legs, key=_which)
    slots = tuple(leg._replace(command=FIRST_LEG + index) for index, leg in enumerate(legs))
    return ring._replace(legs=slots, timer=RING_TIMER if ring.timer else 0, outcomes=outcomes)


def _which(leg: RungLeg) -> tuple[int, str, str]:
    return (leg.destination, leg.rung.who if leg.rung else "", leg.rung.to if leg.rung else "")


def _hold(hold: Holding | None) -> Holding | None:
    if hold is None:
        return None
    return hold._replace(
        offered="", limit=HOLD_LIMIT if hold.limit else 0, tell=HOLD_TELL if hold.tell else 0, look=HOLD_LOOK if hold.look else 0
    )  # fmt: skip
