"""One short line in plain words makes a step: "4 ring Boat lifts 25s", "say We are closed today", "back to 3"."""

import re
from dataclasses import dataclass
from typing import Any

from ...numbers import numbering

VERBS = {
    "say": "announcement", "says": "announcement", "announce": "announcement", "play": "announcement",
    "ask": "menu", "asks": "menu", "menu": "menu",
    "ring": "ring", "rings": "ring", "call": "ring",
    "hold": "hold_line", "holds": "hold_line", "queue": "hold_line",
    "voicemail": "voicemail", "message": "voicemail", "record": "voicemail",
    "tell": "notify", "tells": "notify", "notify": "notify",
    "look": "look_up", "lookup": "look_up",
    "label": "label", "tag": "label",
    "sort": "junction", "sorts": "junction", "hours": "junction",
    "back": "back_to",
    "bye": "hang_up", "end": "hang_up", "hang": "hang_up",
}  # fmt: skip

EXAMPLE = "4 ring Boat lifts 25s"


@dataclass(frozen=True, slots=True)
class Line:
    """A line that was understood: the key it stands behind (may be empty), the kind of step and its fields.

    `back_to` is the outline number that a "back to" names, 0 when none; `hours` the set that a junction sorts by, if one
    is named.
    """

    key: str
    kind: str
    fill: dict[str, Any]
    back_to: int = 0
    hours: str = ""


def read_line(text: str, country: str) -> Line | str:
    """Reads a line; a sentence says what was not understood. Phone numbers are read as ones of `country`."""
    words = text.strip()
    key = ""
    match = re.match(r"^([0-9*#]{1,6})[\s:.)]+(\S.*)$", words)
    if match:
        key, words = match.groups()
    verb, _, rest = words.partition(" ")
    kind = VERBS.get(verb.lower().rstrip(":"))
    rest = rest.strip()
    if kind is None:
        verbs = "say, ask, sort by, ring, hold, voicemail, label, tell, look up, back to, bye"
        return f"Begin with what happens: {verbs}. For instance: {EXAMPLE}."
    if kind == "ring":
        return _ring(key, rest, country)
    if kind == "back_to":
        number = re.match(r"^(?:to\s+)?(\d+)$", rest)
        return Line(key, kind, {}, int(number.group(1))) if number else "Say which step to go back to: back to 3."
    if kind == "junction":
        return Line(key, kind, {}, hours=re.sub(r"^(?:by\b\s*)?(?:hours\b\s*)?(?:of\b\s*)?", "", rest))
    if kind == "announcement":
        return Line(key, kind, {"name": _short(rest), "prompt": {"say": rest}})
    if kind == "menu":
        return Line(key, kind, {"name": _short(rest), "prompt": {"say": rest}})
    if kind == "hang_up":
        said = re.sub(r"^up\b\s*", "", rest)
        return Line(key, kind, {"name": _short(said) or "Goodbye", "prompt": {"say": said}})
    if kind == "label":
        return Line(
            key, kind, {"name": _short(rest), "labels": [one.strip() for one in rest.split(",") if one.strip()]}
        )
    if kind == "look_up":
        return Line(key, kind, {"name": _short(re.sub(r"^up\b\s*", "", rest)) or "Look-up"})
    if kind == "notify":
        return Line(key, kind, {"name": _short(rest) or "Notice"})
    if kind == "hold_line":
        return Line(key, kind, {"name": re.sub(r"^(?:for|line)\b\s*", "", rest)[:60] or "Hold line"})
    return Line(key, kind, {"name": rest[:60] or "Voicemail"})


def _ring(key: str, rest: str, country: str) -> Line | str:
    seconds = 20
    match = re.search(r"\b(\d{1,3})\s*s(?:ec(?:onds)?)?\.?$", rest)
    if match:
        seconds, rest = int(match.group(1)), rest[: match.start()].strip(" ,")
        if not 1 <= seconds <= 120:
            return "A phone is rung for 1 to 120 seconds."
    number = ""
    match = re.search(r"(\+?[\d(][\d\s().-]{6,})$", rest)
    if match:
        read = numbering.parse(match.group(1), country)
        if isinstance(read, numbering.Wrong):
            return read.sentence
        number, rest = read, rest[: match.start()].strip(" ,")
    name = rest[:60] or "Phone"
    fill: dict[str, Any] = {"name": name}
    if number:
        fill["to"] = [{"kind": "number", "id": "d1", "name": name, "number": number, "seconds": seconds}]
    return Line(key, "ring", fill)


def _short(text: str) -> str:
    words = re.sub(r"[“”\"]", "", text).split()
    return " ".join(words[:4])[:40].rstrip(".,;:?!")
