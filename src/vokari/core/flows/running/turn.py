"""One event's way through a flow: the state as it changes, the commands so far, the exits still to follow, the steps met.

A turn is what the steps are written with (`steps/`): they set its fields, issue commands, ask, and say by which exit to go on. It has
the fields of `State`, worked on in place and frozen once at the end.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, cast

from ...prompts.fields import ASKED, PLAYED_BACK, RECORDING, TYPED, WAITING, fields_in, filled
from ...prompts.spoken import in_language
from ...prompts.voices import Voice, for_language
from ..model.steps import AnyStep
from ..model.steps.keypad_entry import stored_name
from ..model.values import Prompt, Target
from ..questions.kinds import Answer, Question, SpokenFields
from .commands import Command, Drop, Hold, Play
from .events import Event
from .flow import Flow, flow_of
from .state import EndedBy, Holding, Phase, Ringing, Said, State

STEP_LIMIT = 300
"""Steps one call takes at most before it goes to the rescue."""
RESCUE_STEPS = 20
"""Steps that a call may still take once the rescue was reached by the limit on steps."""
TAKEN = "Someone else has taken this call."

Passage = tuple[str, str]
"""The exit that was taken ("start" and "rescue" among them) and the step that was entered by it."""
Going = tuple[str, Target]
"""An exit to follow, by its id, and where it leads."""


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


@dataclass(frozen=True, slots=True)
class Mark:
    """A turn as it stood before something that may ask: all it takes to go on from there. `doing` is the event that is taken
    or the step that is entered."""

    state: State
    commands: tuple[Command, ...]
    going: tuple[Going, ...]
    way: tuple[Passage, ...]
    defect: Question | None
    doing: Event | AnyStep


class Turn:
    """A working copy of a state, and what comes of it."""

    __slots__ = (
        *State._fields, "answers", "commands", "defect", "ends", "flow", "going", "marked", "way",
    )  # fmt: skip

    at: str
    phase: Phase
    serial: int
    awaiting: int
    steps: int
    entries: tuple[tuple[str, int], ...]
    rescued: bool
    tries: int
    played: int
    pending: str
    kept: str
    language: str
    source: str
    labels: tuple[str, ...]
    lead_status: str
    values: tuple[tuple[str, str], ...]
    stack: tuple[str, ...]
    ring: Ringing | None
    hold: Holding | None
    talking_to: str
    noticed: bool
    named: int
    rang: bool
    held: bool
    answered: bool
    confirmed: bool
    service: bool
    message: bool
    said: Said
    gone: bool
    ended_by: EndedBy
    left_in: str
    recorded: int

    def __init__(self, flow: Flow, state: State, answers: Mapping[Question, Answer]) -> None:
        (
            self.at, self.phase, self.serial, self.awaiting, self.steps, self.entries, self.rescued, self.tries, self.played,
            self.pending, self.kept, self.language, self.source, self.labels, self.lead_status, self.values, self.stack, self.ring, self.hold,
            self.talking_to, self.noticed, self.named, self.rang, self.held, self.answered, self.confirmed, self.service, self.message,
            self.said, self.gone, self.ended_by, self.left_in, self.recorded,
        ) = state  # fmt: skip
        self.flow = flow
        self.answers = answers
        self.commands: list[Command] = []
        self.going: list[Going] = []
        self.way: list[Passage] = []
        self.defect: Question | None = None
        self.ends = ""
        self.marked: Mark | None = None

    def frozen(self) -> State:
        """The state as it is now."""
        return State(
            self.at, self.phase, self.serial, self.awaiting, self.steps, self.entries, self.rescued, self.tries, self.played,
            self.pending, self.kept, self.language, self.source, self.labels, self.lead_status, self.values, self.stack, self.ring, self.hold,
            self.talking_to, self.noticed, self.named, self.rang, self.held, self.answered, self.confirmed, self.service, self.message,
            self.said, self.gone, self.ended_by, self.left_in, self.recorded,
        )  # fmt: skip

    def mark(self, doing: Event | AnyStep) -> None:
        """Keeps where the turn stands, so that it can go on from here once a question is answered."""
        self.marked = Mark(
            self.frozen(), tuple(self.commands), tuple(self.going), tuple(self.way), self.defect, doing
        )  # fmt: skip

    # what the steps are written with

    def issue(self, make: Callable[..., Command], *fields: Any) -> int:
        """Appends a command with the next id and returns that id."""
        self.serial += 1
        self.commands.append(make(self.serial, *fields))
        return self.serial

    def next_id(self) -> int:
        """The next command's id, for one that is not sent."""
        self.serial += 1
        return self.serial

    def ask(self, question: Question) -> Answer:
        """The answer to a question; ends the turn where it is missing or fits no question of its kind."""
        if question not in self.answers:
            raise Unanswered(question)
        answer = self.answers[question]
        if not question.fits(answer):
            raise Unfit(question)
        return answer

    def spoken_in(self, prompt: Prompt | None = None) -> str:
        """The language of a prompt: its own, else the call's, else the flow's."""
        return (prompt.language if prompt else None) or self.language or self.flow.home(self.at).language

    def say(self, prompt: Prompt, *, cut: bool, phase: Phase = "saying", told: Mapping[str, str] | None = None) -> None:
        """Plays a prompt and waits for its end; a key stops it if it may be `cut`. `told` fills in fields that only the step knows."""
        said, language = self.heard(prompt)
        parts = self.filled(said, language, told or {}) if "{" in said.say and not said.recording else ()
        played_back = self.recorded if PLAYED_BACK in parts else 0
        if parts:
            said = said.model_copy(update={"say": " ".join(one for one in parts if one != PLAYED_BACK)})
        self.phase = phase
        self.awaiting = self.issue(Play, said, cut, language, self.voice(said, language), parts, played_back)

    def play_on(self, prompt: Prompt | None) -> int:
        """Plays a prompt over and over, or music; gives the command's id."""
        if prompt is None or prompt.is_empty():
            return self.issue(Hold, None, self.spoken_in())
        said, language = self.heard(prompt)
        return self.issue(Hold, said, language, self.voice(said, language))

    def heard(self, prompt: Prompt) -> tuple[Prompt, str]:
        """What a caller hears of a prompt, and its language: of one of the library the take for the language of the call."""
        language = self.spoken_in(prompt)
        takes = self.flow.takes.get(flow_of(self.at), {}).get(prompt.prompt) if prompt.prompt else None
        found = in_language(takes, language, self.flow.home(self.at).language) if takes else None
        if found is None:
            return prompt, language
        language, take = found
        voice = {} if take.voice is None else {"voice": take.voice.name}
        return prompt.model_copy(update={"say": take.words, "recording": take.sound or None, **voice}), language

    def voice(self, prompt: Prompt, language: str) -> Voice:
        """The voice that reads a prompt: its own, else the flow's, as far as it speaks the language."""
        own = self.flow.home(self.at).voice
        return for_language(own.model_copy(update={"name": prompt.voice}) if prompt.voice else own, language)

    def filled(self, prompt: Prompt, language: str, told: Mapping[str, str]) -> tuple[str, ...]:
        """The words of a prompt with their fields filled in, in parts. What the call itself knows is known here (`told` by the step); the
        rest is asked for."""
        known: dict[str, str] = {}
        asked: list[str] = []
        for one in fields_in(prompt.say):
            if one.name == RECORDING:
                known[one.written] = PLAYED_BACK
            elif one.name in ASKED:
                asked.append(one.written)
            else:
                known[one.written] = told.get(one.name, "") if one.name in WAITING else self._kept_as(one.name)
        if asked:
            answer = cast(tuple[str, ...], self.ask(SpokenFields(self.at, tuple(asked), language)))
            known |= dict(zip(asked, answer, strict=True))
        return filled(prompt.say, known)

    def _kept_as(self, name: str) -> str:
        """What was typed last, or what is kept under a name in words."""
        if name == TYPED:
            return next((value for key, value in reversed(self.values) if key in self.flow.typed_names), "")
        return self.value(stored_name(name))

    def value(self, name: str) -> str:
        """What is kept under a name; empty for nothing."""
        return next((value for known, value in self.values if known == name), "")

    def keep(self, name: str, value: str) -> None:
        """Keeps a value under a name, in the place of one that was there."""
        self.values = (*(pair for pair in self.values if pair[0] != name), (name, value))

    def go(self, by: str, target: Target) -> None:
        """Follows an exit, by its id, once the step at hand is done."""
        self.going.append((by, target))

    def count(self, step_id: str, by: str) -> bool:
        """Counts an entry of a step by an exit; False when the call has met a limit."""
        before = 0
        for known, times in self.entries:
            if known == step_id:
                before = times
        allowed = STEP_LIMIT + RESCUE_STEPS if self.rescued else STEP_LIMIT
        if before >= self.flow.home(step_id).entry_limit or self.steps >= allowed:
            return False
        others = tuple(pair for pair in self.entries if pair[0] != step_id) if before else self.entries
        self.entries = (*others, (step_id, before + 1))
        self.steps += 1
        self.way.append((by, step_id))
        return True

    def stop_ringing(self) -> None:
        """Drops all phones that ring, and leaves the line."""
        for leg in self.ring.legs if self.ring else ():
            self.commands.append(Drop(leg.command, TAKEN))
        self.ring = self.hold = None
