"""Rows of prompts and takes, as they are shown."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ....core.prompts.document import LibraryPrompt
from ....core.prompts.voices import Voice
from ..problems import Row
from .base import View


@dataclass(frozen=True, slots=True)
class PromptView(View):
    """A prompt of the library, of a client or of the whole agency."""

    id: int
    agency_id: int
    client_id: int | None
    key: str
    document: Row
    name: str
    revision: int
    made_at: datetime
    changed_at: datetime
    removed_at: datetime | None

    @property
    def said(self) -> LibraryPrompt:
        """What is kept of it."""
        return LibraryPrompt.model_validate(self.document)


@dataclass(frozen=True, slots=True)
class TakeView(View):
    """A take of a prompt."""

    id: int
    prompt_id: int
    number: int
    language: str
    how: str
    words: str
    words_are: str
    voice: dict[str, Any] | None
    original: str
    original_name: str
    begins: float | None
    ends: float | None
    sound: str
    seconds: float
    measured: dict[str, Any] | None
    waveform: list[int]
    warnings: list[str]
    state: str
    problem: str
    made_at: datetime
    made_by: int | None
    spoken_by: str
    heard_at: datetime | None
    set_aside: bool

    @property
    def is_recording(self) -> bool:
        """Whether it is a recording, rather than words that a voice reads."""
        return self.how != "read"

    @property
    def own_voice(self) -> Voice | None:
        """The voice that reads it, None for the flow's own."""
        return Voice.model_validate(self.voice) if self.voice else None
