"""What is different between two documents of one flow, as sentences about the edits, each with the row that it is about."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..model.document import FlowDocument
from ..model.exits import Exit
from ..model.steps import AnyStep
from ..model.values import END, SAME, Target
from .words import summary

What = Literal["flow", "added", "removed", "changed"]
_ON_THE_SURFACE = {"kind", "id", "name", "note", "to_do", "branches", "returns", "otherwise_name", "flow_name"}
"""Fields that have sentences of their own, or say nothing to callers by themselves."""
_FIELDS = {
    "name": "name", "mark": "mark", "language": "language", "entry_limit": "limit of entries", "start": "first step", "rescue": "rescue",
    "everyone_else": "step for everyone else",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Difference:
    """One difference: a step that was added, removed or changed (of the newer document, or of the older where it was removed), or the
    flow itself, in a sentence."""

    what: What
    step: str
    sentence: str


def differences(old: FlowDocument, new: FlowDocument, mailboxes: Mapping[str, str] | None = None) -> list[Difference]:
    """All differences in the order of the newer document, what was removed at the end. Documents are given as they are shown."""
    found = [Difference("flow", "", sentence) for sentence in _of_flow(old, new)]
    for step in new.steps:
        before = old.by_id.get(step.id)
        if before is None:
            found.append(Difference("added", step.id, f"Added {step.quoted}: {summary(step, new, mailboxes)}."))
        elif before != step:
            found += [Difference("changed", step.id, one) for one in _of_step(old, before, new, step, mailboxes)]
    for step in old.steps:
        if step.id not in new.by_id:
            found.append(Difference("removed", step.id, f"Removed {step.quoted}: {summary(step, old, mailboxes)}."))
    return found


def _of_flow(old: FlowDocument, new: FlowDocument) -> Iterator[str]:
    if old.voice != new.voice:
        yield f"The voice is {_voice(new)}, before {_voice(old)}."
    for field, called in _FIELDS.items():
        before, after = getattr(old, field), getattr(new, field)
        if before != after:
            said, was = (_named(document, value) for document, value in ((new, after), (old, before)))
            yield f"The {called} is {said}, before {was}."
    kept, keeps = ({one.id: one for one in document.rehearsals} for document in (old, new))
    for id_, one in keeps.items():
        if id_ not in kept:
            yield f"The rehearsal “{one.name}” is kept."
        elif kept[id_] != one:
            yield f"The rehearsal “{one.name}” is changed."
    for id_, one in kept.items():
        if id_ not in keeps:
            yield f"The rehearsal “{one.name}” is kept no more."


def _voice(document: FlowDocument) -> str:
    voice = document.voice
    pause = f", {voice.pause:g} s between sentences" if voice.pause else ""
    return f"{voice.name or 'the usual one'} at {voice.rate} words a minute{pause}"


def _named(document: FlowDocument, value: object) -> str:
    step = document.by_id.get(str(value))
    return step.quoted if step is not None else str(value) if value is not None else "nothing"


def _of_step(
    old: FlowDocument, before: AnyStep, new: FlowDocument, after: AnyStep, mailboxes: Mapping[str, str] | None
) -> Iterator[str]:
    if type(before) is not type(after):
        yield f"{after.begins} is a {after.title} now, before a {before.title}."
        return
    if before.called != after.called:
        yield f"{before.begins} is called {after.quoted} now."
    said, was = summary(after, new, mailboxes), summary(before, old, mailboxes)
    prompts = list(_prompts(before, after))
    yield from prompts
    if said != was and not (prompts and said.startswith("says")):
        yield f"{after.begins} {said}; before: {was}."
    exits = list(_exits(old, before, new, after))
    yield from exits
    for field, called in (("note", "note"), ("to_do", "mark “to do”")):
        if getattr(before, field) != getattr(after, field):
            yield f"The {called} of {after.quoted} is changed."
    settings = [one for one in _settings(before, after) if said == was or one not in ("tries", "wait")]
    if settings and said == was:
        yield f"{after.begins}: {', '.join(one.replace('_', ' ') for one in settings)} changed."


def _prompts(before: AnyStep, after: AnyStep) -> Iterator[str]:
    """Words that callers hear, which are others now."""
    older = {one.field: one.prompt for one in before.plays()}
    newer = {one.field: one.prompt for one in after.plays()}
    for field, prompt in newer.items():
        was = older.get(field)
        if was is None:
            yield f"{after.begins} says “{prompt.say}” {_where(field)} now."
        elif was.prompt != prompt.prompt and was.say == prompt.say:
            how = "words of its own" if prompt.prompt is None else "a prompt of the library"
            yield f"{after.begins} says the same{_where(field)} as {how}."
        elif was.say != prompt.say:
            yield f"{after.begins} says “{prompt.say}”{_where(field)}; before: “{was.say or 'nothing'}”."
        elif was != prompt:
            yield f"{after.begins} says the same words{_where(field)} in another language or voice."
    for field in older:
        if field not in newer:
            yield f"{after.begins} has no words of its own{_where(field)} any more."


def _where(field: str) -> str:
    return {
        "retry_silent": " when nothing was pressed",
        "retry_wrong": " when it was wrong",
        "hold_sound": " while it rings",
        "music": " between announcements",
        "tells": " to callers who wait",
    }.get(field, "")


def _exits(old: FlowDocument, before: AnyStep, new: FlowDocument, after: AnyStep) -> Iterator[str]:
    older, newer = ({way.id: way for way in step.exits} for step in (before, after))
    for way in newer.values():
        was = older.get(way.id)
        if was is None:
            yield f"{_exit(after, way)} is new and leads {_target(new, way)}."
            continue
        if (was.keys, was.name) != (way.keys, way.name):
            yield f"{_exit(before, was)} is {_own(way)} now."
        if (was.target, was.hear_again) != (way.target, way.hear_again):
            yield f"{_exit(after, way)} leads {_target(new, way)}, before {_target(old, was)}."
        elif _branch(before, way.id) != _branch(after, way.id) and (was.keys, was.name) == (way.keys, way.name):
            yield f"{_exit(after, way)} has other settings."
    for way in older.values():
        if way.id not in newer:
            yield f"{_exit(before, way)} is gone; it led {_target(old, way)}."


def _branch(step: AnyStep, exit_id: str) -> Any:
    """A branch without where it leads."""
    branches = (*getattr(step, "branches", ()), *getattr(step, "returns", ()))
    found = next((one for one in branches if one.id == exit_id), None)
    return found.model_copy(update={"to": None}) if found is not None else None


def _exit(step: AnyStep, way: Exit) -> str:
    return f"{_own(way)[0].upper()}{_own(way)[1:]} of {step.quoted}"


def _own(way: Exit) -> str:
    if way.keys:
        return f"key {way.keys}" + (f" ({way.name})" if way.name else "")
    return f"the exit “{way.name}”" if way.name else "an exit without a name"


def _target(document: FlowDocument, way: Exit) -> str:
    target: Target = way.target
    if way.hear_again:
        return "back to hear it again"
    if target == END:
        return "to the end of the call"
    if target == SAME:
        return "where no answer leads"
    return f"to {document.by_id[target].quoted}" if target in document.by_id else "nowhere"


def _settings(before: AnyStep, after: AnyStep) -> Iterator[str]:
    """Fields of a step that are others now and are neither words nor exits."""
    told = (
        _ON_THE_SURFACE
        | {field for field, _ in after.ways}
        | {one.field for one in (*before.plays(), *after.plays())}
        | {"extension"}
    )
    for field in type(after).model_fields:
        if field not in told and getattr(before, field) != getattr(after, field):
            yield field
