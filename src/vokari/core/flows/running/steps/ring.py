"""The Ring: which phones ring, who takes the call, and by which exit it goes on."""

from typing import cast

from ...model.steps import Ring
from ...model.values import END, EXTENSION, SAME, DialedDestination, NumberDestination, Prompt, Target
from ...questions.kinds import AnybodyFree, LineUp, LineUpAnswer, WhoIsFree, WhoIsFreeAnswer
from .. import spoken
from ..commands import Record, Timer
from ..events import Digit, Event, Finished, Gone, Leg, Recorded, TimerFired
from ..reads import Reads
from ..state import Outcome, Phase, Ringing, State
from ..turn import Turn
from . import legs
from .legs import keep, note, note_state, ringing

NAME_SECONDS, NAME_SILENCE = 5, 2

_OUTCOMES: dict[str, Outcome] = {
    "rang_out": "no_answer", "declined": "no_answer", "refused": "no_answer", "machine": "no_answer",
    "ended": "no_answer", "busy": "busy", "unreachable": "unreachable",
}  # fmt: skip


def enter(turn: Turn, here: Ring) -> None:
    """The caller is asked for a name where the person is to hear it, it was not asked for before, and somebody can be rung."""
    turn.kept = ""
    wanted = here.hears.wants_name and turn.named == 0 and bool(here.to)
    if wanted and turn.ask(AnybodyFree(here.id, _dialed(turn, here))):
        words = here.hears.asks or spoken.name_request(turn.spoken_in())
        turn.say(Prompt(say=words), cut=True, phase="naming")
    else:
        _start(turn, here)


def take(turn: Turn, here: Ring, event: Event) -> None:
    match turn.phase:
        case "ringing":
            if isinstance(event, Leg):
                _outcome(turn, here, event)
            elif isinstance(event, TimerFired) and turn.ring and event.command == turn.ring.timer:
                _time_is_up(turn, here)
        case "talking":
            if isinstance(event, Leg):
                legs.talk_ended(turn, here, event)
        case "naming":
            if isinstance(event, Finished | Digit):
                turn.phase = "name"
                turn.awaiting = turn.issue(Record, None, True, NAME_SECONDS, "#", NAME_SILENCE)
        case "name":
            if isinstance(event, Recorded):
                _named(turn, here, event)


def caller_gone(turn: Turn, here: Ring, event: Gone) -> bool:
    return legs.caller_gone(turn, here)


def left_in(here: Ring, phase: Phase) -> str:
    return {"ringing": "ringing", "talking": "call"}.get(phase, "announcement")


def inputs(here: Ring, state: State, reads: Reads) -> list[Event]:
    if state.phase == "naming":
        return [Finished(state.awaiting), Digit("1")]
    if state.phase == "name":
        return [Recorded(state.awaiting, voice, gone) for voice in (2.0, 0.0) for gone in (False, True)]
    return legs.inputs(here, state)


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


def _dialed(turn: Turn, here: Ring) -> str:
    """The extension that was dialed, where the step rings by it."""
    return turn.value(EXTENSION) if any(isinstance(one, DialedDestination) for one in here.to) else ""


def _named(turn: Turn, here: Ring, event: Recorded) -> None:
    """The caller has said a name, or nothing, or has hung up instead."""
    if event.gone:
        turn.gone, turn.ended_by, turn.left_in = True, "caller", left_in(here, turn.phase)
        turn.go("end", END)
        return
    turn.named = event.command if event.voice > 0 else -1
    _start(turn, here)


def _start(turn: Turn, here: Ring) -> None:
    """The limit on the whole starts and what is heard meanwhile, then the first round."""
    turn.ring, turn.phase = Ringing(), "ringing"
    if here.hold_sound and not here.hold_sound.is_empty() and here.to:
        turn.play_on(here.hold_sound)
    if here.limit and here.to:
        keep(turn, timer=turn.issue(Timer, here.limit))
    _start_round(turn, here)


def _start_round(turn: Turn, here: Ring) -> None:
    """Whose turn it is, asked once a round; who of them can be rung is asked when they come up."""
    if here.is_plain:
        keep(turn, queue=tuple(range(len(here.to))), rung=False)
    else:
        waves, states, more = cast(LineUpAnswer, turn.ask(LineUp(here.id, ringing(turn).round, _dialed(turn, here))))
        for state in states:
            note_state(turn, state)
        keep(turn, waves=waves, more=more, rung=False)
    _ring_on(turn, here)


def _ring_on(turn: Turn, here: Ring) -> None:
    """Goes on while nothing rings: the next in turn, the next round, or an exit.

    A round in which nobody was rung is the last, since no time passes between rounds.
    """
    while not ringing(turn).legs:
        ring = ringing(turn)
        if ring.queue:
            together = len(ring.queue) if here.strategy == "all_at_once" else 1
            keep(turn, queue=ring.queue[together:])
            _ring_those(turn, here, ring.queue[:together])
        elif ring.waves:
            keep(turn, waves=ring.waves[1:])
            legs.ring_wave(turn, here, ring.waves[0], ring.round)
        elif ring.rung and (ring.round < here.rounds if here.is_plain else ring.more):
            keep(turn, round=ring.round + 1)
            _start_round(turn, here)
            return
        else:
            turn.go(*exit_for(here, ring.outcomes))
            return


def _ring_those(turn: Turn, here: Ring, those: tuple[int, ...]) -> None:
    """Rings those of a step's own numbers that can be rung now. One that is not filled in is off duty."""
    filled = [(index, one) for index in those if isinstance(one := here.to[index], NumberDestination) and one.number]
    if len(filled) < len(those):
        note(turn, "off")
    if not filled:
        return
    asked = WhoIsFree(here.id, ringing(turn).round, tuple(one.id for _, one in filled))
    for (index, one), state in zip(filled, cast(WhoIsFreeAnswer, turn.ask(asked)), strict=True):
        if state == "free":
            legs.ring_phone(turn, here, one, index)
        else:
            note_state(turn, state)


def _outcome(turn: Turn, here: Ring, event: Leg) -> None:
    """Folds what became of one leg. Legs that are no longer rung change nothing."""
    leg = legs.leg_of(turn, event)
    if leg is None:
        return
    if legs.takes(here, leg, event.outcome):
        legs.connect(turn, here, leg)
    elif event.outcome == "answered":
        legs.picked_up(turn, leg)
    else:
        legs.without(turn, leg)
        note(turn, _OUTCOMES[event.outcome])
        _ring_on(turn, here)


def _time_is_up(turn: Turn, here: Ring) -> None:
    """The limit on the whole: whoever still rings counts as not having answered."""
    legs.drop_all(turn)
    keep(turn, legs=(), queue=(), waves=(), more=False)
    note(turn, "no_answer")
    turn.go(*exit_for(here, ringing(turn).outcomes))
