"""How far back a condition looks, typed: “in 30 days”, “in 2 hours”."""

import re
from typing import Any

from ..model.condition import Condition

_WITHIN = re.compile(
    r"\s*\b(?:with)?in\s+(?:the\s+last\s+)?(?:(\d{1,4})|an?)\s+(hour|day|week|month|year)s?\b(?:\s+and\s+(\d{1,2})\s+hours?\b)?",
    re.I,
)
_DAYS = {"day": 1, "week": 7, "month": 30, "year": 365}


def read_within(text: str) -> tuple[dict[str, Any], int] | str:
    """The reach that a text begins with as fields of a condition, and how many letters are read (0: it says none); or a sentence."""
    match = _WITHIN.match(text)
    if match is None:
        return {}, 0
    count, unit = int(match[1] or 1), match[2].lower()
    fields = {"hours": count} if unit == "hour" else {"days": count * _DAYS[unit]}
    if match[3]:
        fields["hours"] = int(match[3])
    if not count or fields.get("days", 1) > 3660 or fields.get("hours", 1) > 720 or fields.get("hours") == 0:
        return f"“{match[0].strip()}” is no time to look back: 1 to 720 hours, or up to 3660 days."
    return fields, match.end()


def written_within(condition: Condition) -> str:
    """The reach as it is read, with a space before it; empty for ever."""
    parts = []
    if condition.days:
        parts.append(f"{condition.days} day{'s' if condition.days > 1 else ''}")
    if condition.hours:
        parts.append(f"{condition.hours} hour{'s' if condition.hours > 1 else ''}")
    return f" in {' and '.join(parts)}" if parts else ""
