"""All prompts of a client as one file, and such a file brought back: what it would change is shown first."""

import hashlib
import hmac
import io
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import IO

from pydantic import ValidationError
from sqlalchemy.orm import Session

from ...core import asked
from ...core.prompts.document import LibraryPrompt
from ...core.prompts.kinds import KINDS
from ...core.prompts.voices import Voice, speaks
from ...formats import prompt_files
from ...formats.audio import sniffing
from ...formats.prompt_files import PromptLine
from ...store.prompts import Take
from ..agency.access import Actor, note
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import PromptView, TakeView
from . import brought
from .library import listed_own, made, newest, own, scope
from .takes import Coming, received, say_within, wrong_file, wrong_words

LARGEST = 150_000_000
"""Bytes of the largest ZIP that is brought."""


@dataclass(frozen=True, slots=True)
class Change:
    """What a line of a brought list would do: make a prompt, give one other words or another recording, or nothing."""

    prompt: str
    language: str
    does: str
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Plan:
    """What a brought file would change, what is wrong with it, and what it is confirmed by: the name under which it is kept, and a
    signature of that."""

    changes: tuple[Change, ...]
    wrong: tuple[str, ...]
    file: str = ""
    signature: str = ""

    @property
    def doing(self) -> list[Change]:
        """The changes that change something."""
        return [one for one in self.changes if one.does != "same"]


def pack(house: House, actor: Actor, client_id: int | None) -> bytes:
    """The prompts of a client, or of the agency, as a ZIP with their newest takes."""
    with house.begin() as session:
        scope(session, actor, client_id)
        prompts = listed_own(session, actor.agency_id, client_id)
        takes = newest(session, [one.id for one in prompts])
        names = {one.key: one.name for one in prompts}
    return prompt_files.write(_lines(house, prompts, takes, names))


def _lines(
    house: House, prompts: list[PromptView], takes: Mapping[int, Mapping[str, TakeView]], names: Mapping[str, str]
) -> Iterator[PromptLine]:
    taken: set[str] = {prompt_files.LIST}
    for prompt in prompts:
        said = prompt.said
        line = PromptLine(
            prompt.name, said.kind, true_until=said.true_until.isoformat() if said.true_until else "",
            then=names.get(said.fallback or "", ""), note=said.note,
        )  # fmt: skip
        some = takes.get(prompt.id, {})
        if not some:
            yield replace(line, language="", words_are="")
        for language, take in some.items():
            one = replace(line, language=language, words=take.words, words_are=take.words_are)
            if take.is_recording:
                content = house.files.get(take.original)
                _, endings, _ = sniffing.TYPES[sniffing.kind_of(content[:64]) or "wav"]
                one = replace(
                    one, content=content, file=prompt_files.file_name(prompt.name, language, endings[0], taken)
                )
            elif take.own_voice:
                voice = take.own_voice
                one = replace(one, voice=voice.name, rate=str(voice.rate), pause=f"{voice.pause:g}")
            yield one


def plan(house: House, actor: Actor, client_id: int | None, file: IO[bytes]) -> Plan:
    """What a ZIP would change; nothing is changed yet."""
    with house.begin() as session:
        scope(session, actor, client_id)
    name = house.files.put_parts(iter(lambda: file.read(1 << 20), b""), ".zip")
    found = _planned(house, actor, client_id, name)
    if found.wrong:
        house.files.forget(name)
        return found
    return replace(found, file=name, signature=_signed(house, actor, client_id, name))


def _signed(house: House, actor: Actor, client_id: int | None, name: str) -> str:
    said = f"prompts {actor.agency_id} {client_id} {name}".encode()
    return hmac.new(house.secret, said, hashlib.sha256).hexdigest()


def _planned(house: House, actor: Actor, client_id: int | None, name: str) -> Plan:
    lines = prompt_files.read(io.BytesIO(house.files.get(name)))
    if isinstance(lines, str):
        return Plan((), (lines,))
    wrong = [f"{one} is listed twice." for one in prompt_files.twice(lines)]
    for line in lines:
        wrong += [f"{line.prompt}: {one.sentence}" for one in _wrong(line)]
    with house.begin() as session:
        scope(session, actor, client_id)
        prompts = {one.name.casefold(): one for one in listed_own(session, actor.agency_id, client_id)}
        takes = newest(session, [one.id for one in prompts.values()])
    changes = [_change(line, prompts.get(line.prompt.casefold()), takes) for line in lines]
    return Plan(tuple(changes), tuple(wrong[:20]))


def _wrong(line: PromptLine) -> Problems:
    problems: Problems = []
    if line.kind not in KINDS:
        problems.append(Problem("kind", f"“{line.kind}” is no kind of prompt: {', '.join(KINDS)}."))
    if len(line.prompt) > 60:
        problems.append(Problem("prompt", "A name has 1 to 60 letters."))
    if line.true_until and asked.day(line.true_until) is None:
        problems.append(Problem("true until", f"“{line.true_until}” is no day: write 2026-12-24."))
    if line.file:
        problems += wrong_file(Coming(line.content, line.file))
    elif line.words:
        problems += wrong_words(line.words)
    if line.voice or line.rate or line.pause:
        voice = _voice(line)
        if voice is None or not speaks(voice.name, line.language):
            problems.append(Problem("voice", f"“{line.voice}” is no voice of the language {line.language}."))
    return problems


def _voice(line: PromptLine) -> Voice | None:
    if not (line.voice or line.rate or line.pause):
        return None
    try:
        return Voice.model_validate({"name": line.voice, "rate": line.rate or 150, "pause": line.pause or 0})
    except ValidationError:
        return None


def _change(line: PromptLine, prompt: PromptView | None, takes: Mapping[int, Mapping[str, TakeView]]) -> Change:
    what = Change(line.prompt, line.language, "same")
    take = takes.get(prompt.id, {}).get(line.language) if prompt else None
    if prompt is None:
        how = "from a recording" if line.file else "with its words" if line.words else "without a take"
        return replace(what, does="new", detail=f"A new prompt, {how}.")
    if line.file:
        same = take is not None and take.original.removesuffix(".sound") == hashlib.sha256(line.content).hexdigest()
        if same and take is not None and take.words == line.words:
            return replace(what, detail="As it is.")
        return replace(
            what,
            does="words" if same else "recording",
            detail="Other words beside the recording." if same else "Another recording.",
        )
    if not line.words:
        return replace(what, detail="As it is.")
    if take is not None and not take.is_recording and (take.words, take.own_voice) == (line.words, _voice(line)):
        return replace(what, detail="As it is.")
    before = f" Before: “{take.words[:80]}”." if take and take.words else ""
    return replace(what, does="words", detail=f"Read by a voice: “{line.words[:80]}”.{before}")


def carry_out(house: House, actor: Actor, client_id: int | None, file: str, signature: str) -> int | Problems:
    """Does what was shown of a brought file; gives how many prompts were changed or made."""
    if not hmac.compare_digest(signature.encode(), _signed(house, actor, client_id, file).encode()):
        return [Problem("", "Bring the file again, and look at what it changes first.")]
    try:
        shown = _planned(house, actor, client_id, file)
        lines = prompt_files.read(io.BytesIO(house.files.get(file)))
    except KeyError:
        return [Problem("", "The file is here no more: bring it again.")]
    if shown.wrong or isinstance(lines, str):
        return [Problem("", shown.wrong[0] if shown.wrong else str(lines))]
    kept = {id(line): house.files.put(line.content, ".sound") for line in lines if line.file}
    with house.begin() as session:
        client = scope(session, actor, client_id, changing=True)
        country = client.country if client else "US"
        changed = 0
        for line, change in zip(lines, shown.changes, strict=True):
            if change.does != "same":
                _do(session, house, actor, client_id, line, change, kept.get(id(line), ""), country)
                changed += 1
        _fall_backs(session, actor, client_id, lines)
        note(session, house, actor, client_id, f"brought a file of prompts that changed {changed}")
    house.files.forget(file)
    return changed


def _do(
    session: Session, house: House, actor: Actor, client_id: int | None, line: PromptLine, change: Change, file: str,
    country: str,
) -> None:  # fmt: skip
    known = brought.matched(session, actor, client_id, line.prompt)
    if known is None:
        document = LibraryPrompt(
            name=line.prompt, kind=line.kind, note=line.note, true_until=asked.day(line.true_until) if line.true_until else None
        )  # fmt: skip
        row = made(session, house, actor, client_id, document)
    else:
        row = own(session, actor, client_id, known.id, lock=True)
    if file and change.does != "words":
        coming = Coming(line.content, line.file, line.language or "en-US", words=line.words)
        take = received(session, house, row, actor.user_id, coming, file)
        take.words_are = "proposed" if line.words_are == "proposed" else "confirmed" if line.words else "typed"
    elif file:
        take_row = newest(session, [row.id]).get(row.id, {}).get(line.language)
        if take_row is not None:
            _other_words(session, take_row.id, line.words)
    elif line.words:
        say_within(session, house, actor, row, line.language or "en-US", line.words, _voice(line), country)
    row.changed_at = house.now()


def _other_words(session: Session, take_id: int, words: str) -> None:
    take = session.get_one(Take, take_id, with_for_update=True)
    take.words, take.words_are = words, "confirmed"


def _fall_backs(session: Session, actor: Actor, client_id: int | None, lines: list[PromptLine]) -> None:
    """What prompts are heard as once they are over, now that all of them are there."""
    by_name = {one.name.casefold(): one for one in listed_own(session, actor.agency_id, client_id)}
    for line in lines:
        prompt, after = by_name.get(line.prompt.casefold()), by_name.get(line.then.casefold())
        if prompt is not None and after is not None and line.true_until and prompt.said.fallback != after.key:
            row = own(session, actor, client_id, prompt.id, lock=True)
            row.document = {**row.document, "fallback": after.key}
