"""The ports to what is outside: clock, carrier, speech, post, files and the web."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Protocol

from ...formats.audio.telephone import Samples
from ...formats.call_control.records import CallStanding, Records


class Clock(Protocol):
    """The one source of the present."""

    def now(self) -> datetime:
        """The present instant, in UTC."""


class WallClock:
    """The machine's clock."""

    def now(self) -> datetime:
        return datetime.now(UTC)


@dataclass(frozen=True, slots=True)
class FreeNumber:
    """A number that a carrier offers: E.164, the place it belongs to, its kind, its prices in US dollars, and the
    documents that it asks for before the number works."""

    e164: str
    place: str
    kind: str
    country: str
    rent: str
    set_up: str
    asks: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class PortState:
    """A port as the carrier sees it: requested, documents, accepted, rejected, done or withdrawn. `moves_at` is the
    moment of the transfer, an RFC 3339 instant, empty while it is not known."""

    ref: str
    e164: str
    stage: str
    words: str
    asked_for: list[str]
    moves_at: str
    place: str
    kind: str
    rent: str
    set_up: str


class CarrierRefuses(Exception):
    """The carrier said no, with a sentence; `gone` when somebody else took the number first, or what was asked about is
    there no more."""

    def __init__(self, sentence: str, *, gone: bool = False) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.gone = gone


class CarrierPort(Protocol):
    """What a carrier can be asked. Each call raises CarrierRefuses when it says no or cannot be reached."""

    def search(
        self, *, country: str, area_code: str, place: str, kind: str, contains: str, limit: int
    ) -> list[FreeNumber]:
        """Free numbers that fit; empty words fit all."""

    def take(self, e164: str, *, fail_safe: str, key: str) -> FreeNumber:
        """Takes a number; a second try with the same key gives the same answer and costs nothing."""

    def take_many(self, keys: Mapping[str, str], *, fail_safe: str) -> dict[str, FreeNumber | str]:
        """Takes numbers, each with its own key as `take` does; for each what was taken, or in a sentence why it was not."""

    def give_back(self, e164: str, *, leaves: bool = False) -> None:
        """Gives up a number that was taken; `leaves`: it goes on at another carrier."""

    def give_document(self, e164: str, kind: str) -> list[str]:
        """Gives a document that was asked for; what is asked for still comes back."""

    def request_port(self, e164: str, *, account: str, key: str, fail_safe: str) -> PortState:
        """Asks for a number of another carrier; a second try with the same key is the same request."""

    def port(self, ref: str) -> PortState:
        """A port as it stands."""

    def give_port_document(self, ref: str, kind: str) -> PortState:
        """Gives a document that a port waits for."""

    def withdraw_port(self, ref: str) -> PortState:
        """Takes a request for a port back."""

    def set_fail_safe(self, e164: str, destination: str) -> None:
        """Names the destination that the carrier uses when Vokari does not answer."""

    def standing(self, refs: Sequence[str]) -> list[CallStanding]:
        """Which of these calls still exist, and how the others ended."""

    def records(self, after: int, *, fail_safe: bool, since: str = "", until: str = "") -> Records:
        """Calls that are over, from a number of the carrier's on and by their own clock between two RFC 3339 instants (empty:
        any); `fail_safe`: only those that it took there."""

    def poke(self, ref: str) -> None:
        """Asks for a `poked` event on a call."""

    def verify(self, ref: str, to: str, *, words: str, key: str) -> None:
        """Rings a phone, says the words and asks for the key; again with the same ref it is the same call."""

    def verification(self, ref: str) -> str:
        """What became of such a call: ringing, pressed, not_answered or not_pressed."""

    def ring(self, ref: str, to: str) -> None:
        """Rings a phone; once it is picked up, its call arrives with this reference. Again with the same one it is the same call."""

    def rung(self, ref: str) -> str:
        """What became of such a phone: ringing, answered, not_answered, busy, unreachable, or over."""

    def recording(self, name: str) -> bytes:
        """The sound of a recording, as a WAV file."""


class Unreachable(Exception):
    """A system cannot be asked: it does not answer, or its address is a private one."""


class WebPort(Protocol):
    """Asks systems on the web."""

    def get(self, url: str, sent: dict[str, str], seconds: float) -> tuple[int, str]:
        """The status and the body of an answer, within so many seconds. Raises Unreachable."""


class OfferedVoice(Protocol):
    """A voice: its name, the language it speaks (BCP 47, in small letters), and what it is called."""

    @property
    def name(self) -> str: ...

    @property
    def language(self) -> str: ...

    @property
    def called(self) -> str: ...


class SpeechPort(Protocol):
    """Makes sound of words."""

    def speak(self, ssml: str, language: str, voice: str = "", rate: int = 150) -> bytes:
        """A WAV file of an SSML document, read by a voice (empty: the usual one of the language) at so many words a minute. Raises
        ValueError for a language or voice that is none."""

    def voices(self) -> Sequence[OfferedVoice]:
        """The voices there are, each language's own together."""


class NotSound(Exception):
    """What came is no sound that can be read; says why in a sentence."""

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


class DecoderPort(Protocol):
    """Reads sounds of any kind."""

    def decode(self, content: bytes) -> Samples:
        """The samples of a sound at 16,000 a second, between -1 and 1. Raises NotSound."""


class TranscriberPort(Protocol):
    """Proposes the words of a recording."""

    def words(self, samples: Samples, language: str) -> str:
        """What was understood of samples at 16,000 a second; empty for nothing, and for a language it does not know."""


class PostPort(Protocol):
    """Sends mail and text messages."""

    def send(self, *, to: str, subject: str, body: str, key: str) -> None:
        """Sends one mail; one that was sent with the same key before is not sent again."""

    def text(self, *, to: str, words: str, key: str) -> None:
        """Sends one text message to an E.164 number, with a key as for mail."""


class FilesPort(Protocol):
    """Keeps files by their content."""

    def put(self, content: bytes, suffix: str) -> str:
        """Keeps a file and gives the name it is found by, which follows from its content."""

    def put_parts(self, parts: Iterable[bytes], suffix: str) -> str:
        """Keeps a file that comes in parts, of which no more than one is in memory."""

    def get(self, name: str) -> bytes:
        """The content of a file. Raises KeyError when there is none."""

    def parts(self, name: str) -> Iterator[bytes]:
        """The content of a file in parts. Raises KeyError when there is none."""

    def forget(self, name: str) -> None:
        """Forgets a file, if it is there."""


PORTS = ("carrier", "speech", "post", "files", "web", "decoder", "transcriber")
"""What is outside, and never asked inside a transaction."""
