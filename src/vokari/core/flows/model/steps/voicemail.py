"""Voicemail: keeps a message in a mailbox."""

from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field

from ..callee import time_words
from ..exits import Around, Exit, Has, Named, Played, Renaming, Slip
from ..step import StepBase
from ..values import END, PhoneKey, Prompt, Target


class Voicemail(StepBase):
    """Keeps a message in a mailbox. `stop_silence` is the silence in seconds that ends the recording."""

    title = "Voicemail"
    when = "Takes a message where nobody can answer, and says who is told of it."
    verbs = ("voicemail", "message", "record")
    ways = (("message_left", "message left"), ("no_message", "no message"))
    silent = ("no_message",)

    kind: Literal["voicemail"] = "voicemail"
    mailbox: str | None = None
    greeting: Prompt = Prompt()
    beep: bool = True
    longest: int = Field(default=120, ge=5, le=600)
    stop_key: PhoneKey | None = "#"
    stop_silence: int | None = Field(default=5, ge=2, le=30)
    message_left: Target = None
    no_message: Target = None

    def may_end(self, way: Exit) -> bool:
        return True

    def is_told(self, way: Exit) -> bool:
        return way.target == END

    def names(self) -> Iterator[Named]:
        if self.mailbox:
            yield Named("mailbox", self.mailbox, called=f"the mailbox of “{self.called}”")

    def renamed(self, to: Renaming) -> Self:
        return self.model_copy(update={"mailbox": to("mailbox", self.mailbox)}) if self.mailbox else self

    def plays(self) -> Iterator[Played]:
        yield Played("greeting", self.greeting, "the greeting")

    def in_words(self, around: Around) -> str:
        where = (around.mailboxes or {}).get(self.mailbox or "")
        kept = "keeps a message" if around.mailboxes is None and self.mailbox else "has no mailbox yet"
        parts = [f"keeps a message in {where}" if where else kept]
        if self.beep:
            parts.append("beep")
        parts.append(f"up to {time_words(self.longest)}")
        if self.stop_key:
            parts.append(f"{self.stop_key} ends it")
        if self.message_left == END and self.no_message == END:
            parts.append("then the call ends")
        return ", ".join(parts)

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
        if self.mailbox is None or self.mailbox not in has.mailboxes:
            yield Slip("no_mailbox", f"{self.begins} has no mailbox: the message would lie nowhere.")
        elif not has.mailboxes[self.mailbox]:
            yield Slip("untold", f"{self.begins} lands in a mailbox that tells nobody: name an email for it.")
