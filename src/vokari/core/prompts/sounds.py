"""Names of sounds: what tells one sound of words from another."""

import hashlib

from .voices import Voice


def name_of(words: str, language: str, voice: Voice, country: str) -> str:
    """The name of the sound of words, which follows from the words, the language, the voice, and the country whose telephones play it."""
    law = "u" if country in ("US", "CA") else "a"
    return hashlib.sha256(f"{language}\n{voice.key}\n{law}\n{words.strip()}".encode()).hexdigest()[:40]
