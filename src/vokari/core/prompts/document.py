"""A prompt of the library, as it is kept; its words and recordings are takes of it."""

from datetime import date
from typing import Annotated

from pydantic import Field

from ..value import Value
from .kinds import Kind

PromptKey = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
PromptName = Annotated[str, Field(min_length=1, max_length=60)]


class LibraryPrompt(Value):
    """A prompt: its name and kind, a note, and, if wanted, the last day on which it is true and the key of another that is heard from the
    day after."""

    name: PromptName
    kind: Kind = "greeting"
    note: Annotated[str, Field(max_length=2000)] = ""
    true_until: date | None = None
    fallback: PromptKey | None = None
