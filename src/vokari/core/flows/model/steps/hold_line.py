"""Hold line: callers wait in order of arrival for the next free person of a team."""

import re
from collections.abc import Iterator, Mapping
from typing import Literal, Self

from pydantic import Field

from ..callee import recorded_sources, renamed_sources, taking_slips, taking_words, time_words
from ..exits import Around, Exit, Has, Named, Played, Renaming, Slip, Typed
from ..step import StepBase
from ..values import END, Accept, Hears, Name, PhoneKey, Prompt, Recording, Target


class HoldLine(StepBase):
    """Callers wait in order of arrival for the next free person of a team. Position and wait are said when the caller
    comes, then every so many seconds (`announce_every`; None: not again), in the words of `tells`, if there are any."""

    title = "Hold line"
    when = "Keeps callers waiting, in order, until somebody of a team is free."
    verbs = ("hold", "holds", "queue")
    ways = (
        ("waited", "waited too long"), ("full", "line full"), ("left", "left by key"), ("nobody", "nobody available"),
        ("after", "after the call"),
    )  # fmt: skip
    onward = "waited"
    silent = ("waited", "full", "nobody")
    follows = ("waited", "full", "nobody")

    kind: Literal["hold_line"] = "hold_line"
    team: str = ""
    team_name: Name = ""
    longest_wait: int = Field(default=300, ge=10, le=7200)
    most_callers: int = Field(default=20, ge=1, le=500)
    announce_every: int | None = Field(default=60, ge=15, le=600)
    says_position: bool = True
    says_wait: bool = True
    tells: Prompt | None = None
    music: Prompt | None = None
    leave_key: PhoneKey | None = None
    shows: Literal["caller", "tracking_number"] = "caller"
    accept: Accept | None = None
    machine_detection: bool = False
    hears: Hears = Hears()
    recording: Recording = Recording()
    after: Target = END
    waited: Target = None
    full: Target = None
    left: Target = None
    nobody: Target = None

    def may_end(self, way: Exit) -> bool:
        return way.id == "after"

    def is_told(self, way: Exit) -> bool:
        return (way.id == "after" and way.target == END) or (way.id == "left" and not self.leave_key)

    def names(self) -> Iterator[Named]:
        if self.team:
            yield Named("team", self.team)
        yield from recorded_sources(self)

    def renamed(self, to: Renaming) -> Self:
        team = (to("team", self.team) or "") if self.team else ""
        recording = renamed_sources(self.recording, to)
        kept = {"team": team, "team_name": ""} if team != self.team else {}
        return self.model_copy(update={**kept, "recording": recording})

    def under_names(self, names: Mapping[str, str]) -> Self:
        name = names.get(self.team, "a team that is gone") if self.team else self.team_name
        return self.model_copy(update={"team_name": name})

    def plays(self) -> Iterator[Played]:
        if self.tells is not None:
            yield Played("tells", self.tells, "what callers who wait are told")
        if self.music is not None:
            yield Played("music", self.music, "what is played to callers who wait")

    def in_words(self, around: Around) -> str:
        if not self.team:
            return "holds callers for nobody yet"
        parts = [f"holds callers for {self.team_name or 'a team'}", f"at most {time_words(self.longest_wait)}"]
        parts.append(f"{self.most_callers} callers")
        if self.said:
            every = f"every {self.announce_every} s" if self.announce_every else "once"
            parts.append(f"says {self.said} {every}")
        if self.leave_key:
            parts.append(f"{self.leave_key} leaves")
        return ", ".join([*parts, *taking_words(self)])

    @property
    def said(self) -> str:
        """What callers are told while they wait, in words; empty for nothing."""
        if self.tells is not None and not self.tells.is_empty():
            return f"“{self.tells.say.strip()}”"
        return " and ".join(words for words, on in (("place", self.says_position), ("wait", self.says_wait)) if on)

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed:
        return Typed({"name": re.sub(r"^(?:for|line)\b\s*", "", rest)[:60] or cls.title})

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
        yield from taking_slips(self, rings=bool(self.team))
        if not self.team:
            yield Slip("rings_nobody", f"{self.begins} holds callers for nobody: choose a team.")

    def unsupported(self) -> Iterator[tuple[str, str]]:
        if self.hears.wants_name:
            yield "hears", "a caller’s name is asked for in a Ring step only"
