"""Edits of a draft: small, typed, and kept as the rows they changed, so that undo and "what changed" come from the log."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal, assert_never

from pydantic import Field, TypeAdapter, ValidationError

from ...prompts.voices import Voice
from ...value import Value
from ..model.document import MOST_REHEARSALS, MOST_STEPS, FlowDocument, Mark, UnreadLine
from ..model.kept import KeptRehearsal
from ..model.steps import KINDS, AnyStep, Junction, Menu, Step, Voicemail
from ..model.values import END, SAME, Language, StepId, Target
from ..model.walks import reached
from ..wording.written import in_step
from .following import followed

FLOW_ROW = ""
"""The row of the flow itself: its name, mark, language, start, rescue and limit."""

_STEP: TypeAdapter[AnyStep] = TypeAdapter(Step)


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
    """Removes a step; exits that led to it lead on to what plainly followed it, else nowhere. `along` takes those steps with
    it that nothing else leads to, and the key or condition that led only there."""

    do: Literal["remove_step"] = "remove_step"
    id: StepId
    along: bool = False


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
    everyone_else: StepId | None = None
    entry_limit: Annotated[int, Field(ge=2, le=50)] | None = None
    voice: Voice | None = None


class KeepRehearsal(Value):
    """Keeps a call with the flow: in the place of the one with its id as it was seen (`was`), or as a new one, which gets another id where its own is
    taken."""

    do: Literal["keep_rehearsal"] = "keep_rehearsal"
    rehearsal: KeptRehearsal
    was: KeptRehearsal | None = None


class DropRehearsal(Value):
    """Keeps a call no longer."""

    do: Literal["drop_rehearsal"] = "drop_rehearsal"
    id: StepId


class Rewrite(Value):
    """The steps of the whole flow as its text has them, with the step that starts, the rescue, and lines that were not
    understood; `words` say what was done."""

    do: Literal["rewrite"] = "rewrite"
    start: str | None = None
    rescue: str | None = None
    everyone_else: str | None = None
    steps: tuple[Step, ...] = ()
    unread: tuple[UnreadLine, ...] = ()
    words: str = ""


Edit = Annotated[
    AddStep | SetStep | RemoveStep | Connect | SetFlow | KeepRehearsal | DropRehearsal | Rewrite,
    Field(discriminator="do"),
]


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
    """Edits that were carried out: the new document, the rows they changed, and what they did in words."""

    document: FlowDocument
    changes: tuple[RowChange, ...]
    words: str


@dataclass(frozen=True, slots=True)
class Refused:
    """An edit that cannot be carried out, with the reason as a sentence and the field it is about."""

    sentence: str
    field: str = ""


def apply(document: FlowDocument, *wanted: Edit) -> Applied | Refused:
    """Carries out edits, one after the other, as one change that is checked once. What a user can cause comes back as Refused; the
    document given stays as it was."""
    changed, words = document, []
    try:
        for edit in wanted:
            result = _carry_out(changed, edit)
            if isinstance(result, Refused):
                return result
            changed, said = result
            words.append(said)
        changed.check()
        changed = in_step(document, followed(document, changed))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        return Refused(first["msg"].removeprefix("Value error, "), ".".join(str(part) for part in first["loc"]))
    except ValueError as error:
        return Refused(str(error))
    return Applied(changed, differences(document, changed), "; ".join(words))


Result = tuple[FlowDocument, str] | Refused


def _carry_out(document: FlowDocument, edit: Edit) -> Result:
    """One edit; what it makes of single steps is validated, whether the steps hang together is not."""
    match edit:
        case AddStep():
            return _add(document, edit)
        case SetStep():
            return _set(document, edit)
        case RemoveStep():
            return _remove(document, edit)
        case Connect():
            return _connect(document, edit)
        case SetFlow():
            given = {name: getattr(edit, name) for name in edit.model_dump(exclude_none=True, exclude={"do"})}
            if edit.everyone_else and document.rescue is None:
                given.setdefault("rescue", edit.everyone_else)
            return document.model_copy(update=given), "changed the flow’s own settings"
        case KeepRehearsal():
            return _keep(document, edit.rehearsal, edit.was)
        case DropRehearsal():
            return _drop(document, edit.id)
        case Rewrite():
            return _rewrite(document, edit)
    assert_never(edit)


def _keep(document: FlowDocument, new: KeptRehearsal, was: KeptRehearsal | None) -> Result:
    kept = document.rehearsals
    old = next((one for one in kept if one.id == new.id), None)
    if was is not None and old != was:
        return Refused("This rehearsal was changed or removed meanwhile. Look at it again; yours is not kept.", "id")
    if was is None and old is not None:
        taken = {one.id for one in kept}
        new = new.model_copy(update={"id": next(id_ for n in range(1, len(kept) + 2) if (id_ := f"r{n}") not in taken)})
        old = None
    if old is not None:
        changed = tuple(new if one.id == new.id else one for one in kept)
        return document.model_copy(update={"rehearsals": changed}), f"changed the rehearsal “{new.name}”"
    if len(kept) >= MOST_REHEARSALS:
        return Refused(f"A flow keeps at most {MOST_REHEARSALS} rehearsals.")
    return document.model_copy(update={"rehearsals": (*kept, new)}), f"kept the rehearsal “{new.name}”"


def _drop(document: FlowDocument, id_: str) -> Result:
    old = next((one for one in document.rehearsals if one.id == id_), None)
    if old is None:
        return Refused("This rehearsal was removed already.", "id")
    left = tuple(one for one in document.rehearsals if one is not old)
    return document.model_copy(update={"rehearsals": left}), f"removed the rehearsal “{old.name}”"


def _rewrite(document: FlowDocument, edit: Rewrite) -> Result:
    """Steps that were there keep their places among the steps, so that taking it back leaves no trace."""
    if len(edit.steps) > MOST_STEPS:
        return Refused(f"A flow takes at most {MOST_STEPS} steps.")
    given = {step.id: step for step in edit.steps}
    kept = [given[one.id] for one in document.steps if one.id in given]
    places = {step.id: n for n, step in enumerate(kept)}
    order: list[tuple[int, int, AnyStep]] = []
    after = -1
    for n, step in enumerate(edit.steps):
        after = places.get(step.id, after)
        order.append((after, -1 if step.id in places else n, step))
    steps = tuple(step for _, _, step in sorted(order, key=lambda one: one[:2]))
    whole = {
        "start": edit.start,
        "rescue": edit.rescue,
        "everyone_else": edit.everyone_else,
        "unread": edit.unread,
        "steps": steps,
    }
    return document.model_copy(update=whole), edit.words


def _add(document: FlowDocument, edit: AddStep) -> Result:
    kind = KINDS.get(edit.kind)
    if kind is None:
        return Refused(f"{edit.kind} is no kind of step that can be added.", "kind")
    if document.step(edit.id):
        return Refused(f"There is already a step {edit.id}.", "id")
    parent = document.step(edit.at_step)
    if edit.at_step and parent is None:
        return Refused("The step before it is no longer there.", "at_step")
    way = parent.exit(edit.at_exit) if parent else None
    if parent and way is None:
        return Refused("The exit it should follow is no longer there.", "at_exit")
    if len(document.steps) >= MOST_STEPS:
        return Refused(f"A flow takes at most {MOST_STEPS} steps.")
    new = _new_step(edit, way.target if way else document.start)
    steps = list(document.steps)
    place = steps.index(parent) if parent else -1
    if parent:
        steps[place] = parent.with_target(edit.at_exit, new.id)
    steps.insert(place + 1, new)
    update: dict[str, Any] = {"steps": tuple(steps)}
    if not parent:
        update["start"] = new.id
    if document.rescue is None and isinstance(new, Voicemail):
        update["rescue"] = new.id
    return document.model_copy(update=update), f"added {new.title} “{new.called}”"


def _new_step(edit: AddStep, led_to: Target) -> AnyStep:
    """The new step, whose plain way on leads where the exit led; a voicemail ends the call unless told otherwise. An end that
    somebody chose stays behind a step with one way on; where callers may be left waiting for something, it is asked for anew."""
    new = _STEP.validate_python({**edit.fill, "kind": edit.kind, "id": edit.id})
    if isinstance(new, Voicemail):
        return new.model_copy(update={name: END for name, _ in new.ways if getattr(new, name) is None})
    if not new.onward or getattr(new, new.onward) is not None or led_to in (None, SAME):
        return new
    return new.with_target(new.onward, None if led_to == END and not new.linear else led_to)


def _set(document: FlowDocument, edit: SetStep) -> Result:
    old = document.step(edit.step.id)
    if old is None:
        return Refused("This step was removed meanwhile.", "id")
    if old.kind != edit.step.kind:
        return Refused("The kind of a step cannot change: add another step instead.", "kind")
    new = _STEP.validate_python(edit.step.model_dump())
    fields = [name for name in type(old).model_fields if getattr(old, name) != getattr(new, name)]
    what = ", ".join(name.replace("_", " ") for name in fields) or "nothing"
    steps = tuple(new if one is old else one for one in document.steps)
    return document.with_steps(steps), f"changed {what} of “{new.called}”"


def hanging(document: FlowDocument, step_id: str) -> list[str]:
    """The steps that nothing would lead to any more if this one were removed, in their order."""
    result = _remove(document, RemoveStep(id=step_id))
    if isinstance(result, Refused):
        return []
    lost = reached(document) - reached(result[0]) - {step_id}
    return [one.id for one in document.steps if one.id in lost]


def _remove(document: FlowDocument, edit: RemoveStep) -> Result:
    if edit.along:
        return _remove_along(document, edit.id)
    old = document.step(edit.id)
    if old is None:
        return Refused("This step was removed already.", "id")
    follows: Target = getattr(old, old.onward) if old.onward else None
    if follows == old.id:
        follows = None
    steps = []
    for one in document.steps:
        if one is old:
            continue
        for way in one.exits:
            if way.target == old.id:
                one = one.with_target(way.id, follows)
        steps.append(one)
    update: dict[str, Any] = {"steps": tuple(steps)}
    if document.start == old.id:
        update["start"] = follows if follows != END else None
    update |= {name: None for name in ("rescue", "everyone_else") if getattr(document, name) == old.id}
    return document.model_copy(update=update), f"removed {old.title} “{old.called}”"


def branch_to(document: FlowDocument, step_id: str) -> tuple[AnyStep, str] | None:
    """The only branch of a menu or a junction that leads to a step, by its step and id; None where another exit does, or several."""
    led = [(one, way.id) for one in document.steps for way in one.exits if way.target == step_id]
    branches = [
        pair for pair in led if isinstance(pair[0], Menu | Junction) and pair[1] in {b.id for b in pair[0].branches}
    ]
    return branches[0] if len(led) == len(branches) == 1 else None


def _remove_along(document: FlowDocument, step_id: str) -> Result:
    below, branch = hanging(document, step_id), branch_to(document, step_id)
    result = _remove(document, RemoveStep(id=step_id))
    if isinstance(result, Refused):
        return result
    changed, words = result
    if branch is not None:
        changed = changed.with_steps(
            tuple(_without(one, branch[1]) if one.id == branch[0].id else one for one in changed.steps)
        )
    for one in below:
        further = _remove(changed, RemoveStep(id=one))
        changed = changed if isinstance(further, Refused) else further[0]
    return changed, words + (f" and {len(below)} below it" if below else "")


def _without(step: AnyStep, branch: str) -> AnyStep:
    left = [one for one in getattr(step, "branches", ()) if one.id != branch]
    return step.model_copy(update={"branches": tuple(left)})


def _connect(document: FlowDocument, edit: Connect) -> Result:
    if edit.step == FLOW_ROW:
        return document.model_copy(update={"start": edit.to}), "chose the first step"
    old = document.step(edit.step)
    way = old.exit(edit.exit) if old else None
    if old is None or way is None:
        return Refused("This exit is no longer there.", "exit")
    steps = tuple(one.with_target(edit.exit, edit.to) if one is old else one for one in document.steps)
    target = document.step(edit.to) if edit.to else None
    where = f"“{target.called}”" if target else ("the end" if edit.to == END else "nowhere")
    name = f"key {way.keys}" if way.keys else way.name
    return document.with_steps(steps), f"led {name} of “{old.called}” to {where}"


# rows


def flow_row(document: FlowDocument) -> dict[str, Any]:
    """The flow's own fields, as a row."""
    return document.model_dump(mode="json", exclude={"steps"})


def differences(before: FlowDocument, after: FlowDocument) -> tuple[RowChange, ...]:
    """The rows in which two documents differ: the flow's own first, then its steps in their order, those that are gone among
    them."""
    found: list[RowChange] = []
    own = flow_row(before), flow_row(after)
    if own[0] != own[1]:
        found.append(RowChange(FLOW_ROW, *own))
    old, new = before.by_id, after.by_id
    places = {step.id: i for i, step in enumerate(before.steps)} | {step.id: i for i, step in enumerate(after.steps)}
    for name in (*old, *(one for one in new if one not in old)):
        was, now = old.get(name), new.get(name)
        if was is not now and was != now:
            found.append(RowChange(name, _dumped(was), _dumped(now), places[name]))
    return tuple(found)


def _dumped(step: AnyStep | None) -> dict[str, Any] | None:
    return step.model_dump(mode="json") if step is not None else None


def _as_now(change: RowChange) -> dict[str, Any] | None:
    """What a change left, with the fields that came to the format since."""
    if change.after is None or change.row != FLOW_ROW:
        return change.after and _dumped(_STEP.validate_python(change.after))
    return flow_row(_own(change.after))


def _own(row: dict[str, Any]) -> FlowDocument:
    """The flow’s own row as a document without steps, whose ids of steps are not looked up."""
    named = {name: row.get(name) for name in ("start", "rescue", "everyone_else")}
    return FlowDocument.model_validate({**row, **dict.fromkeys(named)}).model_copy(update=named)


def undo(document: FlowDocument, changes: Sequence[RowChange], called: Mapping[str, str]) -> Applied | Refused:
    """Takes changes back, if every row is still as they left it. `called` names rows for the sentence of a refusal."""
    own: dict[str, Any] = {}
    for change in changes:
        now = flow_row(document) if change.row == FLOW_ROW else _dumped(document.step(change.row))
        if now != _as_now(change):
            name = called.get(change.row) or "the flow itself"
            return Refused(f"“{name}” was changed since by someone else, so this cannot be taken back.", change.row)
        if change.row == FLOW_ROW:
            own = dict(_own(change.before or {}))
            own.pop("steps")
    kept = {change.row: change for change in changes if change.row != FLOW_ROW}
    steps = [one for one in document.steps if one.id not in kept or kept[one.id].before is not None]
    steps = [_STEP.validate_python(kept[one.id].before) if one.id in kept else one for one in steps]
    for change in sorted(kept.values(), key=lambda one: one.index):
        if change.after is None and change.before is not None:
            steps.insert(min(change.index, len(steps)), _STEP.validate_python(change.before))
    restored = document.model_copy(update={**own, "steps": tuple(steps)})
    try:
        restored.check()
    except ValueError as error:
        return Refused(f"This cannot be taken back, because of what was changed since: {error}.")
    return Applied(restored, differences(document, restored), "")
