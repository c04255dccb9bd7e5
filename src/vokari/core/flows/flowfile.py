"""Flow files: reading with words for every mistake, and raising older formats.

A file holds one flow and the materials it names, so that it can be carried to another client.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import Field, ValidationError

from ..hours.document import Hours, exceptions_of
from ..ringing.directory import Person, Team
from ..value import Value
from .document import FORMAT_VERSION, FlowDocument


class MailboxMaterial(Value):
    """A mailbox as a file carries it: its name and the email addresses that are told of a message."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    tell: tuple[str, ...] = Field(default=(), max_length=50)


class SourceMaterial(Value):
    """A lead source as a file carries it, named by the open campaign tags."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    source: str = ""
    medium: str = ""
    campaign: str = ""
    online: bool = False


class Materials(Value):
    """What a flow names but does not hold, by the key it is named with."""

    mailboxes: dict[str, MailboxMaterial] = Field(default_factory=dict, max_length=200)
    sources: dict[str, SourceMaterial] = Field(default_factory=dict, max_length=1000)
    people: dict[str, Person] = Field(default_factory=dict, max_length=400)
    teams: dict[str, Team] = Field(default_factory=dict, max_length=100)
    hours: dict[str, Hours] = Field(default_factory=dict, max_length=100)


class FlowFile(Value):
    """A flow with its materials; `about` says in a sentence what the file shows."""

    about: str = ""
    flow: FlowDocument
    materials: Materials = Materials()


@dataclass(frozen=True, slots=True)
class Mistake:
    """What is wrong with a file: the path of the field, the line if it is known (0 if not), and a sentence."""

    path: str
    line: int
    sentence: str

    def __str__(self) -> str:
        where = f"line {self.line}, " if self.line else ""
        return f"{where}{self.path}: {self.sentence}" if self.path else f"{where}{self.sentence}"


Upgrade = Callable[[dict[str, Any]], dict[str, Any]]

UPGRADES: Mapping[int, Upgrade] = {}
"""For each older format version, the function that raises a raw flow by one version."""


def raise_format(
    flow: dict[str, Any], upgrades: Mapping[int, Upgrade] = UPGRADES, newest: int = FORMAT_VERSION
) -> dict[str, Any]:
    """Raises a raw flow to the newest format. Raises ValueError with a sentence when that cannot be done."""
    version = flow.get("version", newest)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ValueError("version is not a whole number from 1")
    if version > newest:
        raise ValueError(f"the flow has format version {version}; this program reads up to {newest}")
    while version < newest:
        flow = {**upgrades[version](flow), "version": version + 1}
        version += 1
    return flow


def read(text: str) -> FlowFile | list[Mistake]:
    """Reads a flow file; a bare flow without materials is taken as well. Never raises for what a file holds."""
    try:
        raw = json.loads(text)
    except json.JSONDecodeError as error:
        return [Mistake("", error.lineno, f"this is not JSON: {error.msg}, column {error.colno}")]
    except RecursionError:
        return [Mistake("", 0, "the file is nested too deeply")]
    except ValueError:
        return [Mistake("", 0, "a number in the file has too many digits")]
    if not isinstance(raw, dict):
        return [Mistake("", 1, "a flow file is a JSON object")]
    if "flow" not in raw and "steps" in raw:
        raw = {"flow": raw}
    if isinstance(raw.get("flow"), dict):
        try:
            raw = {**raw, "flow": raise_format(raw["flow"])}
        except ValueError as error:
            return [Mistake("flow.version", _line_of(text, ("flow", "version")), str(error))]
    try:
        return FlowFile.model_validate(raw)
    except ValidationError as error:
        return [mistake_of(text, dict(one)) for one in error.errors(include_url=False)]


def write(file: FlowFile) -> str:
    """The file as JSON with two spaces of indent; fields that hold their default are left out."""
    raw = file.model_dump(mode="json", exclude_defaults=True)
    for key, one in raw.get("materials", {}).get("hours", {}).items():
        one["exceptions"] = exceptions_of(one, file.materials.hours[key])
    raw["flow"] = {"format": "vokari-flow", "version": FORMAT_VERSION, **raw["flow"]}
    for step, full in zip(raw["flow"].get("steps", []), file.flow.steps, strict=True):
        step["kind"] = full.kind
        for one, whole in zip(step.get("to", []), getattr(full, "to", None) or (), strict=False):
            if isinstance(one, dict):
                one["kind"] = whole.kind
    raw["flow"]["steps"] = [{"kind": step.pop("kind"), **step} for step in raw["flow"].get("steps", [])]
    return json.dumps(raw, indent=2, ensure_ascii=False) + "\n"


def json_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a flow file."""
    schema = FlowFile.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Vokari flow file", **schema}


def mistake_of(text: str, error: dict[str, Any]) -> Mistake:
    """One error of pydantic as a mistake of the file that holds `text`."""
    place = tuple(part for part in error["loc"] if not _is_tag(part, error["loc"]))
    sentence = error["msg"].removeprefix("Value error, ")
    match error["type"]:
        case "extra_forbidden":
            sentence = "there is no such field here"
        case "missing":
            sentence = "this field is missing"
        case "union_tag_invalid":
            sentence = f"“{error['ctx'].get('tag')}” is no kind that is known here"
        case "union_tag_not_found":
            sentence = "the field kind is missing"
    return Mistake(".".join(str(part) for part in place), _line_of(text, place), sentence[0].lower() + sentence[1:])


def _is_tag(part: object, place: tuple[object, ...]) -> bool:
    """Pydantic puts the chosen kind after a list index; it is no part of the file's path."""
    index = place.index(part)
    return index > 0 and isinstance(place[index - 1], int) and isinstance(part, str) and part in _KINDS


_KINDS = {
    "announcement", "menu", "keypad_entry", "look_up", "junction", "ring", "hold_line", "voicemail", "label",
    "notify", "continue_in", "back_to", "hang_up", "come_back", "days", "season", "holidays", "number", "sip", "person", "team",
}  # fmt: skip


def _line_of(text: str, place: tuple[object, ...]) -> int:
    """The line at which the value at a path starts, found by walking the text with the standard decoder."""
    decoder = json.JSONDecoder()
    position = 0

    def skip(at: int) -> int:
        while at < len(text) and text[at] in " \t\r\n,:":
            at += 1
        return at

    for part in place:
        position = skip(position)
        opener = text[position : position + 1]
        inner = skip(position + 1)
        if opener == "{" and isinstance(part, str):
            while text[inner : inner + 1] == '"':
                key, after = decoder.raw_decode(text, inner)
                value = skip(after)
                if key == part:
                    position = value
                    break
                inner = skip(decoder.raw_decode(text, value)[1])
            else:
                break
        elif opener == "[" and isinstance(part, int):
            for _ in range(part):
                inner = skip(decoder.raw_decode(text, inner)[1])
            position = inner
        elif part != "flow":
            break
    return text.count("\n", 0, skip(position)) + 1
