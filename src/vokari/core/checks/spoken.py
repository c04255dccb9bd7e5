"""What spoken words say that the flow does not do: fields that nobody fills in, a beep or a key that is not there; and where callers
who press nothing, or the wrong key, are only told goodbye."""

import re
from collections.abc import Iterator

from ..flows.model.document import FlowDocument
from ..flows.model.steps import AnyStep, HangUp, KeypadEntry, Menu, Voicemail
from ..flows.model.values import END
from .finding import Finding

_FIELD = re.compile(r"\{[^{}]*\}")
_BEEP = re.compile(r"\b(?:beep|tone|tono)\b", re.I)
_KEY = re.compile(r"\b(?:press|hit|push)(?:ing)?\s+(?:the\s+)?(pound|hash|star|asterisk|[0-9#*])(?![0-9])", re.I)
_KEYS = {"pound": "#", "hash": "#", "star": "*", "asterisk": "*"}


def findings(document: FlowDocument) -> Iterator[Finding]:
    """They ask and never stop: words are read here as anybody would read them, and may mean something else."""
    for step in document.steps:
        for played in step.plays():
            for field in dict.fromkeys(_FIELD.findall(played.prompt.say)):
                words = f"{step.begins} says “{field}” as it is written: nothing is filled in there."
                yield Finding("spoken_field", words, step.id, weight="asks")
        if isinstance(step, Voicemail):
            yield from _promises(step)
        if isinstance(step, Menu | KeypadEntry):
            yield from _sent_away(document, step)


def _promises(step: Voicemail) -> Iterator[Finding]:
    say = step.greeting.say
    if _BEEP.search(say) and not step.beep:
        words = f"{step.begins} promises a beep, and there is none: turn it on, or change the words."
        yield Finding("promised_beep", words, step.id, weight="asks")
    for name in _KEY.findall(say):
        key = _KEYS.get(name.lower(), name)
        if key != step.stop_key:
            does = f"{step.stop_key} does" if step.stop_key else "no key does"
            words = f"{step.begins} promises that {key} ends the message, and {does}."
            yield Finding("promised_key", words, step.id, weight="asks")


def _sent_away(document: FlowDocument, step: AnyStep) -> Iterator[Finding]:
    for way in step.exits:
        if way.id in ("nothing", "wrong") and _only_farewell(document, way.target):
            who = "presses nothing" if way.id == "nothing" else "presses the wrong keys"
            words = f"A caller who {who} at {step.quoted} is only told goodbye: let a team or a voicemail take them."
            yield Finding("sent_away", words, step.id, way.id, weight="asks")


def _only_farewell(document: FlowDocument, target: str | None) -> bool:
    """Whether nothing but words comes before the end."""
    seen: set[str] = set()
    at = document.step(target or "")
    while at is not None and at.id not in seen:
        if isinstance(at, HangUp):
            return True
        seen.add(at.id)
        if not at.linear or not at.onward:
            return False
        target = getattr(at, at.onward)
        if target == END:
            return True
        at = document.step(target or "")
    return False
