"""What Ring and Hold line share: phones that ring for a caller, one of which takes the call."""

from typing import Any, cast

from ....numbers.ringing import usual_seconds
from ...model.steps import HoldLine, Ring
from ...model.values import Accept, NumberDestination, SipDestination
from ...questions.kinds import CanBeRung, RecordThis, Rung, WhoIsFreeAnswer
from ..commands import Connect, Drop, Recorded, RingLeg
from ..events import Event, Leg, LegOutcome, TimerFired
from ..state import Outcome, Ringing, RungLeg, State
from ..turn import TAKEN, Turn


def ringing(turn: Turn) -> Ringing:
    """The ring in progress."""
    return turn.ring or Ringing()


def keep(turn: Turn, **changes: Any) -> None:
    """Changes the ring in progress."""
    turn.ring = ringing(turn)._replace(**changes)


def note(turn: Turn, what: Outcome) -> None:
    """Notes what came of a phone; each outcome counts once."""
    outcomes = ringing(turn).outcomes
    if what not in outcomes:
        keep(turn, outcomes=tuple(sorted((*outcomes, what))))


def note_state(turn: Turn, state: str) -> None:
    """Notes why a phone was not rung: on another call, or off duty."""
    note(turn, "busy" if state == "on_call" else "off")


def leg_of(turn: Turn, event: Leg) -> RungLeg | None:
    """The phone that an event is about; None for one that rings no more."""
    return next((leg for leg in ringing(turn).legs if leg.command == event.command), None)


def takes(here: Ring | HoldLine, leg: RungLeg, outcome: LegOutcome) -> bool:
    """Whether the person of a phone takes the call by this."""
    return outcome == "accepted" or (outcome == "answered" and here.accept is None and not leg.by_key)


def picked_up(turn: Turn, leg: RungLeg) -> None:
    """Somebody picked up who must press a key yet."""
    keep(turn, legs=tuple(one._replace(status="picked_up") if one is leg else one for one in ringing(turn).legs))


def without(turn: Turn, leg: RungLeg) -> None:
    """A phone that rings no more."""
    keep(turn, legs=tuple(one for one in ringing(turn).legs if one is not leg))


def drop_all(turn: Turn, but: RungLeg | None = None) -> None:
    """Stops the phones that ring, but one."""
    for leg in ringing(turn).legs:
        if leg is not but:
            turn.commands.append(Drop(leg.command, TAKEN))


def ring_phone(
    turn: Turn, here: Ring | HoldLine, phone: NumberDestination | SipDestination, index: int, rung: Rung | None = None
) -> None:
    """Rings one phone: one of the step's own by its index, or one of a line-up (-1)."""
    turn.rang = True
    whisper = here.hears.words.strip()
    name = max(0, turn.named) if here.hears.wants_name else 0
    by_key, seconds = phone.answered == "key", phone.seconds or usual_seconds(phone.dialed)
    accept = here.accept or (Accept() if by_key else None)
    leg = turn.issue(RingLeg, phone, seconds, here.shows, accept, here.machine_detection, whisper, name)
    rings = RungLeg(leg, index, "ringing", rung, by_key, phone.answered == "service")
    keep(turn, legs=(*ringing(turn).legs, rings), rung=True)


def ring_rung(turn: Turn, here: Ring | HoldLine, rung: Rung) -> None:
    """Rings one phone of a line-up."""
    fields: dict[str, Any] = {"id": "rung", "name": rung.name, "seconds": rung.seconds, "answered": rung.answered}
    sip = rung.to.startswith("sip")
    phone = SipDestination(**fields, address=rung.to) if sip else NumberDestination(**fields, number=rung.to)
    ring_phone(turn, here, phone, -1, rung)


def ring_wave(turn: Turn, here: Ring | HoldLine, wave: tuple[Rung, ...], round_: int) -> None:
    """Rings those of a line-up's wave who can be rung now."""
    states = cast(WhoIsFreeAnswer, turn.ask(CanBeRung(here.id, round_, wave)))
    for rung, state in zip(wave, states, strict=True):
        if state == "free":
            ring_rung(turn, here, rung)
        else:
            note_state(turn, state)


def connect(turn: Turn, here: Ring | HoldLine, winner: RungLeg) -> None:
    """Lets the caller and the person who was first to take the call talk; the other phones stop."""
    drop_all(turn, but=winner)
    turn.commands.append(_connected(turn, here, winner))
    turn.service = winner.service and (turn.service or not turn.answered)
    turn.phase, turn.awaiting, turn.answered, turn.ring, turn.hold = "talking", winner.command, True, None, None
    turn.confirmed = (
        turn.confirmed or here.accept is not None or here.machine_detection or winner.by_key or winner.service
    )
    turn.talking_to = winner.rung.who if winner.rung else ""


def _connected(turn: Turn, here: Ring | HoldLine, winner: RungLeg) -> Connect:
    """The talk, recorded for the step's purpose; nothing is recorded of a caller who has not heard a notice to its end."""
    purpose = here.recording
    if purpose.purpose == "none" or not turn.noticed:
        return Connect(winner.command)
    recorded: Recorded = "on"
    if purpose.purpose == "learn" or purpose.sources:
        who = winner.rung.who if winner.rung else here.to[winner.destination].id if isinstance(here, Ring) else ""
        if not turn.ask(RecordThis(here.id, who, turn.source)):
            recorded = "if_kept" if purpose.purpose == "learn" and purpose.keep_key else "off"
    if recorded == "off":
        return Connect(winner.command)
    keep_key = purpose.keep_key if purpose.purpose == "learn" else None
    return Connect(winner.command, recorded, keep_key, purpose.pause_key)


def talk_ended(turn: Turn, here: Ring | HoldLine, event: Leg) -> None:
    """The person has hung up: a caller who is still there may go on."""
    if event.outcome == "ended" and event.command == turn.awaiting:
        turn.go("after", here.after)


def caller_gone(turn: Turn, here: Ring | HoldLine) -> bool:
    """After a talk, what needs no caller still runs."""
    if turn.phase != "talking":
        return False
    turn.go("after", here.after)
    return True


def inputs(here: Ring | HoldLine, state: State) -> list[Event]:
    """Each outcome of each phone that rings; or the end of the talk."""
    if state.phase == "talking":
        return [Leg(state.awaiting, "ended")]
    if state.ring is None:
        return []
    found: list[Event] = []
    for leg in state.ring.legs:
        outcomes: list[LegOutcome] = ["accepted", "refused"]
        if leg.status == "ringing":
            outcomes = ["answered", "busy", "declined", "rang_out", "unreachable"]
            if here.machine_detection:
                outcomes.append("machine")
        found += [Leg(leg.command, what) for what in outcomes]
    return found + ([TimerFired(state.ring.timer)] if state.ring.timer else [])
