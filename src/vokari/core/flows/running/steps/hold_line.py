"""The Hold line step: a caller waits for the next free person, hears where they stand, and can leave by a key.

Who is next is a question: the engine knows its own caller only. It is asked when the caller comes, when the application
says that something changed, every `LOOK_EVERY` seconds, and when a person did not take the call. A phone that already
rings when the longest wait is over rings to its end, so that nobody is cut off while somebody picks up.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, cast

from ...model.steps import HoldLine
from ...model.values import Prompt
from .. import spoken
from ..commands import Hold, Timer
from ..events import Leg
from ..questions import HoldAnswer, HoldTurn
from ..state import Holding, Ringing
from . import ring as ringstep

if TYPE_CHECKING:
    from ..engine import Turn

LOOK_EVERY = 20
"""Seconds after which a waiting caller looks again for somebody free, should nothing have told of it."""


def begin(turn: Turn, here: HoldLine) -> None:
    """Enters the step: at once to a free person, into the line, or past it."""
    answer = _ask(turn, here, entering=True)
    if answer[0] in ("full", "nobody"):
        turn.go(answer[0], here.full if answer[0] == "full" else here.nobody)
        return
    turn.set(held=True, ring=Ringing(), hold=Holding(limit=turn.issue(Timer, here.longest_wait)))
    if answer[0] == "ring":
        _music(turn, here)
        _offer(turn, here, answer)
    else:
        if not _tell(turn, here, answer):
            _music(turn, here)
    _keep(turn, look=turn.issue(Timer, LOOK_EVERY))


def look(turn: Turn, here: HoldLine, but: str = "") -> None:
    """Asks whose turn it is, unless a phone rings for this caller already."""
    if _ringing(turn).legs:
        return
    answer = _ask(turn, here, but=but)
    if answer[0] == "ring":
        _offer(turn, here, answer)
    elif answer[0] == "nobody":
        _leave(turn, "nobody", here.nobody)
    elif not _holding(turn).told:
        _tell(turn, here, answer)


def timer(turn: Turn, here: HoldLine, command: int) -> None:
    """One of the wait's own timers."""
    hold = _holding(turn)
    if command == hold.limit:
        _keep(turn, over=True)
        if not _ringing(turn).legs:
            _leave(turn, "waited", here.waited)
    elif command == hold.look:
        _keep(turn, look=turn.issue(Timer, LOOK_EVERY))
        look(turn, here)
    elif command == hold.tell:
        _keep(turn, tell=0)
        if _ringing(turn).legs:
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


def told(turn: Turn, here: HoldLine) -> None:
    """An announcement is over: the music goes on."""
    _music(turn, here)


def digit(turn: Turn, here: HoldLine, key: str) -> None:
    """The key that leaves the line; any other changes nothing."""
    if key == here.leave_key:
        _leave(turn, "left", here.left)


def outcome(turn: Turn, here: HoldLine, event: Leg) -> None:
    """What became of a phone that was rung for this caller."""
    ring = _ringing(turn)
    leg = next((leg for leg in ring.legs if leg.command == event.command), None)
    if leg is None:
        return
    if event.outcome == "accepted" or (event.outcome == "answered" and here.accept is None):
        ringstep.connect(turn, here, leg)
        return
    if event.outcome == "answered":
        legs = tuple(replace(one, status="picked_up") if one is leg else one for one in ring.legs)
        turn.set(ring=replace(ring, legs=legs))
        return
    ring = replace(ring, legs=tuple(one for one in ring.legs if one is not leg))
    turn.set(ring=ring)
    if ring.legs:
        return
    while _ringing(turn).waves and not _holding(turn).over:
        wave, *later = _ringing(turn).waves
        turn.set(ring=replace(_ringing(turn), waves=tuple(later)))
        ringstep.ring_wave(turn, here, wave, 0)
        if _ringing(turn).legs:
            return
    missed = _holding(turn).offered
    turn.set(ring=Ringing())
    _keep(turn, offered="")
    if _holding(turn).over:
        _leave(turn, "waited", here.waited)
    else:
        look(turn, here, but=missed)


# inside


def _holding(turn: Turn) -> Holding:
    return turn.state.hold or Holding()


def _ringing(turn: Turn) -> Ringing:
    return turn.state.ring or Ringing()


def _keep(turn: Turn, **changes: object) -> None:
    if turn.state.hold is not None:
        turn.set(hold=replace(turn.state.hold, **changes))  # type: ignore[arg-type]


def _ask(turn: Turn, here: HoldLine, *, entering: bool = False, but: str = "") -> HoldAnswer:
    return cast(HoldAnswer, turn.ask(HoldTurn(here.id, entering, but)))


def _offer(turn: Turn, here: HoldLine, answer: HoldAnswer) -> None:
    waves = answer[3]
    _keep(turn, offered=waves[0][0].who)
    turn.set(ring=Ringing(waves=waves[1:]))
    for rung in waves[0]:
        ringstep.ring_rung(turn, here, rung)


def _tell(turn: Turn, here: HoldLine, answer: HoldAnswer) -> bool:
    """Says place and wait, as far as the step wants them said; False when there is nothing to say."""
    language = turn.state.language or turn.flow.document.language
    _, place, seconds, _ = answer
    words = spoken.standing(language, place if here.says_position else 0, seconds if here.says_wait else 0)
    if words:
        turn.say(Prompt(say=words), cut=False, phase="telling")
    _keep(turn, told=True)
    _tell_later(turn, here)
    return bool(words)


def _tell_later(turn: Turn, here: HoldLine) -> None:
    if here.announce_every and (here.says_position or here.says_wait):
        _keep(turn, tell=turn.issue(Timer, here.announce_every))


def _music(turn: Turn, here: HoldLine) -> None:
    language = turn.state.language or turn.flow.document.language
    prompt = here.music if here.music and not here.music.is_empty() else None
    turn.set(phase="holding", awaiting=turn.issue(Hold, prompt, language))


def _leave(turn: Turn, by: str, target: str | None) -> None:
    for leg in _ringing(turn).legs:
        turn.commands.append(ringstep.drop(leg.command))
    turn.set(ring=None, hold=None)
    turn.go(by, target)
