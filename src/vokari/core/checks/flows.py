"""All that is wrong with a flow: its structure here, what its steps say of themselves, and what the other checks find."""

from collections.abc import Collection, Iterator

from ..flows.model.document import FlowDocument
from ..flows.model.exits import Exit
from ..flows.model.spoken import with_words
from ..flows.model.steps import Announcement, AnyStep, BackTo, ComeBack, HoldLine, Menu, Notify, Ring, Voicemail
from ..flows.model.values import END
from ..flows.model.walks import reached, reached_from, rounds, silently
from ..flows.shown.outline import numbers
from ..people.destinations import rung_by
from . import hours, menus, notices, practice, prompts, rings, sorting, spoken, within
from .finding import Finding, Surroundings, at_step, sentence, worst_first


def findings(document: FlowDocument, around: Surroundings) -> list[Finding]:
    """All findings in the order of the outline; the ones that belong to no step come first."""
    document = with_words(document, {key: one.words(document.language) for key, one in around.prompts.items()})
    places = numbers(document)
    found = [*_of_whole(document), *_rounds(document), *_unreached(document)]
    found += hours.findings(document, around.hours, around.now)
    found += _unread(document)
    found += menus.findings(document)
    found += sorting.findings(document, around)
    found += within.findings(document, around)
    found += within.pointed_at(document, around)
    found += rings.findings(document, around.people, around.teams, around.tracking_numbers, around.now)
    found += practice.findings(document)
    found += _recorded_unheard(document, around.consent)
    found += spoken.findings(document, around.people, around.teams)
    found += prompts.findings(document, around)
    quiet = _quiet(document)
    for step in document.steps:
        found += _open_exits(step, quiet, document.everyone_else)
        found += (at_step(slip, step.id) for slip in step.slips(around))
        found += _around_it(step, around)
    return worst_first(sorted(found, key=lambda one: places.get(one.step, 0)))


def _of_whole(document: FlowDocument) -> Iterator[Finding]:
    if not document.steps:
        yield Finding("empty", "The flow has no steps yet: a caller would hear nothing.")
        return
    if document.start is None:
        yield Finding("no_start", "No step is the first: a caller would hear nothing.")
    rescue = document.step(document.rescue or "")
    if rescue is None and any(isinstance(step, ComeBack) for step in document.steps):
        return
    if rescue is None:
        yield Finding(
            "no_rescue", "The flow names no rescue: a caller who goes round too often would be cut off. Choose one."
        )
        return
    if not isinstance(rescue, Voicemail | Ring):
        words = f"The rescue is {rescue.quoted}, which takes nobody’s call: choose a Voicemail or a Ring."
        yield Finding("weak_rescue", words, rescue.id)
    if rescue.id in reached_from(document.by_id, rescue.successors):
        words = f"The rescue {rescue.quoted} lies on a way round, so it could not end one."
        yield Finding("rescue_in_round", words, rescue.id)


def _unread(document: FlowDocument) -> Iterator[Finding]:
    """Typed lines that were not understood: nothing of them is lost, and nothing goes live while one stands."""
    for one in document.unread:
        words = f"“{one.text[:60]}” is not understood: {one.sentence}"
        yield Finding("unread", words, one.after if one.after in document.by_id else "")


def _rounds(document: FlowDocument) -> Iterator[Finding]:
    for part in rounds(document, silently):
        steps = [document.by_id[step_id] for step_id in part]
        names = ", ".join(step.quoted for step in steps)
        words = f"A caller who presses nothing goes round for ever through {names}: let silence lead to someone."
        yield Finding("silent_round", words, steps[0].id)


def _unreached(document: FlowDocument) -> Iterator[Finding]:
    seen = reached(document)
    for step in document.steps:
        if step.id not in seen:
            words = f"{step.begins} is reached from nowhere: lead an exit to it, or remove it."
            yield Finding("unreached", words, step.id)


def _recorded_unheard(document: FlowDocument, consent: tuple[str, ...]) -> Iterator[Finding]:
    """Steps that record a talk and can be reached without a notice having been heard to its end. Nothing is recorded then;
    the finding says so before anybody relies on it. A rescue counts as reached wherever a caller can go round."""
    recording = [
        step for step in document.steps if isinstance(step, Ring | HoldLine) and step.recording.purpose != "none"
    ]
    if not recording:
        return
    unheard = reached_from(document.by_id, [document.start] if document.start else [], _onward_unheard)
    if document.rescue and any(isinstance(document.step(one), Menu | BackTo) for one in unheard):
        unheard |= reached_from(document.by_id, [document.rescue], _onward_unheard)
    for step in recording:
        if step.id in unheard:
            first = document.step(document.start or "")
            where = f", best before {first.quoted}" if first is not None and first is not step else ""
            law = f" Everybody on the line must agree to it in {' and '.join(consent)}." if consent else ""
            words = (
                f"{step.begins} records calls of callers who have heard no notice of it: put an announcement marked as"
            )
            yield Finding("unheard_recording", f"{words} a notice on every way there{where}.{law}", step.id)


def _onward_unheard(step: AnyStep) -> Collection[str]:
    return () if isinstance(step, Announcement) and step.notice else step.successors


def _quiet(document: FlowDocument) -> set[str]:
    """The steps that a caller does not hear and comes to without having heard, said or talked over anything just before."""
    steps = document.by_id
    found: set[str] = set()
    waiting = [document.start or ""]
    for step in document.steps:
        if step.heard:
            waiting += [str(way.leads_to) for way in step.exits if not step.may_end(way)]
    while waiting:
        one = waiting.pop()
        if one not in found and one in steps and not steps[one].heard:
            found.add(one)
            waiting += steps[one].successors
    return found


def _open_exits(step: AnyStep, quiet: set[str], everyone: str | None) -> Iterator[Finding]:
    mends = (lambda way: (f"everyone:{way}",)) if everyone not in (None, step.id) else (lambda _: ())
    for way in step.exits:
        if _is_shut(step, way):
            continue
        if way.is_open:
            words = sentence(f"{step.said_of(way)} leads nowhere: choose where the caller goes.")
            yield Finding("open_exit", words, step.id, way.id, mends=mends(way.id))
        elif way.target == END and not step.may_end(way) and (step.heard or step.id in quiet):
            words = sentence(f"{step.said_of(way)} ends the call without a word: say something first.")
            yield Finding("silent_end", words, step.id, way.id)


def _is_shut(step: AnyStep, way: Exit) -> bool:
    """Whether nobody can take an exit as the step is set: a line that no key leaves."""
    return isinstance(step, HoldLine) and way.id == "left" and not step.leave_key


def _around_it(step: AnyStep, around: Surroundings) -> Iterator[Finding]:
    """What is wrong with a step because of what the client has."""
    if isinstance(step, Notify):
        for slip in notices.slips(step, around.people, around.tracking_numbers):
            yield Finding("tells_nobody", f"{step.begins} {slip}", step.id)
    if isinstance(step, Ring | HoldLine) and around.verified is not None:
        yield from _never_verified(step, around, around.verified)


def _never_verified(step: Ring | HoldLine, around: Surroundings, verified: Collection[str]) -> Iterator[Finding]:
    names = sorted({name for to, name in rung_by(step, around.people, around.teams).items() if to not in verified})
    if names:
        some = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        words = f"{step.begins} rings phones that were never verified: {some}. A call to each settles it, under People."
        yield Finding("never_verified", words, step.id, weight="asks")
