"""Hours files: a set of hours as JSON, with its time zone, read with words for every mistake."""

import json
from typing import Any

from pydantic import ValidationError

from ..core.agency.zones import zone_of
from ..core.hours.document import FORMAT_VERSION, Hours, PublicHolidays, exceptions_of
from ..core.hours.public_days import problem_of
from . import mistakes
from .mistakes import Mistake


def read(text: str) -> Hours | list[Mistake]:
    """Reads an hours file. Never raises for what a file holds."""
    raw = mistakes.read_object(text, "an hours file")
    if isinstance(raw, list):
        return raw
    version = raw.get("version", FORMAT_VERSION)
    if version != FORMAT_VERSION:
        return [Mistake("version", 0, f"this program reads version {FORMAT_VERSION} of hours files")]
    try:
        hours = Hours.model_validate(raw)
    except ValidationError as error:
        return [mistakes.of_error(text, dict(one)) for one in error.errors(include_url=False)]
    return places_known(hours) or hours


def places_known(hours: Hours) -> list[Mistake]:
    """What is wrong with the time zone and the countries that a set names."""
    found = []
    if hours.time_zone is not None and zone_of(hours.time_zone) is None:
        found.append(Mistake("time_zone", 0, f"there is no time zone {hours.time_zone}"))
    for index, one in enumerate(hours.exceptions):
        if isinstance(one, PublicHolidays) and problem_of(one.country, one.region):
            found.append(Mistake(f"exceptions.{index}", 0, problem_of(one.country, one.region)))
    return found


def write(hours: Hours) -> str:
    """The set as JSON with two spaces of indent; fields that hold their default are left out."""
    raw = hours.model_dump(mode="json", exclude_defaults=True)
    whole = {"format": hours.format, "version": hours.version, **raw, "exceptions": exceptions_of(raw, hours)}
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"


def json_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of an hours file."""
    schema = Hours.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Vokari hours file", **schema}
