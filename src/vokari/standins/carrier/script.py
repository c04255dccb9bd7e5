"""What is to happen on a call that is placed: who calls, the keys, how each phone behaves; and where Vokari and the register are."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal, Protocol

from pydantic import Base64Bytes, BaseModel, ConfigDict, Field

from ...formats.call_control import messages as wire
from ...formats.call_control.pacing import Behavior
from ...formats.call_control.records import FailSafeUse


class PhoneScript(BaseModel):
    """How a phone behaves when rung: after so many seconds, for so many seconds of talk. `keeps`: the person presses the key that
    keeps the recording, where there is one; `paused`: from which to which second of the talk they have it stopped."""

    model_config = ConfigDict(extra="forbid")

    behavior: Behavior = "answers"
    after: float = Field(default=6, ge=0, le=600)
    talk: float = Field(default=20, ge=0, le=7200)
    accepts: bool = True
    keeps: bool = False
    paused: list[tuple[float, float]] = Field(default=[], max_length=20)


class MessageScript(BaseModel):
    """What the caller says at a voicemail, for how long, and how they end it; `recording` is a WAV of it, in base64."""

    model_config = ConfigDict(extra="forbid")

    voice: float = Field(default=8, ge=0, le=600)
    then: Literal["hang_up", "key", "silence"] = "hang_up"
    words: str = "Hello, I saw your number and would like to know more. Please call me back. Thank you."
    recording: Base64Bytes = b""


class CallScript(BaseModel):
    """A call to place: who calls which number, the keys pressed at which second, and how each phone behaves. `answers` are keys pressed
    one each time the caller is waited for; `sound`: the line carries real sound both ways; `rung` is the reference of a phone that the
    application had rung."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    caller: wire.E164 | None = Field(default=None, alias="from")
    called: wire.E164 = Field(alias="to")
    press: list[tuple[float, str]] = []
    answers: list[str] = []
    sound: bool = False
    rung: str = ""
    hangs_up: float | None = None
    phones: dict[str, PhoneScript] = {}
    other_phones: PhoneScript = PhoneScript(behavior="rings_out")
    message: MessageScript = MessageScript()
    speed: Literal["real", "fast"] = "real"
    at: wire.Moment | None = None


@dataclass(frozen=True, slots=True)
class Vokari:
    """Where events go and how they are signed."""

    url: str
    carrier: str
    secret: bytes


class Watched(Protocol):
    """Where a line tells how it stands (see `register`)."""

    def begin(self, ref: str, caller: str | None, called: str, at: datetime) -> None: ...

    def told(self, ref: str, at: datetime) -> None: ...

    def talks(self, ref: str, *, mailbox: bool) -> None: ...

    def leaves(self, ref: str) -> None: ...

    def end(
        self, ref: str, at: datetime, by: str, fail_safe: FailSafeUse | None, untold: Sequence[wire.EventMessage]
    ) -> None: ...
