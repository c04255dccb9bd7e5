"""Ring: reaches people at phones, by a strategy."""

import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any, Literal, Self

from pydantic import Field

from ....numbers import numbering
from ....numbers.ringing import in_rings, usual_seconds
from ....value import Value
from ..callee import recorded_sources, renamed_sources, taking_slips, taking_words
from ..exits import Around, Exit, Has, Named, Played, Renaming, Slip, Typed
from ..step import StepBase
from ..values import (
    END,
    SAME,
    Accept,
    Destination,
    DialedDestination,
    Hears,
    NumberDestination,
    PersonDestination,
    Prompt,
    Recording,
    SipDestination,
    Target,
    TeamDestination,
)

STRATEGIES = {"all_at_once": "all at once", "in_order": "in order"}
OF_TEAMS = ("weighted_share", "rota")
"""Strategies that only a team has."""


class LastSpoke(Value):
    """Try first whom this caller spoke with last, if that was within so many days."""

    days: int = Field(default=90, ge=1, le=3660)


class Ring(StepBase):
    """Reaches people at phones, by a strategy. `busy`, `unreachable` and `nobody` may go where `no_answer` goes."""

    title = "Ring"
    when = "Reaches people: a phone, a person, a team."
    verbs = ("ring", "rings", "call")
    ways = (
        ("no_answer", "no answer"), ("busy", "busy"), ("unreachable", "unreachable"), ("nobody", "nobody available"),
        ("after", "after the call"),
    )  # fmt: skip
    onward = "no_answer"
    silent = ("no_answer", "busy", "unreachable", "nobody")
    follows = ("no_answer",)

    kind: Literal["ring"] = "ring"
    to: tuple[Destination, ...] = Field(default=(), max_length=20)
    strategy: Literal["all_at_once", "in_order", "round_robin", "weighted_share", "random", "longest_idle", "rota"] = (
        "in_order"
    )
    rounds: int = Field(default=1, ge=1, le=10)
    limit: int | None = Field(default=None, ge=5, le=600)
    last_spoke: LastSpoke | None = None
    shows: Literal["caller", "tracking_number"] = "caller"
    hears: Hears = Hears()
    accept: Accept | None = None
    machine_detection: bool = False
    recording: Recording = Recording()
    hold_sound: Prompt | None = None
    after: Target = END
    no_answer: Target = None
    busy: Target = SAME
    unreachable: Target = SAME
    nobody: Target = SAME

    @cached_property
    def is_plain(self) -> bool:
        """Whether it rings numbers of its own, all at once or in order. What else is rung is asked for as a line-up."""
        numbers = all(isinstance(one, NumberDestination) for one in self.to)
        return numbers and self.last_spoke is None and self.strategy in ("all_at_once", "in_order")

    @property
    def made_name(self) -> str:
        return self.rung[:60]

    def may_end(self, way: Exit) -> bool:
        return way.id == "after"

    def is_told(self, way: Exit) -> bool:
        return way.target == SAME or (way.id == "after" and way.target == END)

    def names(self) -> Iterator[Named]:
        for one in self.to:
            match one:
                case PersonDestination():
                    yield Named("person", one.person)
                case TeamDestination():
                    yield Named("team", one.team)
                case NumberDestination() | SipDestination():
                    if one.dialed:
                        yield Named("phone", one.dialed, called=one.name)
                    if one.hours:
                        yield Named("hours", one.hours, called=one.name or one.dialed)
        yield from recorded_sources(self)

    def renamed(self, to: Renaming) -> Self:
        """Of two destinations that become one, one is left."""
        found: dict[str, Destination] = {}
        for one in self.to:
            other = _renamed(one, to)
            if other is not None:
                found.setdefault(_whose(other), other)
        return self.model_copy(update={"to": tuple(found.values()), "recording": renamed_sources(self.recording, to)})

    def under_names(self, names: Mapping[str, str]) -> Self:
        return self.model_copy(update={"to": tuple(_under_name(one, names) for one in self.to)})

    def plays(self) -> Iterator[Played]:
        if self.hold_sound is not None:
            yield Played("hold_sound", self.hold_sound, "what is played while it rings")

    def in_words(self, around: Around) -> str:
        if not self.to:
            return "rings nobody yet"
        parts = [f"rings {self.rung}" if self.name else "rings"]
        if len(self.to) > 1:
            parts.append(STRATEGIES.get(self.strategy, self.strategy.replace("_", " ")))
        if each := self._each():
            parts.append(each)
        if self.rounds > 1:
            parts.append(f"{self.rounds} rounds")
        if self.limit:
            parts.append(f"{self.limit} s in all")
        if self.last_spoke:
            parts.append(f"first whom they spoke with in {self.last_spoke.days} days")
        return ", ".join([*parts, *taking_words(self)])

    @property
    def rung(self) -> str:
        """Who is rung, in words; empty for nobody."""
        names = [str(one.name or getattr(one, "dialed", "") or "a phone") for one in self.to]
        return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else "".join(names)

    def _each(self) -> str:
        """How long each phone rings, in words; empty where that is a matter of each person or team."""
        phones = [one for one in self.to if not isinstance(one, TeamDestination)]
        seconds = {
            one.seconds or usual_seconds(one.dialed) if hasattr(one, "dialed") else one.seconds for one in phones
        }
        if len(seconds) > 1:
            return "each its own time"
        every = next(iter(seconds), None)
        where = next((one.dialed for one in phones if isinstance(one, NumberDestination)), "")
        return f"{in_rings(every, where)}{' each' if len(self.to) > 1 else ''}" if every else ""

    @classmethod
    def from_line(cls, rest: str, country: str) -> Typed | str:
        seconds = 0
        match = re.search(r"\b(\d{1,3})\s*s(?:ec(?:onds)?)?\.?$", rest)
        if match:
            seconds, rest = int(match.group(1)), rest[: match.start()].strip(" ,")
            if not 1 <= seconds <= 120:
                return "A phone is rung for 1 to 120 seconds."
        number = ""
        match = re.search(r"(\+?[\d(][\d\s().-]{6,}(?:\s*(?:[;,#]|ext|x).*)?)$", rest)
        if match:
            read = numbering.parse_dialed(match.group(1), country)
            if isinstance(read, numbering.Wrong):
                return read.sentence
            number, rest = read, rest[: match.start()].strip(" ,")
        name = rest[:60] or "Phone"
        fill: dict[str, Any] = {"name": name}
        if number:
            fill["to"] = [{"kind": "number", "id": "d1", "name": name, "number": number, "seconds": seconds or None}]
        return Typed(fill, seconds=seconds)

    def slips(self, has: Has) -> Iterator[Slip]:
        yield from self.without_words()
        if not self.to:
            yield Slip("rings_nobody", f"{self.begins} rings nobody: add a phone.")
        for one in self.to:
            if isinstance(one, NumberDestination):
                yield from self._slips_of(one, has)
        yield from taking_slips(
            self, rings=any(getattr(one, "answered", "") not in ("key", "service") for one in self.to)
        )

    def _slips_of(self, one: NumberDestination, has: Has) -> Iterator[Slip]:
        who = one.name or one.number or "a phone"
        problem = numbering.problem_of(one.number)
        if problem:
            yield Slip("bad_number", f"{self.begins} rings {who}: {problem}")
        elif numbering.parted(one.number)[0] in has.tracking_numbers:
            sentence = f"{self.begins} rings {who}, which is a tracking number: the call would come round again."
            yield Slip("rings_itself", sentence)
        digits = numbering.parted(one.number)[1]
        if digits and one.answered == "picked_up":
            sentence = f"{self.begins} rings {who} through a phone system, whose picking up counts as answered."
            yield Slip("attendant", sentence, weight="asks")
        elif not digits and one.answered == "dialed":
            yield Slip(
                "attendant", f"{self.begins} rings {who}, and no digits to dial stand behind the number.", weight="asks"
            )

    def unsupported(self) -> Iterator[tuple[str, str]]:
        if self.strategy in OF_TEAMS:
            strategy = self.strategy.replace("_", " ")
            yield "strategy", f"the strategy {strategy} is a team’s: make a team and ring it here"


def _whose(one: Destination) -> str:
    """What tells two destinations apart once they are renamed: the person or team, else the destination itself."""
    match one:
        case PersonDestination():
            return one.person
        case TeamDestination():
            return one.team
    return one.id


def _renamed(one: Destination, to: Renaming) -> Destination | None:
    match one:
        case PersonDestination():
            key = to("person", one.person)
            return one.model_copy(update={"person": key}) if key else None
        case TeamDestination():
            key = to("team", one.team)
            return one.model_copy(update={"team": key}) if key else None
        case DialedDestination():
            return one
    if not one.dialed:
        return one
    dialed = to("phone", one.dialed)
    hours = to("hours", one.hours) if one.hours else None
    return at_phone(one, dialed).model_copy(update={"hours": hours}) if dialed else None


def at_phone(one: NumberDestination | SipDestination, to: str) -> NumberDestination | SipDestination:
    """The same destination at another number or SIP address."""
    if to == one.dialed:
        return one
    known = one.model_dump(include={"id", "name", "seconds", "hours", "answered"})
    return SipDestination(**known, address=to) if to.startswith("sip") else NumberDestination(**known, number=to)


def _under_name(one: Destination, names: Mapping[str, str]) -> Destination:
    match one:
        case DialedDestination():
            return one.model_copy(update={"name": "whose extension was dialed"})
        case PersonDestination():
            return one.model_copy(update={"name": names.get(one.person, "somebody who is gone")})
        case TeamDestination():
            return one.model_copy(update={"name": names.get(one.team, "a team that is gone")})
    return one
