"""The small values that steps are made of: prompts, destinations, targets of exits.

Everything here is part of the stored flow format, so fields are added, never reshaped.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ...value import Value
from . import upgrades

END = "end"
"""Target of an exit after which the call ends because someone chose so."""

SAME = "same"
"""Target of a ring's busy, unreachable or nobody exit that goes where its no answer goes."""

StepId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
Target = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")] | None
Name = Annotated[str, Field(max_length=60)]
Note = Annotated[str, Field(max_length=2000)]
Words = Annotated[str, Field(max_length=4000)]
Key = Annotated[str, Field(pattern=r"^([0-9*#]|[0-9]{2,6})$")]
PhoneKey = Annotated[str, Field(pattern=r"^[0-9*#]$")]
Language = Annotated[str, Field(pattern=r"^[a-z]{2,3}(-[A-Z]{2})?$")]
StoredName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]


EXTENSION = "extension"
"""The name under which an extension that was dialed is kept."""
POSTAL_CODE = "postal_code"
"""The name under which a typed postal code is kept: it tells where somebody is before all that is known of them."""


class Prompt(Value):
    """Something spoken: words read by a voice, or a prompt of the library by its key, whose words `say` has as they were last seen: they
    are read where the library lacks it.

    `recording` is the name of a sound that is played in the place of the words; a running call fills it in.
    """

    say: Words = ""
    language: Language | None = None
    voice: str | None = None
    prompt: str | None = None
    recording: str | None = None

    def is_empty(self) -> bool:
        return not self.say.strip() and self.prompt is None and self.recording is None


Answered = Literal["picked_up", "dialed", "key", "service"]
"""What counts as answered at a phone: that it is picked up; that the digits behind its number were dialed; that somebody there
presses the accept key, also where the step asks nobody else for one; or that an answering service picks up, whose calls stay open."""
RingSeconds = Annotated[int, Field(ge=1, le=120)] | None
"""How long a phone rings; None: as long as `core.numbers.ringing` says."""


class NumberDestination(Value):
    """A phone rung at a number as `numbering.parse_dialed` gives it: E.164, and digits that are dialed once it picks up."""

    kind: Literal["number"] = "number"
    id: StepId
    name: Name = ""
    number: str = ""
    seconds: RingSeconds = None
    hours: str | None = None
    answered: Answered = "picked_up"

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
    seconds: RingSeconds = None
    hours: str | None = None
    answered: Answered = "picked_up"

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
    seconds: RingSeconds = None
    weight: int = Field(default=1, ge=0, le=1000)


class TeamDestination(Value):
    """A team of the client, rung by the team's own strategy."""

    kind: Literal["team"] = "team"
    id: StepId
    name: Name = ""
    team: str

    @model_validator(mode="before")
    @classmethod
    def _older(cls, raw: Any) -> Any:
        return upgrades.team(raw) if isinstance(raw, dict) else raw


class DialedDestination(Value):
    """Whoever has the extension that the caller dialed at a menu; nobody before one was dialed."""

    kind: Literal["dialed"] = "dialed"
    id: StepId
    name: Name = ""
    seconds: RingSeconds = None

    def person(self, key: str) -> PersonDestination:
        """The person in its place."""
        return PersonDestination(id=self.id, name=self.name, person=key, seconds=self.seconds)


Destination = Annotated[
    NumberDestination | SipDestination | PersonDestination | TeamDestination | DialedDestination,
    Field(discriminator="kind"),
]


class Accept(Value):
    """The person who picks up must press `key` within `seconds` to take the call."""

    key: PhoneKey = "1"
    seconds: int = Field(default=8, ge=2, le=30)


SAID_NAME = "{said name}"


class Hears(Value):
    """What the person hears first: a line of words with fields, empty for nothing. {said name} in it makes the flow ask the
    caller for a name, in the words of `asks` (empty: the usual ones)."""

    words: Annotated[str, Field(max_length=300)] = ""
    asks: Annotated[str, Field(max_length=300)] = ""

    @property
    def wants_name(self) -> bool:
        return SAID_NAME in self.words

    @model_validator(mode="before")
    @classmethod
    def _older(cls, raw: Any) -> Any:
        return upgrades.hears(raw) if isinstance(raw, dict) else raw


class Recording(Value):
    """What an answered call is recorded for: `none`; `all`, or all of some lead sources (`sources`, by key); `learn`, so many a
    week, spread over people and hours. In a call that is recorded to learn, or could be, `keep_key` keeps it; `pause_key` stops
    the recording and goes on with it."""

    purpose: Literal["none", "all", "learn"] = "none"
    sources: Annotated[tuple[str, ...], Field(max_length=200)] = ()
    per_week: Annotated[int, Field(ge=1, le=500)] = 5
    keep_key: PhoneKey | None = "*"
    pause_key: PhoneKey | None = "#"

    @model_validator(mode="before")
    @classmethod
    def _older(cls, raw: Any) -> Any:
        return upgrades.recording(raw) if isinstance(raw, dict) else raw

    @model_validator(mode="after")
    def _two_keys(self) -> "Recording":
        if self.keep_key is not None and self.keep_key == self.pause_key:
            raise ValueError("the key that keeps a recording and the one that pauses it are the same")
        return self


class NotifyTo(Value):
    """One receiver of a Notify step: a person, a recipient group, the caller, or an address."""

    kind: Literal["person", "group", "caller", "email", "number", "url"]
    of: str | None = None
