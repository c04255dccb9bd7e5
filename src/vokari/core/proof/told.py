"""An example call in words: the keys that are pressed, what phones do, and what is said about the caller."""

from collections.abc import Mapping

from ..flows.questions.facts import HasCalled, LastCallCameTo, LastSpokeWith, OfContact, OfTouch, Where, Withheld
from ..flows.questions.kinds import AnybodyFree, CanBeRung, HoldTurn, LookedUp, WhoIsFree
from ..flows.running.events import Digit, Leg, Recorded, Silence
from ..flows.running.steps.voicemail import MESSAGE_SECONDS
from .examples import Example

_LEGS: Mapping[str, str] = {
    "answered": "somebody picks up", "accepted": "somebody takes the call", "refused": "the key is not pressed", "busy": "a phone is busy",
    "declined": "somebody declines", "rang_out": "nobody answers", "unreachable": "a phone is unreachable", "machine": "a mailbox answers",
    "ended": "they hang up",
}  # fmt: skip
_LOOKED_UP: Mapping[str, str] = {"found": "the look-up finds something", "not_found": "the look-up finds nothing", "failed": "the look-up fails", "pending": ""}  # fmt: skip
_HELD: Mapping[str, str] = {
    "full": "the line is full",
    "nobody": "nobody serves the line",
    "wait": "the caller waits",
    "ring": "",
}


def steps_of(call: Example) -> list[str]:
    """What happens in a call, each thing once in a row, without what only marks the passing of time."""
    found: list[str] = []
    keys = ""
    for one in call.happenings:
        if isinstance(one.event, Digit):
            keys += one.event.key
            continue
        if keys:
            found.append(f"presses {keys}")
            keys = ""
        found += _of_event(one.event)
        found += [words for question, answer in one.answers for words in _of_answer(question, answer)]
    if keys:
        found.append(f"presses {keys}")
    return [one for place, one in enumerate(found) if one and (not place or found[place - 1] != one)]


def _of_event(event: object) -> list[str]:
    match event:
        case Silence():
            return ["presses nothing"]
        case Leg():
            return [_LEGS[event.outcome]]
        case Recorded():
            return ["leaves a message" if event.voice >= MESSAGE_SECONDS else "leaves no message"]
    return []


def _of_answer(question: object, answer: object) -> list[str]:
    match question:
        case CanBeRung() | WhoIsFree():
            states = set(answer) if isinstance(answer, tuple) else set()
            return (
                ["everybody is on a call"]
                if states == {"on_call"}
                else ["nobody is on duty"]
                if states == {"off"}
                else []
            )
        case AnybodyFree():
            return [] if answer else ["nobody can be rung"]
        case HoldTurn():
            return [_HELD[str(answer[0])]] if isinstance(answer, tuple) else []
        case LookedUp():
            return [_LOOKED_UP[str(answer[0])]] if isinstance(answer, tuple) else []
        case Withheld():
            return ["withholds the number"] if answer else []
    return []


def caller_of(call: Example) -> list[tuple[object, object]]:
    """What the call depends on of its caller: the questions of them, with their answers."""
    kinds = (HasCalled, LastCallCameTo, LastSpokeWith, OfContact, OfTouch, Where, Withheld)
    return [pair for one in call.happenings for pair in one.answers if isinstance(pair[0], kinds)]
