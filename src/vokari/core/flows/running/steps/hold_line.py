"""The Hold line: a caller waits for the next free person, hears where they stand, and can leave by a key.

Who is next is a question: the engine knows its own caller only. It is asked when the caller comes, when the application
says that something changed, every `LOOK_EVERY` seconds, and when a person did not take the call. A phone that already
rings when the longest wait is over rings to its end, so that nobody is cut off while somebody picks up.
"""

from typing import Any, cast

from ...model.steps import HoldLine
from ...model.values import Prompt, Target
from ...questions.kinds import HoldAnswer, HoldTurn
from .. import spoken
from ..commands import Timer
from ..events import Digit, Event, Finished, Gone, Leg, Poked, TimerFired
from ..reads import Reads
from ..state import Holding, Phase, Ringing, State
from ..turn import Turn
from . import legs
from .legs import ringing

LOOK_EVERY = 20
"""Seconds after which a waiting caller looks again for somebody free, should nothing have told of it."""
WAITING = ("holding", "telling")
"""The phases of a wait."""


def enter(turn: Turn, here: HoldLine) -> None:
    """At once to a free person, into the line, or past it."""
    turn.kept = ""
    answer = _ask(turn, here, entering=True)
    if answer[0] in ("full", "nobody"):
        turn.go(answer[0], here.full if answer[0] == "full" else here.nobody)
        return
    turn.held, turn.ring = True, Ringing()
    turn.hold = Holding(limit=turn.issue(Timer, here.longest_wait))
    if answer[0] == "ring":
        _music(turn, here)
        _offer(turn, here, answer)
    elif not _tell(turn, here, answer):
        _music(turn, here)
    _keep(turn, look=turn.issue(Timer, LOOK_EVERY))


def take(turn: Turn, here: HoldLine, event: Event) -> None:
    if turn.phase == "talking":
        if isinstance(event, Leg):
            legs.talk_ended(turn, here, event)
    elif turn.phase in WAITING:
        match event:
            case Leg():
                _outcome(turn, here, event)
            case Poked():
                _look(turn, here)
            case TimerFired():
                _timer(turn, here, event.command)
            case Digit():
                if event.key == here.leave_key:
                    _leave(turn, "left", here.left)
            case Finished() if turn.phase == "telling":
                _music(turn, here)


def caller_gone(turn: Turn, here: HoldLine, event: Gone) -> bool:
    return legs.caller_gone(turn, here)


def left_in(here: HoldLine, phase: Phase) -> str:
    return "call" if phase == "talking" else "waiting" if phase in WAITING else "announcement"


def inputs(here: HoldLine, state: State, reads: Reads) -> list[Event]:
    found = legs.inputs(here, state)
    if state.phase in WAITING and state.hold is not None:
        timers = (state.hold.limit, state.hold.tell, state.hold.look)
        found += [Poked(), *(TimerFired(one) for one in timers if one)]
        if state.phase == "telling":
            found.insert(0, Finished(state.awaiting))
        if here.leave_key:
            found.append(Digit(here.leave_key))
    return found


# inside


def _holding(turn: Turn) -> Holding:
    return turn.hold or Holding()


def _keep(turn: Turn, **changes: Any) -> None:
    if turn.hold is not None:
        turn.hold = turn.hold._replace(**changes)


def _ask(turn: Turn, here: HoldLine, *, entering: bool = False, but: str = "") -> HoldAnswer:
    return cast(HoldAnswer, turn.ask(HoldTurn(here.id, entering, but)))


def _look(turn: Turn, here: HoldLine, but: str = "") -> None:
    """Asks whose turn it is, unless a phone rings for this caller already."""
    if ringing(turn).legs:
        return
    answer = _ask(turn, here, but=but)
    if answer[0] == "ring":
        _offer(turn, here, answer)
    elif answer[0] == "nobody":
        _leave(turn, "nobody", here.nobody)
    elif not _holding(turn).told:
        _tell(turn, here, answer)


def _timer(turn: Turn, here: HoldLine, command: int) -> None:
    """One of the wait's own timers."""
    hold = _holding(turn)
    if command == hold.limit:
        _keep(turn, over=True)
        if not ringing(turn).legs:
            _leave(turn, "waited", here.waited)
    elif command == hold.look:
        _keep(turn, look=turn.issue(Timer, LOOK_EVERY))
        _look(turn, here)
    elif command == hold.tell:
        _time_to_tell(turn, here)


def _time_to_tell(turn: Turn, here: HoldLine) -> None:
    """Place and wait are due again; while a phone rings they wait for the next time."""
    _keep(turn, tell=0)
    if ringing(turn).legs:
        _tell_later(turn, here)
        return
    answer = _ask(turn, here)
    if answer[0] == "ring":
        _offer(turn, here, answer)
        _tell_later(turn, here)
    elif answer[0] == "nobody":
        _leave(turn, "nobody", here.nobody)
    else:
        _tell(turn, here, answer)


def _outcome(turn: Turn, here: HoldLine, event: Leg) -> None:
    """What became of a phone that was rung for this caller."""
    leg = legs.leg_of(turn, event)
    if leg is None:
        return
    if legs.takes(here, leg, event.outcome):
        legs.connect(turn, here, leg)
        return
    if event.outcome == "answered":
        legs.picked_up(turn, leg)
        return
    legs.without(turn, leg)
    if not _rings_on(turn, here):
        _not_taken(turn, here)


def _rings_on(turn: Turn, here: HoldLine) -> bool:
    """Whether a phone of the person still rings, or another of theirs rings now."""
    while not ringing(turn).legs:
        ring = ringing(turn)
        if not ring.waves or _holding(turn).over:
            return False
        turn.ring = ring._replace(waves=ring.waves[1:])
        legs.ring_wave(turn, here, ring.waves[0], 0)
    return True


def _not_taken(turn: Turn, here: HoldLine) -> None:
    """The person did not take the caller, who keeps the place."""
    missed = _holding(turn).offered
    turn.ring = Ringing()
    _keep(turn, offered="")
    if _holding(turn).over:
        _leave(turn, "waited", here.waited)
    else:
        _look(turn, here, but=missed)


def _offer(turn: Turn, here: HoldLine, answer: HoldAnswer) -> None:
    waves = answer[3]
    _keep(turn, offered=waves[0][0].who)
    turn.ring = Ringing(waves=waves[1:])
    for rung in waves[0]:
        legs.ring_rung(turn, here, rung)


def _tell(turn: Turn, here: HoldLine, answer: HoldAnswer) -> bool:
    """Says place and wait, as far as the step wants them said; False when there is nothing to say."""
    _, place, seconds, _ = answer
    if here.tells is not None and not here.tells.is_empty():
        told = {"place": str(place) if place else "", "wait": spoken.minutes(turn.spoken_in(here.tells), seconds)}
        turn.say(here.tells, cut=False, phase="telling", told=told)
        words = "own"
    else:
        words = spoken.standing(
            turn.spoken_in(), place if here.says_position else 0, seconds if here.says_wait else 0
        )  # fmt: skip
        if words:
            turn.say(Prompt(say=words), cut=False, phase="telling")
    _keep(turn, told=True)
    _tell_later(turn, here)
    return bool(words)


def _tell_later(turn: Turn, here: HoldLine) -> None:
    if here.announce_every and here.said:
        _keep(turn, tell=turn.issue(Timer, here.announce_every))


def _music(turn: Turn, here: HoldLine) -> None:
    turn.phase = "holding"
    turn.awaiting = turn.play_on(here.music)


def _leave(turn: Turn, by: str, target: Target) -> None:
    legs.drop_all(turn)
    turn.ring = turn.hold = None
    turn.go(by, target)
