"""What is the same to two versions of a flow that are walked abreast: phones by what is dialed, and what lines and systems give."""

from collections.abc import Hashable, Iterator
from typing import cast

from ..flows.model.steps import HoldLine
from ..flows.questions.kinds import Answer, AnybodyFree, CanBeRung, HoldTurn, LookedUp, Question, RecordThis, WhoIsFree
from ..flows.questions.knowledge import Knowledge
from ..flows.running.canonical import FIRST_LEG, commands_of
from ..flows.running.flow import Flow
from ..flows.running.state import State
from .times import lowest
from .world import World

Said = tuple[tuple[Hashable, Answer], ...]
"""What was answered in one event, in order: what phones are in by number, and what lines and systems gave (see `_alike`)."""


def legs(flow: Flow, state: State) -> dict[str, int]:
    """The slots of the phones that ring, by what is dialed."""
    to = getattr(flow.steps.get(state.at), "to", ())
    slots = {command: slot for slot, command in commands_of(state).items() if slot >= FIRST_LEG}
    found = {}
    for leg in state.ring.legs if state.ring else ():
        dialed = leg.rung.to if leg.rung is not None else to[leg.destination].dialed
        found[dialed] = slots[leg.command]
    return found


def answers(
    world: World, question: Question, known: Knowledge, given: Said, said: Said
) -> Iterator[tuple[Answer, Knowledge, Said]]:
    """The answers of a question that make a difference, with what the other version is answered alike."""
    key = _alike(world.flow, question)
    other = _nth(given, key, said) if key is not None else None
    for answer, after in world.classes(question, known):
        if isinstance(question, WhoIsFree | CanBeRung) and isinstance(answer, tuple):
            duty = world.on_duty(question, after.moments.each[lowest(after.time)])
            same: list[Answer] = []
            noted: list[tuple[Hashable, Answer]] = []
            for state, (number, there) in zip(answer, duty, strict=True):
                alike = _nth(given, number, (*said, *noted)) if there else None
                same.append(state if alike is None else alike)  # type: ignore[arg-type]
                noted += [(number, same[-1])] if there else []
            yield cast(Answer, tuple(same)), after, tuple(noted)
        elif isinstance(question, RecordThis):
            yield False, after, ()
            return
        elif other is None or _kind(other) not in {_kind(one) for one, _ in world.classes(question, known)}:
            yield answer, after, ((key, answer),) if key is not None else ()
        elif _kind(answer) == _kind(other):
            yield answer, after, ((key, answer),)


def _nth(given: Said, key: Hashable, said: Said) -> Answer | None:
    """What the other version was answered when it asked for something as often as this one has by now."""
    times = sum(one == key for one, _ in said)
    answers = [answer for one, answer in given if one == key]
    return answers[times] if times < len(answers) else None


def _alike(flow: Flow, question: Question) -> Hashable:
    """What makes questions of two versions the same, where what they ask of the world is not kept as known; None for any other."""
    step = flow.steps.get(getattr(question, "step", ""))
    if isinstance(question, HoldTurn) and isinstance(step, HoldLine):
        return ("line", step.team, question.entering, question.but)
    if isinstance(question, AnybodyFree):
        return ("anybody", question.step)
    if isinstance(question, LookedUp):
        return ("system", getattr(step, "url", ""))
    return None


def _kind(answer: Answer) -> Hashable:
    return answer[0] if isinstance(answer, tuple) and answer else answer
