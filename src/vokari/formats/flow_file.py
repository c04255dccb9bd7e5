"""Flow files: reading with words for every mistake, and raising older formats.

A file holds one flow and the materials it names, so that it can be carried to another client.
"""

import json
from collections.abc import Callable, Mapping
from typing import Annotated, Any

from pydantic import Field, ValidationError

from ..core import mail
from ..core.checks.supported import unsupported
from ..core.flows.model.document import FORMAT_VERSION, FlowDocument
from ..core.flows.model.upgrades import BY_VERSION
from ..core.hours.document import Hours, exceptions_of
from ..core.people.directory import Person, Team
from ..core.places.document import Places
from ..core.value import Value
from . import mistakes
from .hours_file import places_known
from .mistakes import Mistake


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
    places: Places = Places()
    flows: dict[str, FlowDocument] = Field(default_factory=dict, max_length=50)


class FlowFile(Value):
    """A flow with its materials; `about` says in a sentence what the file shows."""

    about: str = ""
    flow: FlowDocument
    materials: Materials = Materials()


Upgrade = Callable[[dict[str, Any]], dict[str, Any]]


def raise_format(
    flow: dict[str, Any], upgrades: Mapping[int, Upgrade] = BY_VERSION, newest: int = FORMAT_VERSION
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
    raw = mistakes.read_object(text, "a flow file")
    if isinstance(raw, list):
        return raw
    if "flow" not in raw and "steps" in raw:
        raw = {"flow": raw}
    if isinstance(raw.get("flow"), dict):
        try:
            raw = {**raw, "flow": raise_format(raw["flow"])}
        except ValueError as error:
            return [Mistake("flow.version", mistakes.line_of(text, ("flow", "version")), str(error))]
    try:
        return FlowFile.model_validate(raw)
    except ValidationError as error:
        return [mistakes.of_error(text, dict(one)) for one in error.errors(include_url=False)]


def wrong_in(file: FlowFile) -> list[Mistake]:
    """What is wrong with a file that could be read: steps that cannot be run, addresses that are none, places unknown."""
    found = [Mistake(f"flow.{one.path}", 0, one.sentence) for one in unsupported(file.flow)]
    for key, flow in file.materials.flows.items():
        found += [Mistake(f"materials.flows.{key}.{one.path}", 0, one.sentence) for one in unsupported(flow)]
    for key, box in file.materials.mailboxes.items():
        wrong = (address for address in box.tell if not mail.is_address(address))
        found += [
            Mistake(f"materials.mailboxes.{key}.tell", 0, f"“{address}” is no email address") for address in wrong
        ]
    for key, hours in file.materials.hours.items():
        found += [Mistake(f"materials.hours.{key}.{one.path}", 0, one.sentence) for one in places_known(hours)]
    return found


def write(file: FlowFile) -> str:
    """The file as JSON with two spaces of indent; fields that hold their default are left out."""
    raw = file.model_dump(mode="json", exclude_defaults=True)
    for key, one in raw.get("materials", {}).get("hours", {}).items():
        one["exceptions"] = exceptions_of(one, file.materials.hours[key])
    raw["flow"] = _flow_raw(raw["flow"], file.flow)
    for key, one in raw.get("materials", {}).get("flows", {}).items():
        raw["materials"]["flows"][key] = _flow_raw(one, file.materials.flows[key])
    return json.dumps(raw, indent=2, ensure_ascii=False) + "\n"


def _flow_raw(raw: dict[str, Any], flow: FlowDocument) -> dict[str, Any]:
    """A flow without its defaults, but with what tells its format and the kinds of its steps and destinations."""
    raw = {"format": "vokari-flow", "version": FORMAT_VERSION, **raw}
    for step, full in zip(raw.get("steps", []), flow.steps, strict=True):
        step["kind"] = full.kind
        for one, whole in zip(step.get("to", []), getattr(full, "to", None) or (), strict=False):
            if isinstance(one, dict):
                one["kind"] = whole.kind
    for kept, rehearsal in zip(raw.get("rehearsals", []), flow.rehearsals, strict=True):
        kept["when"] = {"kind": rehearsal.when.kind, **kept["when"]}
    raw["steps"] = [{"kind": step.pop("kind"), **step} for step in raw.get("steps", [])]
    return raw


def json_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a flow file."""
    schema = FlowFile.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Vokari flow file", **schema}
