"""What a line can begin with besides a statement: a key, the name of an exit, opening times."""

import re

from ...hours.typed import read_week
from .nodes import NEW_PERIOD, NewHours

KEY = re.compile(r"^(?:(?:key|press)\s+)?([0-9]{1,6}|[*#]|star|pound|hash)(?:\s*[.):]|(?=\s)|$)\s*(.*)$", re.I)
KEYS = {"star": "*", "pound": "#", "hash": "#"}
EXIT_WORDS: dict[str, dict[str, str]] = {
    "menu": {"silent": "nothing", "nothing pressed": "nothing", "nothing": "nothing", "wrong key": "wrong", "wrong": "wrong",
             "extension dialed": "extension", "extension": "extension"},
    "keypad_entry": {
        "typed": "typed", "nothing typed": "nothing", "nothing": "nothing", "silent": "nothing", "wrong entry": "wrong", "wrong": "wrong",
    },
    "ring": {
        "no answer": "no_answer", "busy": "busy", "unreachable": "unreachable", "nobody available": "nobody", "nobody": "nobody",
        "off duty": "nobody", "after the call": "after", "after": "after",
    },
    "hold_line": {
        "waited too long": "waited", "waited": "waited", "line full": "full", "full": "full", "left by key": "left",
        "nobody available": "nobody", "nobody": "nobody", "after the call": "after", "after": "after",
    },
    "voicemail": {"message left": "message_left", "no message": "no_message"},
    "junction": {"otherwise": "otherwise"},
    "look_up": {"not found": "not_found", "found": "found", "failed": "failed"},
}  # fmt: skip
"""The names of exits as they are typed, by kind of step; the first of each is written."""
ELSE: dict[str, tuple[str, ...]] = {
    "menu": ("nothing", "wrong"), "keypad_entry": ("nothing", "wrong"), "ring": ("no_answer",), "junction": ("otherwise",), "hold_line": ("waited", "full", "nobody"),
    "voicemail": ("no_message",), "announcement": ("next",), "label": ("next",),
    "notify": ("next",), "look_up": ("not_found", "failed"),
}  # fmt: skip
"""The exits that "else" names."""

OPEN_WORD = re.compile(r"^open(?:\s*,?\s+(.*\d.*|.*\b(?:daily|always)\b.*))?$", re.I)
HOURS_WORD = re.compile(r"^(?:hours|opening (?:hours|times))\s*:?\s+(.+)$", re.I)


def is_head(text: str) -> bool:
    """Whether a text names an exit of some step, or begins a line of another kind."""
    names = {name for exits in EXIT_WORDS.values() for name in exits} | {
        "else",
        "otherwise",
        "open",
        "closed",
        "everyone else",
    }
    return any(re.match(rf"{name}\b", text, re.I) for name in names) or bool(KEY.match(text) or HOURS_WORD.match(text))


def opening_times(words: str, at: int) -> NewHours | None:
    """The opening times that a line tells: “open Mon-Fri 9-17”, “hours: Mon-Fri 9-17”, with or without what happens then."""
    head = re.split(r":(?=\s|$)", words, maxsplit=1)[0] if not HOURS_WORD.match(words) else words
    match = HOURS_WORD.match(head) or OPEN_WORD.match(head.strip())
    week = read_week(match[1], NEW_PERIOD) if match and match[1] else ""
    return None if isinstance(week, str) else NewHours(week, at)
