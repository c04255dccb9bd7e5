"""What is wrong with the structure of a flow, each as a sentence with its row. Findings that stop keep it from going live."""

import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from ..flows.model.document import Exit, FlowDocument, destination_of, exits, successors
from ..flows.model.steps import (
    KIND_NAMES,
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
    prompts_of,
)
from ..flows.model.values import END, NumberDestination
from ..flows.model.walks import reached, reached_from, rounds, silent_successors
from ..flows.shown.outline import numbers
from ..hours.timetable import Timetable
from ..numbers import numbering
from ..people.destinations import rung_by
from ..people.directory import Person, Team
from . import hours as hours_findings
from . import notices
from . import rings as ring_findings
from .mends import SURE


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that is wrong: what kind, whether it stops Put live, a sentence, the step and exit it is at, and the names
    of the mends that can be applied at once (see `mends`)."""

    kind: str
    sentence: str
    step: str = ""
    exit: str = ""
    weight: Literal["stops", "asks"] = "stops"
    mends: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What the flow's client has: mailboxes (key to whether somebody is told), lead sources, tracking numbers, sets of
    hours, people and teams by key; the moment from which the coming week is looked at (None: it is not), and the phones that
    were verified by a call (None: it does not matter)."""

    mailboxes: dict[str, bool]
    sources: Collection[str]
    tracking_numbers: Collection[str] = ()
    hours: dict[str, Timetable] = field(default_factory=dict)
    now: datetime | None = None
    people: dict[str, Person] = field(default_factory=dict)
    teams: dict[str, Team] = field(default_factory=dict)
    verified: Collection[str] | None = None


def findings(document: FlowDocument, around: Surroundings) -> list[Finding]:
    """All findings in the order of the outline; the ones that belong to no step come first."""
    places = numbers(document)
    found = [*_of_whole(document), *_rounds(document), *_unreached(document)]
    called = ring_findings.findings(document, around.people, around.teams, around.tracking_numbers)
    for one in (*hours_findings.findings(document, around.hours, around.now), *called):
        found.append(Finding(one.kind, _cap(one.sentence), one.step, one.exit, one.weight))
    found += _recorded_unheard(document)
    quiet = _quiet(document)
    for step in document.steps:
        found += _open_exits(step, quiet)
        found += _words(step)
        found += _of_kind(step, around)
    return sorted(found, key=lambda one: (places.get(one.step, 0), one.weight == "asks"))


def _called(step: Step) -> str:
    return f"“{step.name}”" if step.name else f"the {KIND_NAMES[step.kind]} without a name"


def _cap(sentence: str) -> str:
    return sentence[0].upper() + sentence[1:]


def _of_whole(document: FlowDocument) -> Iterator[Finding]:
    if not document.steps:
        yield Finding("empty", "The flow has no steps yet: a caller would hear nothing.")
        return
    if document.start is None:
        yield Finding("no_start", "No step is the first: a caller would hear nothing.")
    rescue = next((step for step in document.steps if step.id == document.rescue), None)
    if rescue is None:
        yield Finding(
            "no_rescue", "The flow names no rescue: a caller who goes round too often would be cut off. Choose one."
        )
    elif not isinstance(rescue, Voicemail | Ring):
        sentence = f"The rescue is {_called(rescue)}, which takes nobody’s call: choose a Voicemail or a Ring."
        yield Finding("weak_rescue", sentence, rescue.id)
    if rescue and any(rescue.id in part for part in rounds(document)):
        sentence = f"The rescue {_called(rescue)} lies on a way round, so it could not end one."
        yield Finding("rescue_in_round", sentence, rescue.id)


def _rounds(document: FlowDocument) -> Iterator[Finding]:
    for part in rounds(document, silent_successors):
        first = next(step for step in document.steps if step.id in part)
        names = ", ".join(_called(step) for step in document.steps if step.id in part)
        sentence = f"A caller who presses nothing goes round for ever through {names}: let silence lead to someone."
        yield Finding("silent_round", sentence, first.id)


def _unreached(document: FlowDocument) -> Iterator[Finding]:
    seen = reached(document)
    for step in document.steps:
        if step.id not in seen:
            yield Finding(
                "unreached",
                _cap(f"{_called(step)} is reached from nowhere: lead an exit to it, or remove it."),
                step.id,
            )


def _recorded_unheard(document: FlowDocument) -> Iterator[Finding]:
    """Steps that record a talk and can be reached without a notice having been heard to its end. Nothing is recorded then;
    the finding says so before anybody relies on it. A rescue counts as reached wherever a caller can go round."""
    unheard = reached_from(document, [document.start] if document.start else [], _onward_unheard)
    steps = {step.id: step for step in document.steps}
    if document.rescue and any(isinstance(steps[one], Menu | BackTo) for one in unheard):
        unheard |= reached_from(document, [document.rescue], _onward_unheard)
    for step in document.steps:
        if step.id in unheard and isinstance(step, Ring | HoldLine) and step.recording.mode != "off":
            sentence = f"{_called(step)} records calls of callers who have heard no notice of it: put an announcement marked as"
            yield Finding("unheard_recording", _cap(f"{sentence} a notice on every way there."), step.id)


def _onward_unheard(step: Step) -> Iterator[str]:
    if not (isinstance(step, Announcement) and step.notice):
        yield from successors(step)


URL = re.compile(r"https?://[^\s/?#@]+(?:[/?#]\S*)?")
QUIET = (Label, Notify, LookUp, Junction)
"""Kinds that a caller does not hear."""


def _quiet(document: FlowDocument) -> set[str]:
    """The steps of those kinds to which a caller can come without having heard, said or talked over anything just before."""
    steps = {step.id: step for step in document.steps}
    found: set[str] = set()
    waiting = [document.start or ""]
    for step in document.steps:
        if not isinstance(step, QUIET):
            waiting += [str(destination_of(step, way)) for way in exits(step) if not _may_end(step, way)]
    while waiting:
        one = waiting.pop()
        if one not in found and isinstance(steps.get(one), QUIET):
            found.add(one)
            waiting += successors(steps[one])
    return found


def _open_exits(step: Step, quiet: set[str]) -> Iterator[Finding]:
    for exit_ in exits(step):
        if exit_.hear_again or (exit_.id == "left" and isinstance(step, HoldLine) and not step.leave_key):
            continue
        if destination_of(step, exit_) is None and exit_.target is None:
            yield Finding(
                "open_exit",
                _cap(f"{_exit_words(step, exit_)} leads nowhere: choose where the caller goes."),
                step.id,
                exit_.id,
            )
        elif exit_.target == END and not _may_end(step, exit_) and (not isinstance(step, QUIET) or step.id in quiet):
            yield Finding(
                "silent_end",
                _cap(f"{_exit_words(step, exit_)} ends the call without a word: say something first."),
                step.id,
                exit_.id,
            )


def _exit_words(step: Step, exit_: Exit) -> str:
    if isinstance(step, Announcement | Label | Notify):
        return f"what follows {_called(step)}"
    if isinstance(step, BackTo):
        return f"{_called(step)}"
    if exit_.keys:
        return f"key {exit_.keys} of {_called(step)}"
    return f"{_called(step)}, {exit_.name},"


def _may_end(step: Step, exit_: Exit) -> bool:
    """Ends that need no more words: after something was said, left or talked over."""
    if isinstance(step, Announcement):
        return not step.prompt.is_empty()
    return (isinstance(step, Voicemail) and exit_.id in ("message_left", "no_message")) or (
        isinstance(step, Ring | HoldLine) and exit_.id == "after"
    )


def _words(step: Step) -> Iterator[Finding]:
    for place, prompt in prompts_of(step):
        if prompt.is_empty():
            what = {
                "retry_silent": "the retry prompt",
                "retry_wrong": "the retry prompt",
                "greeting": "the greeting",
                "hold_sound": "what is played while it rings",
                "music": "what is played to callers who wait",
            }.get(place, "the prompt")
            if isinstance(step, HangUp):
                sentence = f"{_called(step)} ends the call without a word: write what the caller hears last."
                yield Finding("silent_end", _cap(sentence), step.id)
            else:
                yield Finding("no_words", _cap(f"{what} of {_called(step)} has no words yet."), step.id)


def _of_kind(step: Step, around: Surroundings) -> Iterator[Finding]:
    if isinstance(step, Menu):
        yield from _of_menu(step, around)
    elif isinstance(step, Ring):
        yield from _of_ring(step, around)
    if isinstance(step, LookUp) and not URL.fullmatch(step.url):
        said = f"asks {step.url}, which is no web address" if step.url else "asks no system yet: write its address"
        yield Finding("no_address", f"{_cap(_called(step))} {said}.", step.id)
    if isinstance(step, Notify):
        for slip in notices.slips(step, around.people, around.tracking_numbers):
            yield Finding("tells_nobody", f"{_cap(_called(step))} {slip}", step.id)
    if isinstance(step, Ring | HoldLine) and step.hears.what == "whisper" and not step.hears.words:
        yield Finding("no_words", f"{_cap(_called(step))} has a whisper without words.", step.id)
    if isinstance(step, Ring | HoldLine):
        yield from _unconfirmed(step)
    if isinstance(step, Ring | HoldLine) and around.verified is not None:
        yield from _never_verified(step, around, around.verified)
    if isinstance(step, HoldLine) and not step.team:
        yield Finding("rings_nobody", f"{_cap(_called(step))} holds callers for nobody: choose a team.", step.id)
    elif isinstance(step, Voicemail):
        if step.mailbox is None or step.mailbox not in around.mailboxes:
            yield Finding(
                "no_mailbox", f"{_cap(_called(step))} has no mailbox: the message would lie nowhere.", step.id
            )
        elif not around.mailboxes[step.mailbox]:
            yield Finding(
                "untold", f"{_cap(_called(step))} lands in a mailbox that tells nobody: name an email for it.", step.id
            )
    elif isinstance(step, Label) and not step.labels:
        yield Finding("no_labels", f"{_cap(_called(step))} puts no label on the call.", step.id, weight="asks")


def _unconfirmed(step: Ring | HoldLine) -> Iterator[Finding]:
    rings = step.to if isinstance(step, Ring) else step.team
    if rings and step.accept is None and not step.machine_detection:
        sentence = (
            f"{_called(step)} cannot tell a person from the phone’s own mailbox: a call that a mailbox takes counts as"
            " answered, unconfirmed, and what should follow never runs."
        )
        yield Finding("unconfirmed", _cap(sentence), step.id, weight="asks", mends=SURE)


def _never_verified(step: Ring | HoldLine, around: Surroundings, verified: Collection[str]) -> Iterator[Finding]:
    names = sorted({name for to, name in rung_by(step, around.people, around.teams).items() if to not in verified})
    if names:
        some = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        sentence = (
            f"{_called(step)} rings phones that were never verified: {some}. A call to each settles it, under People."
        )
        yield Finding("never_verified", _cap(sentence), step.id, weight="asks")


def _of_menu(step: Menu, around: Surroundings) -> Iterator[Finding]:
    if not step.branches:
        yield Finding("no_branches", f"{_cap(_called(step))} listens for no key: add a branch.", step.id)
    for branch in step.branches:
        if branch.source and branch.source not in around.sources:
            sentence = f"Key {branch.keys} of {_called(step)} states a lead source that this client does not have."
            yield Finding("unknown_source", sentence, step.id, branch.id)


def _of_ring(step: Ring, around: Surroundings) -> Iterator[Finding]:
    if not step.to:
        yield Finding("rings_nobody", f"{_cap(_called(step))} rings nobody: add a phone.", step.id)
    for destination in step.to:
        if not isinstance(destination, NumberDestination):
            continue
        who = destination.name or destination.number or "a phone"
        problem = numbering.problem_of(destination.number)
        if problem:
            yield Finding("bad_number", f"{_cap(_called(step))} rings {who}: {problem}", step.id)
        elif destination.number in around.tracking_numbers:
            sentence = (
                f"{_cap(_called(step))} rings {who}, which is a tracking number: the call would come round again."
            )
            yield Finding("rings_itself", sentence, step.id)
