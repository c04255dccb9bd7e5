"""The words that new steps come with, so that none begins as a silence; a finding asks to make them the client's own."""

WORDS = {
    "voicemail": {
        "en": "Nobody can take your call right now. Please leave your name, your number and a message after the beep.",
        "es": "Ahora no podemos atenderle. Deje su nombre, su número y un mensaje después del tono.",
    },
}
"""By kind of step and language; a kind that is not here begins with no words."""
FIELDS = {"voicemail": "greeting"}
"""The field of each kind that takes the words."""


def fill(kind: str, language: str) -> dict[str, dict[str, str]]:
    """The fields that a new step of a kind comes with in a flow of a language."""
    words = WORDS.get(kind)
    return {FIELDS[kind]: {"say": words.get(language.split("-")[0], words["en"])}} if words else {}


def is_shipped(say: str) -> bool:
    """Whether words are still those that a step came with."""
    return any(say.strip() in words.values() for words in WORDS.values())
