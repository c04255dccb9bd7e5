"""The flow document: what a draft, a live version and a flow file hold."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ...value import Value
from .steps import (
    Announcement,
    BackTo,
    ContinueIn,
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
from .values import END, SAME, Language, StepId, Target

FORMAT_VERSION = 1

Mark = Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{1,2}$")]


class FlowDocument(Value):
    """The steps a caller meets, in the order of the outline, with the step that starts and the rescue.

    `entry_limit` is how often one call may enter one step before the caller goes to the rescue.
    """

    format: Literal["vokari-flow"] = "vokari-flow"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=60)]
    mark: Mark
    language: Language = "en-US"
    start: StepId | None = None
    rescue: StepId | None = None
    entry_limit: int = Field(default=10, ge=2, le=50)
    steps: tuple[Step, ...] = Field(default=(), max_length=1500)

    @model_validator(mode="after")
    def _hangs_together(self) -> "FlowDocument":
        ids = [step.id for step in self.steps]
        known = set(ids)
        if len(known) < len(ids):
            twice = next(one for one in ids if ids.count(one) > 1)
            raise ValueError(f"two steps have the id {twice}")
        if {END, SAME} & known:
            raise ValueError("the words end and same are not step ids")
        for one in (self.start, self.rescue):
            if one is not None and one not in known:
                raise ValueError(f"there is no step {one}")
        for step in self.steps:
            for exit_ in exits(step):
                if exit_.target not in known and exit_.target not in (None, END, SAME):
                    raise ValueError(f"step {step.id}, exit {exit_.id}: there is no step {exit_.target}")
        return self

    def step(self, step_id: str) -> Step | None:
        return next((step for step in self.steps if step.id == step_id), None)


@dataclass(frozen=True, slots=True)
class Exit:
    """A named way out of a step. `keys` is filled for the branches of a menu; `field` names where it is stored."""

    id: str
    name: str
    target: Target
    keys: str = ""
    hear_again: bool = False


_FIXED: dict[type, tuple[tuple[str, str], ...]] = {
    Announcement: (("next", "then"),),
    KeypadEntry: (("typed", "typed"), ("nothing", "nothing typed"), ("wrong", "wrong entry")),
    LookUp: (("found", "found"), ("not_found", "not found"), ("failed", "failed")),
    Ring: (("no_answer", "no answer"), ("busy", "busy"), ("unreachable", "unreachable"),
           ("nobody", "nobody available"), ("after", "after the call")),
    HoldLine: (("waited", "waited too long"), ("full", "line full"), ("left", "left by key"),
               ("nobody", "nobody available"), ("after", "after the call")),
    Voicemail: (("message_left", "message left"), ("no_message", "no message")),
    Label: (("next", "then"),),
    Notify: (("next", "then"),),
    BackTo: (("to", "back to"),),
}  # fmt: skip


def exits(step: Step) -> tuple[Exit, ...]:
    """Every exit of a step, in the order in which the sheet lists them; a Hang up has none."""
    if isinstance(step, Menu):
        branches = tuple(
            Exit(branch.id, branch.name, branch.to, keys=branch.keys, hear_again=branch.hear_again)
            for branch in step.branches
        )
        return (*branches, Exit("nothing", "nothing pressed", step.nothing), Exit("wrong", "wrong key", step.wrong))
    if isinstance(step, Junction):
        sorted_out = tuple(Exit(branch.id, branch.name, branch.to) for branch in step.branches)
        return (*sorted_out, Exit("otherwise", step.otherwise_name or "otherwise", step.otherwise))
    if isinstance(step, ContinueIn):
        return tuple(Exit(back.id, back.name, back.to) for back in step.returns)
    return tuple(Exit(field, name, getattr(step, field)) for field, name in _FIXED.get(type(step), ()))


def destination_of(step: Step, exit_: Exit) -> Target:
    """Where an exit leads once `same` is read as the ring's no answer."""
    return getattr(step, "no_answer", None) if exit_.target == SAME else exit_.target


def successors(step: Step) -> Iterator[str]:
    """The ids of the steps that a step's exits lead to, in order, each once; ends and open exits are left out."""
    seen = set()
    for exit_ in exits(step):
        target = None if exit_.hear_again else destination_of(step, exit_)
        if target not in (None, END) and target not in seen:
            seen.add(target)
            yield str(target)


def with_target(step: Step, exit_id: str, target: Target) -> Step:
    """The same step with one exit led elsewhere. Raises KeyError when the step has no such exit."""
    if exit_id not in {exit_.id for exit_ in exits(step)}:
        raise KeyError(exit_id)
    for field in ("branches", "returns"):
        members = getattr(step, field, ())
        if any(member.id == exit_id for member in members):
            changed = tuple(m.model_copy(update={"to": target}) if m.id == exit_id else m for m in members)
            return step.model_copy(update={field: changed})
    return step.model_copy(update={exit_id: target})
