"""The Ring step: which phones ring, who takes the call, and by which exit it goes on."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, cast

from . import holdwords
from .commands import Connect, Drop, Hold, Record, RingLeg, Timer
from .events import Leg
from .questions import LineUp, LineUpAnswer, RecordThis, WhoIsFree
from .state import Outcome, Ringing, Rung, RungLeg
from .steps import HoldLine, Ring
from .values import SAME, Destination, NumberDestination, Prompt, SipDestination, Target

if TYPE_CHECKING:
    from .engine import Turn

TAKEN = "Someone else has taken this call."
NAME_SECONDS, NAME_SILENCE = 5, 2

_OUTCOMES: dict[str, Outcome] = {
    "rang_out": "no_answer", "declined": "no_answer", "refused": "no_answer", "machine": "no_answer",
    "ended": "no_answer", "busy": "busy", "unreachable": "unreachable",
}  # fmt: skip


def drop(leg: int) -> Drop:
    """Ends one leg; its id is the leg's own."""
    return Drop(leg, TAKEN)


def begin(turn: Turn, here: Ring) -> None:
    """Enters the step: the caller is asked for a name where the person is to hear it and it was not asked for before."""
    if here.hears.what == "caller_name" and turn.state.named == 0 and here.to:
        language = turn.state.language or turn.flow.document.language
        turn.say(Prompt(say=here.hears.words or holdwords.name_request(language)), cut=True, phase="naming")
    else:
        start(turn, here)


def ask_name(turn: Turn) -> None:
    """Records the caller's name, for a few seconds."""
    turn.set(phase="name", awaiting=turn.issue(Record, None, True, NAME_SECONDS, "#", NAME_SILENCE))


def start(turn: Turn, here: Ring) -> None:
    """The limit on the whole starts and what is heard meanwhile, then the first round."""
    turn.set(ring=Ringing(), phase="ringing")
    if here.hold_sound and not here.hold_sound.is_empty() and here.to:
        turn.issue(Hold, here.hold_sound, turn.state.language or turn.flow.document.language)
    if here.limit and here.to:
        _keep(turn, timer=turn.issue(Timer, here.limit))
    _start_round(turn, here)


def outcome(turn: Turn, here: Ring, event: Leg) -> None:
    """Folds what became of one leg. Legs that are no longer rung change nothing."""
    ring = _ringing(turn)
    leg = next((leg for leg in ring.legs if leg.command == event.command), None)
    if leg is None:
        return
    if event.outcome == "accepted" or (event.outcome == "answered" and here.accept is None):
        connect(turn, here, leg)
    elif event.outcome == "answered":
        picked_up = replace(leg, status="picked_up")
        _keep(turn, legs=tuple(picked_up if one is leg else one for one in ring.legs))
    else:
        _keep(turn, legs=tuple(one for one in ring.legs if one is not leg))
        _note(turn, _OUTCOMES[event.outcome])
        _ring_on(turn, here)


def time_is_up(turn: Turn, here: Ring) -> None:
    """The limit on the whole: whoever still rings counts as not having answered."""
    for leg in _ringing(turn).legs:
        turn.commands.append(drop(leg.command))
    _keep(turn, legs=(), queue=(), waves=(), more=False)
    _note(turn, "no_answer")
    turn.go(*exit_for(here, _ringing(turn).outcomes))


def exit_for(here: Ring, outcomes: tuple[Outcome, ...]) -> tuple[str, Target]:
    """The exit that a set of outcomes leads to, and where: nobody, else no answer, else busy, else unreachable.

    One that goes where no answer goes is given as no answer.
    """
    if not set(outcomes) - {"off"}:
        by, target = "nobody", here.nobody
    elif "no_answer" in outcomes:
        by, target = "no_answer", here.no_answer
    elif "busy" in outcomes:
        by, target = "busy", here.busy
    else:
        by, target = "unreachable", here.unreachable
    return ("no_answer", here.no_answer) if target == SAME else (by, target)


def _ringing(turn: Turn) -> Ringing:
    return turn.state.ring or Ringing()


def _keep(turn: Turn, **changes: object) -> None:
    turn.set(ring=replace(_ringing(turn), **changes))  # type: ignore[arg-type]


def _note(turn: Turn, what: Outcome) -> None:
    outcomes = _ringing(turn).outcomes
    if what not in outcomes:
        _keep(turn, outcomes=tuple(sorted((*outcomes, what))))


def _start_round(turn: Turn, here: Ring) -> None:
    """Asks afresh who is available and rings them, all at once or the first in order."""
    if not here.to:
        turn.go(*exit_for(here, ()))
        return
    if not is_plain(here):
        _line_up(turn, here)
        return
    states = turn.ask(WhoIsFree(here.id, _ringing(turn).round, tuple(d.id for d in here.to)))
    free = []
    assert isinstance(states, tuple)
    for index, (destination, state) in enumerate(zip(here.to, states, strict=True)):
        if state == "off":
            _note(turn, "off")
        elif state == "on_call":
            _note(turn, "busy")
        elif not isinstance(destination, NumberDestination) or not destination.number:
            _note(turn, "unreachable")
        else:
            free.append(index)
    if here.strategy == "all_at_once":
        for index in free:
            _ring_one(turn, here, index)
    else:
        _keep(turn, queue=tuple(free))
    _ring_on(turn, here, fresh=True)


def is_plain(here: Ring) -> bool:
    """Whether a step rings numbers of its own, all at once or in order. What else is rung is asked for as a line-up."""
    numbers = all(isinstance(one, NumberDestination) for one in here.to)
    return numbers and here.last_spoke is None and here.strategy in ("all_at_once", "in_order")


def _line_up(turn: Turn, here: Ring) -> None:
    waves, states, more = cast(LineUpAnswer, turn.ask(LineUp(here.id, _ringing(turn).round)))
    for state in states:
        _note(turn, "busy" if state == "on_call" else "off")
    _keep(turn, waves=waves, more=more)
    _ring_on(turn, here, fresh=True)


def _ring_on(turn: Turn, here: Ring, *, fresh: bool = False) -> None:
    """Goes on when nothing rings: the next in order, the next round, or an exit.

    A round that found nobody free is the last, since no time passes between rounds.
    """
    ring = _ringing(turn)
    if ring.legs:
        return
    if ring.queue:
        _keep(turn, queue=ring.queue[1:])
        _ring_one(turn, here, ring.queue[0])
    elif ring.waves:
        _keep(turn, waves=ring.waves[1:])
        for rung in ring.waves[0]:
            ring_rung(turn, here, rung)
    elif not fresh and (ring.more if not is_plain(here) else ring.round < here.rounds):
        _keep(turn, round=ring.round + 1)
        _start_round(turn, here)
    else:
        turn.go(*exit_for(here, ring.outcomes))


def _ring_one(turn: Turn, here: Ring, index: int) -> None:
    destination = here.to[index]
    command = _issue(turn, here, destination, destination.seconds)
    _keep(turn, legs=(*_ringing(turn).legs, RungLeg(command, index)))


def ring_rung(turn: Turn, here: Ring | HoldLine, rung: Rung) -> None:
    """Rings one phone of a line-up."""
    fields = {"id": "rung", "name": rung.name, "seconds": rung.seconds}
    destination = (
        SipDestination(**fields, address=rung.to) if rung.to.startswith("sip") else NumberDestination(**fields, number=rung.to)
    )  # fmt: skip
    command = _issue(turn, here, destination, rung.seconds)
    _keep(turn, legs=(*_ringing(turn).legs, RungLeg(command, -1, "ringing", rung)))


def _issue(turn: Turn, here: Ring | HoldLine, destination: Destination, seconds: int) -> int:
    turn.set(rang=True)
    whisper = here.hears.words.strip() if here.hears.what == "whisper" else ""
    name = max(0, turn.state.named) if here.hears.what == "caller_name" else 0
    return turn.issue(
        RingLeg, destination, seconds, here.shows, here.accept, here.machine_detection, whisper, name
    )  # fmt: skip


def connect(turn: Turn, here: Ring | HoldLine, winner: RungLeg) -> None:
    """Lets the caller and the person who was first to take the call talk; the other phones stop. Nothing is recorded of a
    caller who has not heard a notice to its end."""
    mode = here.recording.mode if turn.state.noticed else "off"
    if mode == "sample":
        mode = "on" if turn.ask(RecordThis(here.id, here.recording.in_hundred)) else "off"
    for leg in _ringing(turn).legs:
        if leg is not winner:
            turn.commands.append(drop(leg.command))
    turn.commands.append(Connect(winner.command, mode))
    who = winner.rung.who if winner.rung else ""
    turn.set(phase="talking", awaiting=winner.command, answered=True, ring=None, hold=None, talking_to=who)
