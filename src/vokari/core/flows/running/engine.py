"""The one engine: a pure function that live calls, rehearsals, the proof and the simulator all run.

`step(flow, state, event, answers)` gives the next state with commands, or asks a question whose answer must be
given on the next try. No sequence of events makes it fail, and none makes a call run for ever.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from ..model import conditions
from ..model.document import FlowDocument
from ..model.steps import (
    Announcement,
    BackTo,
    HangUp,
    HoldLine,
    Junction,
    KeypadEntry,
    Label,
    LookUp,
    Menu,
    Notify,
    Ring,
    Step,
    Voicemail,
)
from ..model.values import END, Prompt, Target
from .commands import Command, HangUpCall, Play, Record
from .events import Arrived, Digit, Event, Finished, Gone, Leg, Poked, Recorded, Silence, TimerFired
from .questions import Answer, Answers, AnswerSource, Question
from .state import State
from .steps import hold_line, keyed, keypad_entry, look_up, menu, ring

VERSION = 2
"""The engine's version, written beside each event of a live call. 2: who can be rung is looked at phone by phone."""

STEP_LIMIT = 300
"""Steps one call takes at most before it goes to the rescue."""

HELD = ("holding", "telling")
"""The phases of a wait in a hold line."""

RESCUE_STEPS = 20
"""Steps that a call may still take once the rescue was reached by the limit on steps."""

KEPT_KEYS = 20
MESSAGE_SECONDS = 2.0
RUNS_ON = (Label, Notify, LookUp, Junction, BackTo)
"""What needs no caller: it runs on once the caller has gone. Any other step is not met any more."""
FAREWELL = Prompt(say="We are sorry, this call has to end here. Please call again.")


@dataclass(frozen=True, slots=True)
class Flow:
    """A flow made ready to run: its document and its steps by id."""

    document: FlowDocument
    steps: Mapping[str, Step]


Passage = tuple[str, str]
"""The exit that was taken ("start" and "rescue" among them) and the step that was entered by it."""


@dataclass(frozen=True, slots=True)
class Next:
    """Where the call stands now, what the carrier is to do, and the steps entered on the way there. `defect` is a question
    that got an answer which is none of its own, so that the call went to its rescue."""

    state: State
    commands: tuple[Command, ...]
    way: tuple[Passage, ...] = ()
    defect: Question | None = None


@dataclass(frozen=True, slots=True)
class Ask:
    """The engine cannot go on before this question is answered."""

    question: Question


def prepare(document: FlowDocument) -> Flow:
    """Makes a document ready to run."""
    return Flow(document, {step.id: step for step in document.steps})


def step(flow: Flow, state: State, event: Event, answers: Mapping[Question, Answer]) -> Next | Ask:
    """Folds one event into a call. Events that answer no awaited command, or do not belong to the phase, change nothing."""
    turn = Turn(flow, state, answers)
    try:
        turn.attempt(lambda: turn.take(event))
        turn.settle()
    except Unanswered as unanswered:
        return Ask(unanswered.question)
    return Next(turn.state, tuple(turn.commands), tuple(turn.way), turn.defect)


def run(flow: Flow, state: State, event: Event, source: AnswerSource) -> tuple[Next, Answers]:
    """Steps until no question is open, asking `source`; gives the answers that were used, for the log. An answer that does
    not fit its question is not among them: it sends the call to its rescue."""
    answers: Answers = {}
    while True:
        result = step(flow, state, event, answers)
        if isinstance(result, Next):
            return result, {question: answer for question, answer in answers.items() if question.fits(answer)}
        answers[result.question] = source(result.question)


class Unanswered(Exception):
    """Raised inside one turn, and only there, when an answer is missing."""

    def __init__(self, question: Question) -> None:
        super().__init__(question)
        self.question = question


class Unfit(Exception):
    """Raised inside one turn, and only there, when an answer is none of its question's."""

    def __init__(self, question: Question) -> None:
        super().__init__(question)
        self.question = question


class Turn:
    """One event's way through the flow: the state as it changes, commands so far, exits still to follow, steps met."""

    def __init__(self, flow: Flow, state: State, answers: Mapping[Question, Answer]) -> None:
        self.flow = flow
        self.state = state
        self.answers = answers
        self.commands: list[Command] = []
        self.going: list[tuple[str, Target]] = []
        self.way: list[Passage] = []
        self.defect: Question | None = None

    # what the steps are written with

    def set(self, **changes: Any) -> None:
        self.state = replace(self.state, **changes)

    def issue(self, make: Any, *fields: Any) -> int:
        """Appends a command with the next id and returns that id."""
        serial = self.next_id()
        self.commands.append(make(serial, *fields))
        return serial

    def next_id(self) -> int:
        """The next command's id, also for one that is not sent."""
        self.set(serial=self.state.serial + 1)
        return self.state.serial

    def ask(self, question: Question) -> Answer:
        if question not in self.answers:
            raise Unanswered(question)
        answer = self.answers[question]
        if not question.fits(answer):
            raise Unfit(question)
        return answer

    def attempt(self, do: Callable[[], None]) -> None:
        """Does something that may ask; an answer that does not fit, a defect outside, sends the call to its rescue."""
        try:
            do()
        except Unfit as unfit:
            self.defect = unfit.question
            self.going.clear()
            self.stop_ringing()
            self.rescue()

    def stop_ringing(self) -> None:
        """Drops all phones that ring, and leaves the line."""
        for leg in self.state.ring.legs if self.state.ring else ():
            self.commands.append(ring.drop(leg.command))
        self.set(ring=None, hold=None)

    def say(self, prompt: Prompt, *, cut: bool, phase: str = "saying") -> None:
        language = prompt.language or self.state.language or self.flow.document.language
        self.set(phase=phase, awaiting=self.issue(Play, prompt, cut, language))

    # moving

    def go(self, by: str, target: Target) -> None:
        """Follows an exit, by its id, once the step at hand is done; `settle` walks on from there."""
        self.going.append((by, target))

    def settle(self) -> None:
        """Enters steps until one waits for an event. An exit that leads nowhere goes to the rescue, as a limit does."""
        while self.going:
            by, target = self.going.pop()
            reached = self.flow.steps.get(target) if target else None
            if target == END or (reached is not None and self.state.gone and not isinstance(reached, RUNS_ON)):
                self.end()
            elif reached is None or not self.count(reached.id, by):
                self.rescue()
            else:
                self.attempt(partial(self.enter, reached))

    def enter(self, step_: Step) -> None:
        self.set(at=step_.id, tries=0, played=0, pending="", ring=None, hold=None)
        if isinstance(step_, Label):
            self.set(labels=self.state.labels + tuple(x for x in step_.labels if x not in self.state.labels))
            self.go("next", step_.next)
        elif isinstance(step_, Notify):
            self.go("next", step_.next)
        elif isinstance(step_, LookUp):
            look_up.begin(self, step_)
        elif isinstance(step_, BackTo):
            self.go("to", step_.to)
        elif isinstance(step_, Junction):
            taken = next(
                (one for one in step_.branches if conditions.holds(one.when, self.ask, dict(self.state.values))), None
            )
            self.go(taken.id if taken else "otherwise", taken.to if taken else step_.otherwise)
        else:
            self.begin(step_)

    def begin(self, step_: Step) -> None:
        match step_:
            case Announcement():
                self.announce(step_)
            case Menu():
                menu.begin(self, step_)
            case KeypadEntry():
                keypad_entry.begin(self, step_)
            case Ring():
                self.set(kept="")
                ring.begin(self, step_)
            case HoldLine():
                self.set(kept="")
                hold_line.begin(self, step_)
            case Voicemail():
                self.set(kept="")
                if step_.greeting.is_empty():
                    self.record(step_)
                else:
                    self.say(step_.greeting, cut=True, phase="greeting")
            case HangUp():
                if step_.refusal:
                    self.set(said="turned_away")
                if step_.prompt.is_empty():
                    self.end()
                else:
                    self.say(step_.prompt, cut=False, phase="parting")
            case _:
                self.rescue()

    def count(self, step_id: str, by: str) -> bool:
        """Counts an entry of a step by an exit; False when the call has met a limit."""
        before = dict(self.state.entries).get(step_id, 0)
        allowed = STEP_LIMIT + (RESCUE_STEPS if self.state.rescued else 0)
        if before >= self.flow.document.entry_limit or self.state.steps >= allowed:
            return False
        entries = tuple(pair for pair in self.state.entries if pair[0] != step_id)
        self.set(steps=self.state.steps + 1, entries=(*entries, (step_id, before + 1)))
        self.way.append((by, step_id))
        return True

    def rescue(self) -> None:
        """Sends the caller to the flow's rescue; a caller who was there already hears a farewell."""
        target = self.flow.document.rescue
        if not self.state.rescued and target is not None:
            self.set(rescued=True)
            self.go("rescue", target)
        elif self.state.gone:
            self.end()
        else:
            self.set(ring=None, hold=None)
            self.say(FAREWELL, cut=False, phase="parting")

    def end(self) -> None:
        if not self.state.gone:
            self.issue(HangUpCall)
        by = "caller" if self.state.gone else "flow"
        self.set(phase="ended", ended_by=self.state.ended_by or by, awaiting=0, ring=None, hold=None)

    # events

    def take(self, event: Event) -> None:
        if self.state.phase == "ended":
            return
        if isinstance(event, Arrived):
            if self.state.phase == "new":
                self.go("start", self.flow.document.start)
        elif self.state.phase == "new":
            return
        elif isinstance(event, Gone):
            if not self.state.gone:
                self.caller_gone(event)
        elif isinstance(event, Digit):
            self.digit(event)
        elif isinstance(event, Leg):
            self.leg(event)
        elif isinstance(event, TimerFired):
            self.timer(event)
        elif isinstance(event, Poked):
            here = self.here()
            if isinstance(here, HoldLine) and self.state.phase in HELD:
                hold_line.look(self, here)
            elif isinstance(here, LookUp) and self.state.phase == "looking":
                look_up.poked(self, here)
        elif isinstance(event, Finished | Silence | Recorded) and event.command == self.state.awaiting:
            self.answer(event)

    def timer(self, event: TimerFired) -> None:
        here, phase = self.here(), self.state.phase
        if isinstance(here, Ring) and phase == "ringing":
            if self.state.ring and event.command == self.state.ring.timer:
                ring.time_is_up(self, here)
        elif isinstance(here, HoldLine) and phase in HELD:
            hold_line.timer(self, here, event.command)
        elif isinstance(here, LookUp) and phase == "looking" and event.command == self.state.awaiting:
            look_up.time_is_up(self, here)

    def here(self) -> Step | None:
        return self.flow.steps.get(self.state.at)

    def answer(self, event: Finished | Silence | Recorded) -> None:
        """An event that answers the awaited command; of another kind than the phase expects, it changes nothing."""
        here = self.here()
        match self.state.phase, event, here:
            case "saying", Finished(), Announcement():
                self.announced(here)
            case "saying", Finished(), Menu() | KeypadEntry():
                keyed.heard(self, here)
            case "waiting", Silence(), Menu():
                menu.silence(self, here)
            case "waiting", Silence(), KeypadEntry():
                keypad_entry.silence(self, here)
            case "greeting", Finished(), Voicemail():
                self.record(here)
            case "recording", Recorded(), Voicemail():
                self.recorded(here, event)
            case "telling", Finished(), HoldLine():
                hold_line.told(self, here)
            case "naming", Finished(), Ring():
                ring.ask_name(self)
            case "name", Recorded(), Ring():
                self.named(here, event)
            case "parting", Finished(), _:
                self.end()

    def digit(self, event: Digit) -> None:
        here = self.here()
        if self.state.phase == "saying" and isinstance(here, Announcement):
            self.set(kept=(self.state.kept + event.key)[:KEPT_KEYS])
            if not here.notice:
                if here.counts_as == "served" and event.heard_half:
                    self.set(said="served")
                self.go("next", here.next)
        elif self.state.phase in ("saying", "waiting") and isinstance(here, Menu):
            menu.key(self, here, event.key)
        elif self.state.phase in ("saying", "waiting") and isinstance(here, KeypadEntry):
            keypad_entry.key(self, here, event.key)
        elif self.state.phase == "greeting" and isinstance(here, Voicemail):
            self.record(here)
        elif self.state.phase == "naming" and isinstance(here, Ring):
            ring.ask_name(self)
        elif self.state.phase in HELD and isinstance(here, HoldLine):
            hold_line.digit(self, here, event.key)

    def leg(self, event: Leg) -> None:
        here = self.here()
        if not isinstance(here, Ring | HoldLine):
            return
        if isinstance(here, HoldLine) and self.state.phase in HELD:
            hold_line.outcome(self, here, event)
        elif isinstance(here, Ring) and self.state.phase == "ringing":
            ring.outcome(self, here, event)
        elif self.state.phase == "talking" and event.outcome == "ended" and event.command == self.state.awaiting:
            self.go("after", here.after)

    def caller_gone(self, event: Gone) -> None:
        """Ends the call; after an answered call or a message what needs no caller still runs."""
        here = self.here()
        phase = self.state.phase
        if isinstance(here, Announcement) and phase == "saying" and here.counts_as == "served" and event.heard_half:
            self.set(said="served")
        self.set(gone=True, ended_by="flow" if phase == "parting" else "caller", left_in=_place(here, phase))
        self.stop_ringing()
        if phase == "talking" and isinstance(here, Ring | HoldLine):
            self.go("after", here.after)
        elif phase != "looking" or not (self.state.answered or self.state.message):
            self.end()

    # announcement

    def announce(self, here: Announcement) -> None:
        if here.counts_as == "turned_away":
            self.set(said="turned_away")
        self.say(here.prompt, cut=not here.notice)

    def announced(self, here: Announcement) -> None:
        if here.notice:
            self.set(noticed=True)
        if here.counts_as == "served":
            self.set(said="served")
        self.set(played=self.state.played + 1)
        if self.state.played < here.times:
            self.say(here.prompt, cut=not here.notice)
        else:
            self.go("next", here.next)

    def named(self, here: Ring, event: Recorded) -> None:
        """The caller has said a name, or nothing."""
        if event.gone:
            self.caller_gone(Gone())
            return
        self.set(named=event.command if event.voice > 0 else -1)
        ring.start(self, here)

    # voicemail

    def record(self, here: Voicemail) -> None:
        serial = self.issue(Record, here.mailbox, here.beep, here.longest, here.stop_key, here.stop_silence)
        self.set(phase="recording", awaiting=serial)

    def recorded(self, here: Voicemail, event: Recorded) -> None:
        left = event.voice >= MESSAGE_SECONDS
        self.set(message=self.state.message or left)
        if event.gone:
            self.set(gone=True, ended_by="caller", left_in="voicemail")
        self.go(*(("message_left", here.message_left) if left else ("no_message", here.no_message)))


def _place(here: Step | None, phase: str) -> str:
    """Where a caller was who hung up, in the words of a lost call's reason."""
    if phase in ("ringing", "talking"):
        return "ringing" if phase == "ringing" else "call"
    if phase in ("holding", "telling"):
        return "waiting"
    if isinstance(here, Menu | KeypadEntry):
        return "menu"
    if isinstance(here, Voicemail):
        return "voicemail"
    return "announcement"
