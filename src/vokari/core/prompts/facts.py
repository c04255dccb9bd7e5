"""What flows know of prompts of the library."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from .kinds import Kind
from .spoken import Spoken, in_language
from .voices import Voice


@dataclass(frozen=True, slots=True)
class TakeFacts:
    """The newest take of a prompt in a language: its words, whether those were typed, proposed or confirmed, whether it is a recording,
    whether nobody has heard it, the voice that reads it (None: the flow's own), and what is wrong with a recording."""

    id: int
    number: int
    words: str
    words_are: str = "typed"
    is_recording: bool = False
    seconds: float = 0.0
    unheard: bool = False
    voice: Voice | None = None
    sound: str = ""
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PromptFacts:
    """A prompt: its name and kind, whether all clients share it, its newest takes by language, whether it ends soon or is over, its last
    day, and the key of what is heard from then on."""

    id: int
    name: str
    kind: Kind
    shared: bool = False
    takes: Mapping[str, TakeFacts] = field(default_factory=dict)
    ends: str = ""
    until: date | None = None
    fallback: str | None = None

    def words(self, language: str) -> str:
        """Its words as they are heard in a language."""
        take = self.take(language)
        return take.words if take else ""

    def take(self, language: str) -> TakeFacts | None:
        """The take that is heard in a language."""
        found = in_language({name: Spoken(one.words) for name, one in self.takes.items()}, language, language)
        return self.takes[found[0]] if found else None

    def speaks(self, language: str) -> bool:
        """Whether it has a take of a language, of whatever region."""
        return any(one.partition("-")[0] == language.partition("-")[0] for one in self.takes)
