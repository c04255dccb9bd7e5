"""What a line can name: the client's people, teams, mailboxes, hours and lead sources, by the names that they have now."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from rapidfuzz.fuzz import ratio
from rapidfuzz.process import extract

from ..conditions.base import HoursNames, Names

NEAR = 70
"""How like a name must be to be offered, of 100 (RapidFuzz’s ratio)."""
Kind = Literal["person", "team", "mailbox"]


@dataclass(frozen=True, slots=True)
class Found:
    """Something that a name stands for, and its name as it is written."""

    kind: Kind
    key: str
    name: str


@dataclass(frozen=True, slots=True)
class InnerFlow:
    """Another flow of the client: what it is called, and the names of the ways by which it comes back."""

    name: str
    ways: tuple[str, ...] = ()


@dataclass(frozen=True)
class Known:
    """Names by key. `hours` are what conditions can name, `weeks` their open times as text, `phones` the numbers of people, each with
    their key; `kept` are names under which the flow keeps values, `flows` the client's other flows; phone numbers are read as ones of
    `country`, seven digits as ones of `area_code`."""

    people: Mapping[str, str] = field(default_factory=dict)
    teams: Mapping[str, str] = field(default_factory=dict)
    mailboxes: Mapping[str, str] = field(default_factory=dict)
    sources: Mapping[str, str] = field(default_factory=dict)
    hours: Mapping[str, HoursNames] = field(default_factory=dict)
    weeks: Mapping[str, str] = field(default_factory=dict)
    phones: Mapping[str, str] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)
    areas: Mapping[str, str] = field(default_factory=dict)
    flows: Mapping[str, InnerFlow] = field(default_factory=dict)
    kept: tuple[str, ...] = ()
    country: str = "US"
    area_code: str = ""

    @cached_property
    def names(self) -> Names:
        """What conditions can name."""
        return Names(self.hours, self.people, self.sources, self.places, self.areas, self.kept, self.country)

    @cached_property
    def everything(self) -> list[Found]:
        """All that can be rung or keeps messages, the longest names first; of equal names teams before people before mailboxes."""
        kinds: tuple[tuple[Kind, Mapping[str, str]], ...] = (
            ("team", self.teams), ("person", self.people), ("mailbox", self.mailboxes),
        )  # fmt: skip
        found = [Found(kind, key, name) for kind, names in kinds for key, name in names.items()]
        return sorted(found, key=lambda one: -len(one.name))

    @cached_property
    def _by_first(self) -> Mapping[str, list[tuple[str, Found]]]:
        found: dict[str, list[tuple[str, Found]]] = {}
        for one in self.everything:
            found.setdefault(_first(one.name.casefold()), []).append((one.name.casefold(), one))
        return found

    def flow(self, text: str) -> str:
        """The key of the flow that a text names; empty for none."""
        folded = text.strip(" .").casefold()
        return next((key for key, one in self.flows.items() if one.name.casefold() == folded), "")

    def begins(self, text: str, *kinds: Kind) -> Found | None:
        """The longest name that a text begins with, as whole words."""
        low = text.casefold()
        for name, one in self._by_first.get(_first(low), ()):
            if one.kind in kinds and low.startswith(name) and not low[len(name) : len(name) + 1].isalnum():
                return one
        return None

    def stands_alone(self, text: str) -> Found | None:
        """Somebody, or a mailbox, whose name a text begins with and is followed by no further word: "Back office 25s, Ada"."""
        found = self.begins(text, "team", "person", "mailbox")
        if found is None or re.match(r"\s+[^\d\s+(]", text[len(found.name) :].split(",")[0]):
            return None
        return found

    def near(self, text: str, *kinds: Kind) -> str:
        """Words that offer what may have been meant; empty where nothing is near."""
        return offered(text, [one.name for one in self.everything if one.kind in kinds])


def _first(low: str) -> str:
    match = re.match(r"\w+|\W", low)
    return match[0] if match else ""


def offered(text: str, names: Iterable[str]) -> str:
    """A question that offers names which are near to a text, two at most; empty where none is."""
    close = extract(
        text.casefold(), [*dict.fromkeys(names)], scorer=ratio, processor=str.casefold, limit=2, score_cutoff=NEAR
    )
    return f" Did you mean {' or '.join(name for name, _, _ in close)}?" if close else ""
