"""The flow document: what a draft, a live version and a flow file hold."""

from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from ...prompts.voices import Voice
from ...value import Value
from . import upgrades
from .exits import Exit
from .kept import KeptRehearsal
from .steps import AnyStep, Step
from .values import END, SAME, Language, StepId

FORMAT_VERSION = 2
MOST_STEPS = 4000
MOST_REHEARSALS = 200

Mark = Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{1,2}$")]


class UnreadLine(Value):
    """A typed line that was not understood: its words, the step that it stood behind, how many lines of that step's exits it stood behind
    too, how much deeper than the last of these lines, and what is missing."""

    text: Annotated[str, Field(max_length=500)]
    deeper: Annotated[int, Field(ge=-50, le=50)] = 0
    after: StepId | None = None
    past: Annotated[int, Field(ge=0, le=2000)] = 0
    sentence: Annotated[str, Field(max_length=300)] = ""


class FlowDocument(Value):
    """The steps a caller meets, in the order of the outline, with the step that starts and the rescue.

    `everyone_else` is the step that takes callers for whom no other has an answer, as the text of the flow has it; `unread` are
    its lines that were not understood. `voice` reads its words. `rehearsals` are calls that are run again at each change.
    `entry_limit` is how often one call may enter one step before the caller goes to the rescue.
    """

    format: Literal["vokari-flow"] = "vokari-flow"
    version: Literal[2] = 2
    name: Annotated[str, Field(min_length=1, max_length=60)]
    mark: Mark
    language: Language = "en-US"
    voice: Voice = Voice()
    start: StepId | None = None
    rescue: StepId | None = None
    everyone_else: StepId | None = None
    entry_limit: int = Field(default=10, ge=2, le=50)
    steps: tuple[Step, ...] = Field(default=(), max_length=MOST_STEPS)
    unread: tuple[UnreadLine, ...] = Field(default=(), max_length=2000)
    rehearsals: tuple[KeptRehearsal, ...] = Field(default=(), max_length=MOST_REHEARSALS)

    @model_validator(mode="before")
    @classmethod
    def _raised(cls, raw: Any) -> Any:
        """Raises what was stored in an older version."""
        while isinstance(raw, dict) and (upgrade := upgrades.BY_VERSION.get(raw.get("version", FORMAT_VERSION))):
            raw = upgrade(raw)
        return raw

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        self.check()
        return self

    def check(self) -> None:
        """Raises ValueError, with a sentence, where ids are used twice or lead to steps that are not there. Copies with other
        steps have to be checked by whoever makes them."""
        known = self.by_id
        if len(known) < len(self.steps):
            ids = [step.id for step in self.steps]
            raise ValueError(f"two steps have the id {next(one for one in ids if ids.count(one) > 1)}")
        if END in known or SAME in known:
            raise ValueError("the words end and same are not step ids")
        for step_id in (self.start, self.rescue, self.everyone_else):
            if step_id is not None and step_id not in known:
                raise ValueError(f"there is no step {step_id}")
        calls = [one.id for one in self.rehearsals]
        if len(set(calls)) < len(calls):
            raise ValueError(f"two rehearsals have the id {next(one for one in calls if calls.count(one) > 1)}")
        for step in self.steps:
            for way in step.exits:
                if way.target is not None and way.target not in known and way.target not in (END, SAME):
                    raise ValueError(f"step {step.id}, exit {way.id}: there is no step {way.target}")

    @cached_property
    def by_id(self) -> dict[str, AnyStep]:
        """The steps by their ids, in their order."""
        return {step.id: step for step in self.steps}

    def step(self, step_id: str) -> AnyStep | None:
        """The step of this id."""
        return self.by_id.get(step_id)

    def follows(self, step: AnyStep, way: Exit) -> bool:
        """Whether an exit leads where everyone else goes because it was not given its own."""
        return self.everyone_else is not None and way.target == self.everyone_else and way.id in step.follows

    def with_steps(self, steps: tuple[AnyStep, ...]) -> Self:
        """The same flow with other steps, unchecked."""
        return self.model_copy(update={"steps": steps})

    @cached_property
    def step_names(self) -> dict[str, str]:
        """What the steps are called, by id."""
        return {step.id: step.called for step in self.steps}
