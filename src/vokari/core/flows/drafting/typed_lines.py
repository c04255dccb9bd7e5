"""One short line in plain words makes a step: "4 ring Boat lifts 25s", "say We are closed today", "back to 3"."""

import re
from dataclasses import dataclass
from typing import Any

from ..model.steps import KINDS

VERBS = {verb: name for name, kind in KINDS.items() for verb in kind.verbs}
"""What a line can begin with, and the kind of step that it makes."""
EXAMPLE = "4 ring Boat lifts 25s"


@dataclass(frozen=True, slots=True)
class Line:
    """A line that was understood: the key it stands behind (may be empty), the kind of step and its fields.

    `back_to` is the outline number that a "back to" names, 0 when none; `hours` the set that a junction sorts by, if one
    is named; `seconds` how long to ring, 0 where nothing is said; `flow` the name of the flow that is continued in.
    """

    key: str
    kind: str
    fill: dict[str, Any]
    back_to: int = 0
    hours: str = ""
    seconds: int = 0
    flow: str = ""


def read_line(text: str, country: str) -> Line | str:
    """Reads a line; a sentence says what was not understood. Phone numbers are read as ones of `country`."""
    words = text.strip()
    key = ""
    match = re.match(r"^([0-9*#]{1,6})[\s:.)]+(\S.*)$", words)
    if match:
        key, words = match.groups()
    verb, _, rest = words.partition(" ")
    kind = VERBS.get(verb.lower().rstrip(":"))
    if kind is None:
        verbs = (
            "say, ask, type, sort by, ring, hold, voicemail, label, tell, look up, continue in, come back, back to, bye"
        )
        return f"Begin with what happens: {verbs}. For instance: {EXAMPLE}."
    typed = KINDS[kind].from_line(rest.strip(), country)
    if isinstance(typed, str):
        return typed
    return Line(key, kind, typed.fill, typed.back_to, typed.hours, typed.seconds, typed.flow)
