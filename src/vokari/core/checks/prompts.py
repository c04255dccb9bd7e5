"""What is wrong with what callers hear: prompts of the library that are gone, over, unheard or unchecked; another voice or language than the
flow's; mark-up and fields that cannot be said; promises that nothing keeps."""

import re
from collections.abc import Iterator, Mapping

from ..flows.model.document import FlowDocument
from ..flows.model.exits import Played
from ..flows.model.spoken import languages_of, played
from ..flows.model.steps import Announcement, AnyStep, HoldLine, Ring, Voicemail
from ..flows.model.steps.keypad_entry import stored_name
from ..flows.model.values import Prompt
from ..hours.timetable import Timetable
from ..prompts import consent, markup, moments
from ..prompts.facts import PromptFacts, TakeFacts
from ..prompts.fields import ASKED, BY_HOURS, TYPED, WAITING, fields_in
from ..prompts.voices import speaks
from .finding import Finding, Surroundings

_CALL_BACK = re.compile(
    r"\b(?:call|ring|phone|get back to) (?:you|back)\b|\breturn your call\b|\b(?:llamaremos|rappel\w+|rufen .{0,20}zurück)\b",
    re.I,
)
_TIME = r"(\d{1,2})(?:[:.h](\d\d))?\s*(a\.?m\b\.?|p\.?m\b\.?)?"
_OPEN_FROM = re.compile(rf"\bopen\b[^.!?]{{0,60}}?\b{_TIME}\s*(?:to|till|until|and|-|–)\s*{_TIME}", re.I)
HALF_A_DAY = 720


def findings(document: FlowDocument, around: Surroundings) -> Iterator[Finding]:
    """In the order of the steps; of a prompt that is played twice each time."""
    languages = languages_of(document)
    for step, one in played(document):
        say = f"{step.begins}{'' if one.called == 'the prompt' else f', {one.called},'}"
        if one.prompt.prompt is not None:
            yield from _of_library(step, one, say, around.prompts.get(one.prompt.prompt), languages)
        yield from _voice(document, step, one.prompt, say, languages, around.prompts)
        yield from _words(document, step, one, say, around.hours)
    for step in document.steps:
        if isinstance(step, Voicemail):
            yield from _call_back(step, around)
        if isinstance(step, Announcement):
            yield from _notice(document, step, around.prompts.get(step.prompt.prompt or ""))
        for one in step.plays():
            yield from _opening_times(step, one.prompt.say, around.hours)


def _of_library(
    step: AnyStep, one: Played, say: str, facts: PromptFacts | None, languages: set[str]
) -> Iterator[Finding]:
    if facts is None:
        words = f"{say} plays a prompt that is gone from the library: its words are read by a voice. Choose another."
        yield Finding("prompt_gone", words, step.id, weight="asks")
        return
    if not facts.takes:
        yield Finding("prompt_empty", f"{say} plays “{facts.name}”, which has no words and no recording yet.", step.id)
        return
    if facts.ends == "over":
        now = (
            "callers hear what it falls back on." if facts.fallback else "choose another, or say what is heard instead."
        )
        words = f"“{facts.name}” at {step.quoted} was true until {facts.until}: {now}"
        yield Finding("prompt_over", words, step.id, weight="asks")
    elif facts.ends == "soon":
        after = "" if facts.fallback else ", and nothing is named that is heard after that"
        words = f"“{facts.name}” at {step.quoted} is true until {facts.until}{after}."
        yield Finding("prompt_ends", words, step.id, weight="advises")
    for language in sorted(languages):
        if not facts.speaks(language):
            words = f"“{facts.name}” at {step.quoted} has no take in the language {language}, which callers may have chosen."
            yield Finding("prompt_language", words, step.id, weight="asks")
    for take in facts.takes.values():
        yield from _take(step, facts, take)


def _take(step: AnyStep, facts: PromptFacts, take: TakeFacts) -> Iterator[Finding]:
    if take.unheard:
        words = (
            f"Nobody has heard take {take.number} of “{facts.name}” at {step.quoted}: play it once before callers do."
        )
        yield Finding("prompt_unheard", words, step.id, weight="advises")
    if take.words_are == "proposed":
        words = f"The words of “{facts.name}” at {step.quoted} are proposed by the transcriber: read and confirm them."
        yield Finding("words_unchecked", words, step.id, weight="advises")
    if take.is_recording and not take.words:
        words = f"Nobody has written what “{facts.name}” at {step.quoted} says, so that nothing can check it against the flow."
        yield Finding("words_missing", words, step.id, weight="advises")
    for warning in take.warnings:
        yield Finding("sound", f"“{facts.name}” at {step.quoted}: {warning}", step.id, weight="advises")


def _voice(
    document: FlowDocument, step: AnyStep, prompt: Prompt, say: str, languages: set[str], library: Mapping[str, PromptFacts]
) -> Iterator[Finding]:  # fmt: skip
    """Another voice, or another language, within a flow."""
    if prompt.language is not None and prompt.language not in languages:
        words = f"{say} is in {prompt.language}, and the flow in {document.language}: no branch lets callers choose that language."
        yield Finding("other_language", words, step.id, weight="advises")
    facts = library.get(prompt.prompt or "")
    take = facts.take(document.language) if facts else None
    name = prompt.voice or (take.voice.name if take and take.voice and not take.is_recording else "")
    usual = document.voice.name
    if name and name != usual and speaks(name, document.language):
        words = f"{say} is read by another voice than the rest of the flow."
        yield Finding("other_voice", words, step.id, weight="advises")
    if not speaks(usual, document.language) and step.id == document.start:
        words = (
            f"The voice of the flow speaks another language than {document.language}: the usual voice of that is heard."
        )
        yield Finding("other_voice", words, step.id, weight="advises")


def _words(
    document: FlowDocument, step: AnyStep, one: Played, say: str, hours: Mapping[str, Timetable]
) -> Iterator[Finding]:
    read = markup.read(one.prompt.say)
    if isinstance(read, str):
        yield Finding("markup", f"{say}: {read}", step.id)
    for blank in moments.blanks(one.prompt.say):
        yield Finding("blank", f"{say} still has the blank {blank}: fill it in.", step.id, weight="asks")
    for field in fields_in(one.prompt.say):
        sentence = _unknown(document, step, one, field.name)
        if sentence:
            yield Finding("spoken_field", f"{say} says {{{field.written}}}: {sentence}", step.id, weight="asks")
        elif field.name == "caller" and not field.otherwise:
            words = f"{say} says {{{field.written}}}: write what is said where the name is not known, as in {{caller|neighbor}}."
            yield Finding("spoken_field", words, step.id, weight="asks")
        elif field.name in BY_HOURS and not hours:
            yield Finding(
                "spoken_field", f"{say} says {{{field.written}}}, and the client has no hours.", step.id, weight="asks"
            )


def _unknown(document: FlowDocument, step: AnyStep, one: Played, name: str) -> str:
    """Why a field cannot be known where it is said; empty where it can."""
    if name in ASKED:
        return ""
    if name in WAITING:
        return (
            ""
            if isinstance(step, HoldLine) and one.field == "tells"
            else "only a hold line knows it, where it tells callers."
        )
    kept = {getattr(other, "store_as", "") for other in document.steps} - {""}
    if name == TYPED or stored_name(name) in kept:
        return (
            ""
            if _typed_before(document, step, None if name == TYPED else stored_name(name))
            else "nothing was typed before callers come here."
        )
    return (
        "it is no field; there are "
        + ", ".join(f"{{{one}}}" for one in (*ASKED, TYPED))
        + " and names under which the flow keeps something."
    )


def _typed_before(document: FlowDocument, step: AnyStep, name: str | None) -> bool:
    """Whether some way to a step comes by one that keeps a value (of this name) first."""
    keeps = {one.id for one in document.steps if getattr(one, "store_as", "") and name in (None, one.store_as)}  # type: ignore[union-attr]
    seen: set[str] = set()
    waiting = [target for one in keeps for target in document.by_id[one].successors]
    while waiting:
        at = waiting.pop()
        if at == step.id:
            return True
        if at in seen or at not in document.by_id:
            continue
        seen.add(at)
        waiting += document.by_id[at].successors
    return False


def _notice(document: FlowDocument, step: Announcement, facts: PromptFacts | None) -> Iterator[Finding]:
    """A notice that callers can skip, and one in a flow that records which does not say so."""
    if facts is not None and facts.kind == "notice" and not step.notice:
        words = f"{step.begins} plays the notice “{facts.name}”, and callers can skip it: mark the row as a notice."
        yield Finding("notice_skipped", words, step.id, weight="asks", mends=("as_notice",))
    records = any(isinstance(one, Ring | HoldLine) and one.recording.purpose != "none" for one in document.steps)
    others = any(isinstance(one, Announcement) and one.notice and one.id != step.id for one in document.steps)
    if step.notice and records and not others and step.prompt.say.strip() and not consent.tells(step.prompt.say):
        words = f"{step.begins} is the flow’s only notice, and does not say that calls are recorded: say so."
        yield Finding("notice_silent", words, step.id, weight="asks")


def _call_back(step: Voicemail, around: Surroundings) -> Iterator[Finding]:
    """A greeting that promises a call back, while nobody is told of what is left there."""
    if _CALL_BACK.search(step.greeting.say) and not around.mailboxes.get(step.mailbox or "", False):
        words = f"{step.begins} promises that somebody calls back, and nobody is told of messages there: say who is."
        yield Finding("promised_call_back", words, step.id, weight="asks")


def _opening_times(step: AnyStep, words: str, hours: Mapping[str, Timetable]) -> Iterator[Finding]:
    """Opening times that are said and stand in none of the client's hours."""
    for match in _OPEN_FROM.finditer(markup.plain(words)):
        begins, ends = (_minute(*match.groups()[at : at + 3]) for at in (0, 3))
        spans = [span for table in hours.values() for day in table.hours.week for span in day]
        if spans and not any(_fits(span.start, begins) and _fits(span.end, ends) for span in spans):
            said = f"{step.begins} says “{match[0]}”, and none of the client’s hours are so: change the words, or say {{hours}}."
            yield Finding("promised_hours", said, step.id, weight="asks")


def _minute(hour: str, minute: str | None, half: str | None) -> tuple[int, bool]:
    """A time as it is said, in minutes, and whether it says which half of the day it means."""
    at = int(hour) % 24 * 60 + int(minute or 0)
    if half:
        at = at % HALF_A_DAY + (HALF_A_DAY if half[0] in "pP" else 0)
    return at, bool(half) or int(hour) > 12


def _fits(minute: int, said: tuple[int, bool]) -> bool:
    at, exact = said
    return minute % (2 * HALF_A_DAY) == at if exact else minute % HALF_A_DAY == at % HALF_A_DAY
