"""The one engine: a pure function that live calls, rehearsals, the proof and the simulator all run.

`step(flow, state, event, answers)` gives the next state with commands, or asks a question whose answer must be
given on the next try; `resume` goes on from the question instead. No sequence of events makes it fail, and none makes a call run
for ever. What each kind of step does is its module in `steps/`.
"""

from collections.abc import Mapping
from typing import NamedTuple

from ...prompts.spoken import Takes
from ..model.document import FlowDocument
from ..model.steps import AnyStep
from ..model.values import END, Prompt
from ..questions.kinds import Answer, Answers, AnswerSource, Question
from .commands import Command, HangUpCall
from .events import Arrived, Event, Finished, Gone, Recorded, Silence
from .flow import Flow
from .kinds import Running, running_of
from .state import State
from .turn import Mark, Passage, Turn, Unanswered, Unfit

VERSION = 4
"""The engine's version, written beside each event of a live call. 2: who can be rung is looked at phone by phone. 3: flows continue in
others, and conditions ask for what is known of the caller. 4: fields in spoken words are filled in, and prompts have takes."""

FAREWELL = Prompt(say="We are sorry, this call has to end here. Please call again.")


class Next(NamedTuple):
    """Where the call stands now, what the carrier is to do, and the steps entered on the way there. `defect` is a question
    that got an answer which is none of its own, so that the call went to its rescue. `ends` is the exit by which the call came to its end, where
    one led there."""

    state: State
    commands: tuple[Command, ...]
    way: tuple[Passage, ...] = ()
    defect: Question | None = None
    ends: str = ""


class Ask(NamedTuple):
    """The engine cannot go on before this question is answered; `mark` is where it goes on then, with the answers so far. `state` is the call as
    far as it has come: of two ways to the same question of a ring that come so far alike, the rest is alike."""

    question: Question
    mark: Mark
    answers: Mapping[Question, Answer]
    state: State


def prepare(
    document: FlowDocument,
    inner: Mapping[str, FlowDocument] | None = None,
    takes: Mapping[str, Takes] | None = None,
) -> Flow:
    """Makes a document ready to run, with the flows that it continues in by their keys, and what is heard of prompts of the library."""
    return Flow(document, inner, takes=takes)


def step(flow: Flow, state: State, event: Event, answers: Mapping[Question, Answer]) -> Next | Ask:
    """Folds one event into a call. Events that answer no awaited command, or do not belong to the phase, change nothing.
    Raises nothing: an answer that fits none of its question's sends the call to its rescue."""
    turn = Turn(flow, state, answers)
    try:
        try:
            _take(turn, event)
        except Unfit as unfit:
            _give_up(turn, unfit.question)
        _settle(turn)
    except Unanswered as unanswered:
        return _asked(turn, unanswered.question, Mark(state, (), (), (), None, event))
    return Next(turn.frozen(), tuple(turn.commands), tuple(turn.way), turn.defect, turn.ends)


def resume(flow: Flow, ask: Ask, answer: Answer) -> Next | Ask:
    """Goes on with a turn from the question that it asked. The same question can be answered in several ways, one after the
    other: nothing of `ask` changes."""
    mark = ask.mark
    turn = Turn(flow, mark.state, {**ask.answers, ask.question: answer})
    turn.commands, turn.going, turn.way = list(mark.commands), list(mark.going), list(mark.way)
    turn.defect = mark.defect
    try:
        try:
            if isinstance(mark.doing, AnyStep):
                running_of(mark.doing).enter(turn, mark.doing)
            else:
                _take(turn, mark.doing)
        except Unfit as unfit:
            _give_up(turn, unfit.question)
        _settle(turn)
    except Unanswered as unanswered:
        return _asked(turn, unanswered.question, mark)
    return Next(turn.frozen(), tuple(turn.commands), tuple(turn.way), turn.defect, turn.ends)


def run(flow: Flow, state: State, event: Event, source: AnswerSource) -> tuple[Next, Answers]:
    """Steps until no question is open, asking `source`; gives the answers that were used, for the log. An answer that does
    not fit its question is not among them: it sends the call to its rescue."""
    answers: Answers = {}
    result = step(flow, state, event, answers)
    while isinstance(result, Ask):
        answer = source(result.question)
        if result.question.fits(answer):
            answers[result.question] = answer
        result = resume(flow, result, answer)
    return result, answers


def _asked(turn: Turn, question: Question, beginning: Mark) -> Ask:
    return Ask(question, turn.marked or beginning, turn.answers, turn.frozen())


def _give_up(turn: Turn, question: Question) -> None:
    """An answer that fits no question is a defect outside: the call goes to its rescue."""
    turn.defect = question
    turn.going.clear()
    turn.stop_ringing()
    _rescue(turn)


# moving


def _settle(turn: Turn) -> None:
    """Enters steps until one waits for an event. An exit that leads nowhere goes to the rescue, as a limit does."""
    steps = turn.flow.steps
    while turn.going:
        by, target = turn.going.pop()
        reached = steps.get(target) if target else None
        if target == END:
            turn.ends = by
        if target == END or (reached is not None and turn.gone and reached.needs_caller):
            _end(turn)
        elif reached is None or not turn.count(reached.id, by):
            _rescue(turn)
        else:
            try:
                _enter(turn, reached)
            except Unfit as unfit:
                _give_up(turn, unfit.question)


def _enter(turn: Turn, reached: AnyStep) -> None:
    turn.at, turn.tries, turn.played, turn.pending, turn.ring, turn.hold = reached.id, 0, 0, "", None, None
    kind = running_of(reached)
    if kind.asks:
        turn.mark(reached)
    kind.enter(turn, reached)


def _rescue(turn: Turn) -> None:
    """Sends the caller to the rescue of the flow that they are in, or of the one around it where that has none; a caller who was at
    one already hears a farewell."""
    target = turn.flow.rescue(turn.at)
    while target is None and turn.stack:
        turn.at, turn.stack = turn.stack[-1], turn.stack[:-1]
        target = turn.flow.rescue(turn.at)
    if not turn.rescued and target is not None:
        turn.rescued = True
        turn.go("rescue", target)
    elif turn.gone:
        _end(turn)
    else:
        turn.ring = turn.hold = None
        turn.say(FAREWELL, cut=False, phase="parting")


def _end(turn: Turn) -> None:
    if not turn.gone:
        turn.issue(HangUpCall)
    turn.phase, turn.awaiting, turn.ring, turn.hold = "ended", 0, None, None
    turn.ended_by = turn.ended_by or ("caller" if turn.gone else "flow")


# events


def _take(turn: Turn, event: Event) -> None:
    if turn.phase == "ended":
        return
    if turn.phase == "new":
        if isinstance(event, Arrived):
            turn.go("start", turn.flow.document.start)
        return
    if isinstance(event, Finished | Silence | Recorded) and event.command != turn.awaiting:
        return
    here = turn.flow.steps.get(turn.at)
    if isinstance(event, Gone):
        if not turn.gone:
            _caller_gone(turn, here, event)
    elif turn.phase == "parting":
        if isinstance(event, Finished):
            _end(turn)
    elif here is not None:
        _take_here(turn, here, running_of(here), event)


def _take_here(turn: Turn, here: AnyStep, kind: Running, event: Event) -> None:
    """An event of the step at hand."""
    if kind.asks:
        turn.mark(event)
    kind.take(turn, here, event)


def _caller_gone(turn: Turn, here: AnyStep | None, event: Gone) -> None:
    """Ends the call; after an answered call or a message what needs no caller still runs."""
    kind = running_of(here) if here is not None else None
    turn.left_in = kind.left_in(here, turn.phase) if kind else "announcement"
    turn.gone, turn.ended_by = True, "flow" if turn.phase == "parting" else "caller"
    turn.stop_ringing()
    if kind is None or here is None or turn.phase == "parting" or not kind.caller_gone(turn, here, event):
        _end(turn)
