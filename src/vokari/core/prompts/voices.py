"""Voices: which voice reads words, how fast, and with what pauses between sentences."""

from typing import Annotated

from pydantic import Field

from ..value import Value

VoiceName = Annotated[str, Field(pattern=r"^([a-z]{2,3}(-[a-z0-9]{2,12}){0,3}(\+[a-zA-Z0-9]{1,12})?)?$", max_length=40)]
"""The name of a voice: a language or an accent of it, and a timbre behind a plus sign: en-gb+f2. Empty for the usual one."""


class Voice(Value):
    """A voice by its name, the words it reads in a minute, and the seconds of pause that it adds between sentences."""

    name: VoiceName = ""
    rate: Annotated[int, Field(ge=80, le=300)] = 150
    pause: Annotated[float, Field(ge=0, le=3)] = 0

    @property
    def key(self) -> str:
        """What tells one way of reading from another."""
        return f"{self.name} {self.rate} {self.pause:g}"


USUAL = Voice()
"""The voice of a flow for which nobody chose one."""


def speaks(name: str, language: str) -> bool:
    """Whether a voice is one of a language; the usual one is of any."""
    return not name or name.partition("+")[0].partition("-")[0] == language.partition("-")[0]


def for_language(voice: Voice, language: str) -> Voice:
    """The voice that reads words of a language: the voice itself where it speaks it, else the usual one of that language with the same
    timbre and at the same pace."""
    if speaks(voice.name, language):
        return voice
    _, plus, timbre = voice.name.partition("+")
    usual = language.lower() if language.startswith("en-") else language.partition("-")[0]
    return voice.model_copy(update={"name": f"{usual}{plus}{timbre}" if plus else ""})
