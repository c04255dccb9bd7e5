"""What a prompt of the library is at a moment: in each language its words, and a recording or the voice that reads them."""

from collections.abc import Mapping
from dataclasses import dataclass

from .voices import Voice


@dataclass(frozen=True, slots=True)
class Spoken:
    """A take as it is heard: its words, the name of the recording's sound (empty where a voice reads the words), and that voice, None for
    the flow's own."""

    words: str
    sound: str = ""
    voice: Voice | None = None


Takes = Mapping[str, Mapping[str, Spoken]]
"""By key of the prompt and language what is heard."""


def in_language(takes: Mapping[str, Spoken], language: str, home: str) -> tuple[str, Spoken] | None:
    """The take that a caller of a language hears, and its language: of that language and region, of the language, of the flow's own, else
    the first there is; None where there is none."""
    short = language.partition("-")[0]
    for wanted in (language, *(one for one in takes if one.partition("-")[0] == short), home, *takes):
        if wanted in takes:
            return wanted, takes[wanted]
    return None
