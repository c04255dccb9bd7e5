"""The small values that steps are made of: prompts, destinations, targets of exits.

Everything here is part of the stored flow format, so fields are added, never reshaped.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ...value import Value

END = "end"
"""Target of an exit after which the call ends because someone chose so."""

SAME = "same"
"""Target of a ring's busy, unreachable or nobody exit that goes where its no answer goes."""

StepId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
Target = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")] | None
Name = Annotated[str, Field(max_length=60)]
Words = Annotated[str, Field(max_length=4000)]
Key = Annotated[str, Field(pattern=r"^([0-9*#]|[0-9]{2,6})$")]
PhoneKey = Annotated[str, Field(pattern=r"^[0-9*#]$")]
Language = Annotated[str, Field(pattern=r"^[a-z]{2,3}(-[A-Z]{2})?$")]
StoredName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]


class Prompt(Value):
    """Something spoken: text read by a voice, a prompt of the library, or a recording.

    Exactly one of `say`, `prompt` and `recording` is normally filled; `say` may be empty in a draft.
    """

    say: Words = ""
    language: Language | None = None
    voice: str | None = None
    prompt: str | None = None
    recording: str | None = None

    def is_empty(self) -> bool:
        return not self.say.strip() and self.prompt is None and self.recording is None


class NumberDestination(Value):
    """A phone rung at an E.164 number, for its own number of seconds."""

    kind: Literal["number"] = "number"
    id: StepId
    name: Name = ""
    number: str = ""
    seconds: int = Field(default=20, ge=1, le=120)
    hours: str | None = None

    @property
    def dialed(self) -> str:
        """What the carrier dials."""
        return self.number


class SipDestination(Value):
    """A phone rung at a SIP address (RFC 3261)."""

    kind: Literal["sip"] = "sip"
    id: StepId
    name: Name = ""
    address: str
    seconds: int = Field(default=20, ge=1, le=120)
    hours: str | None = None

    @property
    def dialed(self) -> str:
        """What the carrier dials."""
        return self.address


class PersonDestination(Value):
    """A person of the client, rung at the numbers that the person has."""

    kind: Literal["person"] = "person"
    id: StepId
    name: Name = ""
    person: str
    seconds: int = Field(default=20, ge=1, le=120)
    weight: int = Field(default=1, ge=0, le=1000)


class TeamDestination(Value):
    """A team of the client, rung by the team's own strategy."""

    kind: Literal["team"] = "team"
    id: StepId
    name: Name = ""
    team: str
    seconds: int = Field(default=20, ge=1, le=120)


Destination = Annotated[
    NumberDestination | SipDestination | PersonDestination | TeamDestination, Field(discriminator="kind")
]


class Accept(Value):
    """The person who picks up must press `key` within `seconds` to take the call."""

    key: PhoneKey = "1"
    seconds: int = Field(default=8, ge=2, le=30)


class Hears(Value):
    """What the person hears first: nothing, a whisper, or the caller's spoken name. `words` are the whisper's, with
    {client}, {source} and {label} in them; or those that ask the caller for a name, where the usual ones will not do."""

    what: Literal["nothing", "whisper", "caller_name"] = "nothing"
    words: Annotated[str, Field(max_length=300)] = ""


class Recording(Value):
    """Whether an answered call is recorded: never, always, when the person asks for it, or so many calls in a hundred
    (`in_hundred`, for `sample` only)."""

    mode: Literal["off", "on", "on_demand", "sample"] = "off"
    in_hundred: int = Field(default=10, ge=1, le=99)

    @model_validator(mode="before")
    @classmethod
    def _older(cls, raw: Any) -> Any:
        """Drops `one_in`, which documents of before had and nothing ever read."""
        return {key: value for key, value in raw.items() if key != "one_in"} if isinstance(raw, dict) else raw


class NotifyTo(Value):
    """One receiver of a Notify step: a person, a recipient group, the caller, or an address."""

    kind: Literal["person", "group", "caller", "email", "number", "url"]
    of: str | None = None
