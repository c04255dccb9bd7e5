"""Kinds of prompt, by the moment of a call at which they are heard."""

from typing import Literal

Kind = Literal["greeting", "menu", "message", "retry", "goodbye", "notice", "whisper", "hold_music", "sound"]
KINDS: dict[Kind, str] = {
    "greeting": "Greeting", "menu": "Menu", "message": "Message", "retry": "Retry", "goodbye": "Goodbye", "notice": "Notice",
    "whisper": "Whisper", "hold_music": "Hold music", "sound": "Sound",
}  # fmt: skip
"""What each kind is called."""
SPOKEN: frozenset[str] = frozenset(KINDS) - {"hold_music", "sound"}
"""The kinds that are words; the others are sound alone."""
LONGEST_HEARD: dict[Kind, int] = {
    "greeting": 20, "menu": 30, "message": 60, "retry": 15, "goodbye": 15, "notice": 20, "whisper": 8, "hold_music": 600, "sound": 30,
}  # fmt: skip
"""Seconds after which callers hang up or cut what they hear, by kind. Common practice, no source."""


def kind_of(step: str, field: str) -> Kind:
    """The kind of a prompt that stands in a field of a kind of step."""
    if field.startswith("retry"):
        return "retry"
    if field in ("music", "hold_sound"):
        return "hold_music"
    if step in ("menu", "keypad_entry"):
        return "menu"
    if step == "hang_up":
        return "goodbye"
    return "greeting" if step == "voicemail" else "message"
