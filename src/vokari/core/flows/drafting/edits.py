"""Edits of a draft: small, typed, and kept as the rows they changed, so that undo and "what changed" come from the log."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from ...value import Value
from ..model.document import Exit, FlowDocument, Mark, exits, with_target
from ..model.steps import (
    KIND_NAMES,
    RUNNING,
    Announcement,
    BackTo,
    HangUp,
    HoldLine,
    Junction,
    Label,
    LookUp,
    Menu,
    Notify,
    Ring,
    Step,
    Voicemail,
)
from ..model.values import END, Language, StepId, Target
from ..shown.words import step_name

FLOW_ROW = ""
"""The row of the flow itself: its name, mark, language, start, rescue and limit."""

_STEP: TypeAdapter[Step] = TypeAdapter(Step)


class AddStep(Value):
    """Adds a step at an exit; what the exit led to follows the new step where that has one plain way on.

    `at_step` empty and `at_exit` "start" puts it first. `fill` gives fields of the new step.
    """

    do: Literal["add_step"] = "add_step"
    id: StepId
    kind: str
    at_step: str = ""
    at_exit: str = "start"
    fill: dict[str, Any] = {}


class SetStep(Value):
    """Replaces the fields of a step; its id and kind stay."""

    do: Literal["set_step"] = "set_step"
    step: Step


class RemoveStep(Value):
    """Removes a step; exits that led to it lead on to what plainly followed it, else nowhere."""

    do: Literal["remove_step"] = "remove_step"
    id: StepId


class Connect(Value):
    """Leads one exit elsewhere."""

    do: Literal["connect"] = "connect"
    step: str
    exit: str
    to: Target = None


class SetFlow(Value):
    """Changes the flow's own fields; those not given stay."""

    do: Literal["set_flow"] = "set_flow"
    name: Annotated[str, Field(min_length=1, max_length=60)] | None = None
    mark: Mark | None = None
    language: Language | None = None
    start: StepId | None = None
    rescue: StepId | None = None
    entry_limit: Annotated[int, Field(ge=2, le=50)] | None = None


Edit = Annotated[AddStep | SetStep | RemoveStep | Connect | SetFlow, Field(discriminator="do")]


@dataclass(frozen=True, slots=True)
class RowChange:
    """One row before and after, as JSON-ready fields; None where the row did not or does not exist.

    `index` is the place of the step among the steps, where it is added or was removed.
    """

    row: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None
    index: int = 0


@dataclass(frozen=True, slots=True)
class Applied:
    """An edit that was carried out: the new document, the rows it changed, and what it did in words."""

    document: FlowDocument
    changes: tuple[RowChange, ...]
    words: str


@dataclass(frozen=True, slots=True)
class Refused:
    """An edit that cannot be carried out, with the reason as a sentence and the field it is about."""

    sentence: str
    field: str = ""


def apply(document: FlowDocument, edit: Edit) -> Applied | Refused:
    """Carries out an edit. What a user can cause comes back as Refused; the document given stays as it was."""
    try:
        match edit:
            case AddStep():
                result = _add(document, edit)
            case SetStep():
                result = _set(document, edit)
            case RemoveStep():
                result = _remove(document, edit)
            case Connect():
                result = _connect(document, edit)
            case SetFlow():
                given = edit.model_dump(exclude_none=True, exclude={"do"})
                result = (document.model_copy(update=given), "changed the flow’s own settings")
        if isinstance(result, Refused):
            return result
        changed = FlowDocument.model_validate(result[0].model_dump())
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        return Refused(first["msg"].removeprefix("Value error, "), ".".join(str(part) for part in first["loc"]))
    return Applied(changed, differences(document, changed), result[1])


Result = tuple[FlowDocument, str] | Refused


def _add(document: FlowDocument, edit: AddStep) -> Result:
    if edit.kind not in RUNNING:
        return Refused(f"{KIND_NAMES.get(edit.kind, edit.kind)} is no kind of step that can be added.", "kind")
    if document.step(edit.id):
        return Refused(f"There is already a step {edit.id}.", "id")
    new: Step = _STEP.validate_python({**edit.fill, "kind": edit.kind, "id": edit.id})
    parent = document.step(edit.at_step)
    if edit.at_step and parent is None:
        return Refused("The step before it is no longer there.", "at_step")
    way = _exit(parent, edit.at_exit) if parent else None
    if parent and way is None:
        return Refused("The exit it should follow is no longer there.", "at_exit")
    led_to = way.target if way else document.start
    onward = _plain_way(new)
    if isinstance(new, Voicemail):
        new = new.model_copy(
            update={name: END for name in ("message_left", "no_message") if getattr(new, name) is None}
        )
    if onward and getattr(new, onward) is None and led_to not in (None, "same"):
        fallback = None if led_to == END and not isinstance(new, Announcement) else led_to
        new = with_target(new, onward, fallback)
    steps = list(document.steps)
    place = next((i for i, one in enumerate(steps) if parent and one.id == parent.id), -1)
    if parent:
        steps[place] = with_target(parent, edit.at_exit, new.id)
    steps.insert(place + 1, new)
    update: dict[str, Any] = {"steps": tuple(steps)}
    if not parent:
        update["start"] = new.id
    if document.rescue is None and isinstance(new, Voicemail):
        update["rescue"] = new.id
    return document.model_copy(update=update), f"added {KIND_NAMES[new.kind]} “{step_name(new)}”"


def _set(document: FlowDocument, edit: SetStep) -> Result:
    old = document.step(edit.step.id)
    if old is None:
        return Refused("This step was removed meanwhile.", "id")
    if old.kind != edit.step.kind:
        return Refused("The kind of a step cannot change: add another step instead.", "kind")
    steps = tuple(edit.step if one.id == old.id else one for one in document.steps)
    fields = [name for name in type(old).model_fields if getattr(old, name) != getattr(edit.step, name)]
    what = ", ".join(name.replace("_", " ") for name in fields) or "nothing"
    return document.model_copy(update={"steps": steps}), f"changed {what} of “{step_name(edit.step)}”"


def _remove(document: FlowDocument, edit: RemoveStep) -> Result:
    old = document.step(edit.id)
    if old is None:
        return Refused("This step was removed already.", "id")
    onward = _plain_way(old)
    follows: Target = getattr(old, onward) if onward else None
    if follows == old.id:
        follows = None
    steps = []
    for one in document.steps:
        if one.id == old.id:
            continue
        for exit_ in exits(one):
            if exit_.target == old.id:
                one = with_target(one, exit_.id, follows)
        steps.append(one)
    update: dict[str, Any] = {"steps": tuple(steps)}
    if document.start == old.id:
        update["start"] = follows if follows != END else None
    if document.rescue == old.id:
        update["rescue"] = None
    return document.model_copy(update=update), f"removed {KIND_NAMES[old.kind]} “{step_name(old)}”"


def _connect(document: FlowDocument, edit: Connect) -> Result:
    if edit.step == FLOW_ROW:
        return document.model_copy(update={"start": edit.to}), "chose the first step"
    old = document.step(edit.step)
    way = _exit(old, edit.exit) if old else None
    if old is None or way is None:
        return Refused("This exit is no longer there.", "exit")
    steps = tuple(with_target(one, edit.exit, edit.to) if one is old else one for one in document.steps)
    target = document.step(edit.to) if edit.to else None
    where = f"“{step_name(target)}”" if target else ("the end" if edit.to == END else "nowhere")
    name = f"key {way.keys}" if way.keys else way.name
    return document.model_copy(update={"steps": steps}), f"led {name} of “{step_name(old)}” to {where}"


def _exit(step: Step | None, exit_id: str) -> Exit | None:
    return next((one for one in exits(step) if one.id == exit_id), None) if step else None


def _plain_way(step: Step) -> str:
    """The exit by which a call plainly goes on when this step did not end it; empty when there is none."""
    match step:
        case Announcement() | Label() | Notify():
            return "next"
        case Ring():
            return "no_answer"
        case HoldLine():
            return "waited"
        case LookUp():
            return "not_found"
        case Menu():
            return "nothing"
        case Junction():
            return "otherwise"
        case BackTo() | HangUp():
            return ""
    return ""


# rows


def rows(document: FlowDocument) -> dict[str, dict[str, Any]]:
    """The document as rows: the flow's own fields, and each step."""
    own = document.model_dump(mode="json", exclude={"steps"})
    return {FLOW_ROW: own, **{step.id: step.model_dump(mode="json") for step in document.steps}}


def differences(before: FlowDocument, after: FlowDocument) -> tuple[RowChange, ...]:
    """The rows in which two documents differ."""
    old, new = rows(before), rows(after)
    old_places = {step.id: i for i, step in enumerate(before.steps)}
    new_places = {step.id: i for i, step in enumerate(after.steps)}
    names = [*old, *(name for name in new if name not in old)]
    return tuple(
        RowChange(name, old.get(name), new.get(name), new_places.get(name, old_places.get(name, 0)))
        for name in names
        if old.get(name) != new.get(name)
    )


def undo(document: FlowDocument, changes: tuple[RowChange, ...], called: Mapping[str, str]) -> Applied | Refused:
    """Takes changes back, if every row is still as they left it. `called` names rows for the sentence of a refusal."""
    steps = list(document.steps)
    own: dict[str, Any] = {}
    now = rows(document)
    for change in changes:
        if now.get(change.row) != change.after:
            name = called.get(change.row) or "the flow itself"
            return Refused(f"“{name}” was changed since by someone else, so this cannot be taken back.", change.row)
        if change.row == FLOW_ROW:
            own = dict(change.before or {})
    kept = {change.row: change for change in changes if change.row != FLOW_ROW}
    steps = [one for one in steps if one.id not in kept or kept[one.id].before is not None]
    steps = [_STEP.validate_python(kept[one.id].before) if one.id in kept else one for one in steps]
    for change in sorted(kept.values(), key=lambda one: one.index):
        if change.after is None and change.before is not None:
            steps.insert(min(change.index, len(steps)), _STEP.validate_python(change.before))
    raw = {**document.model_dump(), **own, "steps": [one.model_dump() for one in steps]}
    restored = FlowDocument.model_validate(raw)
    return Applied(restored, differences(document, restored), "")
