"""Names of tracking numbers by a client's pattern, such as "{place}, {source}, {campaign}"."""

import re
from collections.abc import Collection, Mapping

FIELDS = {
    "client": "the client’s name", "place": "the number’s place", "source": "the lead source’s name",
    "medium": "its medium", "campaign": "its campaign", "placement": "its placement", "end": "the last four digits",
}  # fmt: skip
"""What can stand in a pattern, with the words that explain it."""

EXAMPLE = "{place}, {source}, {campaign}"
LONGEST = 80
_FIELD = re.compile(r"\{(\w*)\}")


def problem_of(pattern: str) -> str:
    """Why a pattern cannot be used, as a sentence; empty when it can."""
    unknown = [name for name in _FIELD.findall(pattern) if name not in FIELDS]
    if unknown:
        return f"“{{{unknown[0]}}}” is no field: use {', '.join('{' + name + '}' for name in FIELDS)}."
    if pattern.strip() and not _FIELD.search(pattern):
        return "A pattern names at least one field, or every number would have the same name."
    if "{" in _FIELD.sub("", pattern) or "}" in _FIELD.sub("", pattern):
        return "A field stands between one { and one }."
    return "" if len(pattern) <= LONGEST else f"At most {LONGEST} letters."


def fill(pattern: str, facts: Mapping[str, str]) -> str:
    """The name that a pattern gives. A field without a value goes, with the punctuation that led to it."""
    parts = _FIELD.split(pattern)
    made = ""
    for index in range(0, len(parts) - 1, 2):
        between, value = parts[index], facts.get(parts[index + 1], "").strip()
        if value:
            made += (between if made or index == 0 else re.sub(r"^[\s,;:/|·–-]+", "", between)) + value
    return " ".join((made + (parts[-1] if made else "")).split())[:LONGEST].rstrip(" ,;:/|·–-")


def unique(name: str, end: str, taken: Collection[str]) -> str:
    """The name, or the name with the number's last digits where another number has it already."""
    if name.lower() not in {one.lower() for one in taken}:
        return name
    return f"{name[: LONGEST - len(end) - 3]} ({end})"


def strays(name: str, pattern: str, facts: Mapping[str, str]) -> bool:
    """Whether a name is neither what the pattern gives nor that with the last digits behind it."""
    wanted = fill(pattern, facts)
    return bool(pattern.strip()) and bool(wanted) and name not in (wanted, f"{wanted} ({facts.get('end', '')})")
