"""What spoken words say that the flow does not do: a beep, a key or a person that is not there; and where callers who press nothing, or the
wrong key, are only told goodbye."""

import re
from collections.abc import Iterator, Mapping

from ..flows.model.document import FlowDocument
from ..flows.model.steps import Announcement, AnyStep, HangUp, HoldLine, KeypadEntry, Menu, Ring, Voicemail
from ..flows.model.values import END
from ..people.destinations import rung_by
from ..people.directory import Person, Team
from ..prompts.moments import is_shipped
from .finding import Finding

_WORD = re.compile(r"\w+")
_BEEP = re.compile(r"\b(?:beep|tone|tono)\b", re.I)
_KEY = re.compile(r"\b(?:press|hit|push)(?:ing)?\s+(?:the\s+)?(pound|hash|star|asterisk|[0-9#*])(?![0-9])", re.I)
_KEYS = {"pound": "#", "hash": "#", "star": "*", "asterisk": "*"}


def findings(document: FlowDocument, people: Mapping[str, Person], teams: Mapping[str, Team]) -> Iterator[Finding]:
    """They ask and never stop: words are read here as anybody would read them, and may mean something else."""
    known = _names(document, people, teams)
    for step in document.steps:
        if isinstance(step, Announcement):
            yield from _somebody_else(document, step, known, people, teams)
        if isinstance(step, Voicemail | Announcement):
            yield from _two_beeps(document, step)
        for played in step.plays():
            if is_shipped(played.prompt.say):
                words = f"{step.begins} still has the words it came with: say who you are."
                yield Finding("as_shipped", words, step.id, weight="advises")
        if isinstance(step, Voicemail):
            yield from _promises(step)
        if isinstance(step, Menu | KeypadEntry):
            yield from _sent_away(document, step)


def _names(document: FlowDocument, people: Mapping[str, Person], teams: Mapping[str, Team]) -> Mapping[str, list[str]]:
    """What somebody may be announced by, by its first word: all names that the client's people and teams have, and that the flow rings."""
    known = {one.name for one in people.values()} | {one.name for one in teams.values()}
    known |= {one.name for step in document.steps if isinstance(step, Ring) for one in step.to}
    found: dict[str, list[str]] = {}
    for name in {*known, *(one.name.split()[0] for one in people.values())}:
        if len(name) > 2 and (first := _WORD.search(name)):
            found.setdefault(first[0], []).append(name)
    return found


def _said_in(words: str, known: Mapping[str, list[str]]) -> list[str]:
    """The names that stand in some words."""
    near = (name for word in dict.fromkeys(_WORD.findall(words)) for name in known.get(word, ()))
    return [name for name in near if re.search(rf"(?<!\w){re.escape(name)}(?!\w)", words)]


def _somebody_else(
    document: FlowDocument, step: Announcement, known: Mapping[str, list[str]], people: Mapping[str, Person],
    teams: Mapping[str, Team],
) -> Iterator[Finding]:  # fmt: skip
    """An announcement right before a ring that names only others than the ring behind it reaches."""
    rung = document.step(step.next or "")
    if not isinstance(rung, Ring | HoldLine):
        return
    own = {rung.called, *rung_by(rung, people, teams).values()}
    for one in getattr(rung, "to", ()):
        own.add(one.name)
        key = getattr(one, "team", "") or getattr(one, "person", "")
        own |= {one.name for one in (people.get(key), teams.get(key)) if one is not None}
    if isinstance(rung, HoldLine) and rung.team in teams:
        own.add(teams[rung.team].name)
    said = _said_in(step.prompt.say, known)
    if said and not any(name in whose or whose in name for name in said for whose in own if whose):
        named, reached = max(said, key=len), ", ".join(sorted(one for one in own if one)) or "nobody"
        words = f"{step.begins} names {named}, and {rung.quoted} behind it reaches {reached}."
        yield Finding("somebody_else", words, step.id, weight="asks")


def _two_beeps(document: FlowDocument, step: Voicemail | Announcement) -> Iterator[Finding]:
    """A beep that is promised or heard twice in a row."""
    after = step.next if isinstance(step, Announcement) else step.no_message
    behind = document.step(after or "")
    while behind is not None and not behind.heard:
        behind = document.step(getattr(behind, behind.onward, None) or "")
    if not isinstance(behind, Voicemail) or not behind.beep or behind.id == step.id:
        return
    beeps = step.beep if isinstance(step, Voicemail) else bool(_BEEP.search(step.prompt.say))
    if beeps and (isinstance(step, Voicemail) or _BEEP.search(behind.greeting.say)):
        words = f"{step.begins} and {behind.quoted} right behind it both come with a beep: one is enough."
        yield Finding("two_beeps", words, step.id, weight="asks")


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
        if way.id in ("nothing", "wrong") and only_farewell(document, way.target):
            who = "presses nothing" if way.id == "nothing" else "presses the wrong keys"
            words = f"A caller who {who} at {step.quoted} is only told goodbye: let a team or a voicemail take them."
            yield Finding("sent_away", words, step.id, way.id, weight="asks")


def only_farewell(document: FlowDocument, target: str | None) -> bool:
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
