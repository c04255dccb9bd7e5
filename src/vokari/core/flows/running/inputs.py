"""Which events make a difference in a state: what the proof walks and what the rehearsal offers."""

from ..model.steps import Announcement, HoldLine, KeypadEntry, Menu, Ring, Voicemail
from .engine import HELD, Flow
from .events import Arrived, Digit, Event, Finished, Gone, Leg, LegOutcome, Poked, Recorded, Silence, TimerFired
from .state import State
from .steps.menu_keys import key_table

KEYPAD = "123456789*0#"


def inputs(flow: Flow, state: State) -> list[Event]:
    """Every event that makes a difference here, one of each class; the caller's hanging up comes last."""
    if state.ended:
        return []
    if state.phase == "new":
        return [Arrived()]
    here = flow.steps.get(state.at)
    found: list[Event] = []
    match state.phase:
        case "saying" | "greeting" | "parting" | "telling" | "naming":
            found.append(Finished(state.awaiting))
        case "waiting":
            found.append(Silence(state.awaiting))
        case "recording":
            found += [Recorded(state.awaiting, voice, gone) for voice in (10.0, 0.0) for gone in (False, True)]
        case "name":
            found += [Recorded(state.awaiting, voice, gone) for voice in (2.0, 0.0) for gone in (False, True)]
        case "looking":
            found += [Poked(), TimerFired(state.awaiting)]
        case "talking":
            found.append(Leg(state.awaiting, "ended"))
        case "ringing" if isinstance(here, Ring):
            found += _of_ring(here, state)
    if state.gone:
        return found
    if state.phase in HELD and state.hold is not None and isinstance(here, HoldLine):
        timers = [one for one in (state.hold.limit, state.hold.tell, state.hold.look) if one]
        found += [*_of_ring(here, state), Poked(), *(TimerFired(one) for one in timers)]
    found += _of_keys(here, state)
    return [*found, Gone()]


def _of_keys(here: object, state: State) -> list[Event]:
    if isinstance(here, Announcement) and state.phase == "saying":
        return [Digit(key, half) for key in KEYPAD for half in (False, True)]
    if isinstance(here, Menu) and state.phase in ("saying", "waiting"):
        table = key_table(here)
        telling = {
            key for key in KEYPAD if state.pending + key in table.branches or state.pending + key in table.beginnings
        }
        closing = {"#"} if state.pending else set()
        wrong = next((key for key in "9876543210*#" if key not in telling | closing), None)
        return [Digit(key) for key in sorted(telling | closing | ({wrong} if wrong else set()))]
    if isinstance(here, KeypadEntry) and state.phase in ("saying", "waiting"):
        return [Digit("1"), Digit("#"), Digit("*")]
    if isinstance(here, Voicemail) and state.phase == "greeting":
        return [Digit("1")]
    if state.phase == "naming":
        return [Digit("1")]
    if isinstance(here, HoldLine) and state.phase in HELD:
        return [Digit(here.leave_key)] if here.leave_key else []
    return []


def _of_ring(here: Ring | HoldLine, state: State) -> list[Event]:
    ring = state.ring
    if ring is None:
        return []
    found: list[Event] = []
    for leg in ring.legs:
        outcomes: list[LegOutcome] = ["accepted", "refused"]
        if leg.status == "ringing":
            outcomes = ["answered", "busy", "declined", "rang_out", "unreachable"]
            if here.machine_detection:
                outcomes.append("machine")
        found += [Leg(leg.command, what) for what in outcomes]
    return found + ([TimerFired(ring.timer)] if ring.timer else [])
