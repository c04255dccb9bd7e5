"""The Ring step: which phones ring, who takes the call, and by which exit it goes on."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, cast

from ...model.steps import HoldLine, Ring
from ...model.values import SAME, Destination, NumberDestination, Prompt, SipDestination, Target
from .. import spoken
from ..commands import Connect, Drop, Hold, Record, RingLeg, Timer
from ..events import Leg
from ..questions import AnybodyFree, CanBeRung, LineUp, LineUpAnswer, RecordThis, WhoIsFree, WhoIsFreeAnswer
from ..state import Outcome, Ringing, Rung, RungLeg

if TYPE_CHECKING:
    from ..engine import Turn

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
    """Enters the step: the caller is asked for a name where the person is to hear it, it was not asked for before, and
    somebody can be rung."""
    wanted = here.hears.what == "caller_name" and turn.state.named == 0 and bool(here.to)
    if wanted and turn.ask(AnybodyFree(here.id)):
        language = turn.state.language or turn.flow.document.language
        turn.say(Prompt(say=here.hears.words or spoken.name_request(language)), cut=True, phase="naming")
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
    """Whose turn it is, asked once a round; who of them can be rung is asked when they come up."""
    if not is_plain(here):
        waves, states, more = cast(LineUpAnswer, turn.ask(LineUp(here.id, _ringing(turn).round)))
        for state in states:
            _note(turn, "busy" if state == "on_call" else "off")
        _keep(turn, waves=waves, more=more, rung=False)
    else:
        _keep(turn, queue=tuple(range(len(here.to))), rung=False)
    _ring_on(turn, here)


def is_plain(here: Ring) -> bool:
    """Whether a step rings numbers of its own, all at once or in order. What else is rung is asked for as a line-up."""
    numbers = all(isinstance(one, NumberDestination) for one in here.to)
    return numbers and here.last_spoke is None and here.strategy in ("all_at_once", "in_order")


def _ring_on(turn: Turn, here: Ring) -> None:
    """Goes on while nothing rings: the next in turn, the next round, or an exit.

    A round in which nobody was rung is the last, since no time passes between rounds.
    """
    while not _ringing(turn).legs:
        ring = _ringing(turn)
        if ring.queue:
            together = len(ring.queue) if here.strategy == "all_at_once" else 1
            _keep(turn, queue=ring.queue[together:])
            _ring_those(turn, here, ring.queue[:together])
        elif ring.waves:
            _keep(turn, waves=ring.waves[1:])
            ring_wave(turn, here, ring.waves[0], ring.round)
        elif ring.rung and (ring.more if not is_plain(here) else ring.round < here.rounds):
            _keep(turn, round=ring.round + 1)
            _start_round(turn, here)
            return
        else:
            turn.go(*exit_for(here, ring.outcomes))
            return


def _ring_those(turn: Turn, here: Ring, those: tuple[int, ...]) -> None:
    """Rings those of a step's own numbers that can be rung now. One that is not filled in is off duty."""
    named = [(index, one) for index in those if isinstance(one := here.to[index], NumberDestination) and one.number]
    if len(named) < len(those):
        _note(turn, "off")
    if not named:
        return
    asked = WhoIsFree(here.id, _ringing(turn).round, tuple(one.id for _, one in named))
    for (index, one), state in zip(named, cast(WhoIsFreeAnswer, turn.ask(asked)), strict=True):
        if state == "free":
            _add_leg(turn, RungLeg(_issue(turn, here, one, one.seconds), index))
        else:
            _note(turn, "busy" if state == "on_call" else "off")


def ring_wave(turn: Turn, here: Ring | HoldLine, wave: tuple[Rung, ...], round_: int) -> None:
    """Rings those of a line-up's wave who can be rung now."""
    states = cast(WhoIsFreeAnswer, turn.ask(CanBeRung(here.id, round_, wave)))
    for rung, state in zip(wave, states, strict=True):
        if state == "free":
            ring_rung(turn, here, rung)
        else:
            _note(turn, "busy" if state == "on_call" else "off")


def ring_rung(turn: Turn, here: Ring | HoldLine, rung: Rung) -> None:
    """Rings one phone of a line-up."""
    fields = {"id": "rung", "name": rung.name, "seconds": rung.seconds}
    destination = (
        SipDestination(**fields, address=rung.to) if rung.to.startswith("sip") else NumberDestination(**fields, number=rung.to)
    )  # fmt: skip
    _add_leg(turn, RungLeg(_issue(turn, here, destination, rung.seconds), -1, "ringing", rung))


def _add_leg(turn: Turn, leg: RungLeg) -> None:
    _keep(turn, legs=(*_ringing(turn).legs, leg), rung=True)


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
    sure = turn.state.confirmed or here.accept is not None or here.machine_detection
    turn.set(
        phase="talking", awaiting=winner.command, answered=True, confirmed=sure, ring=None, hold=None, talking_to=who
    )
