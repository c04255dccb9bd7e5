"""What is wrong with a flow, and what one must know of its client to say so."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from ..flows.model.document import FlowDocument
from ..flows.model.exits import Slip
from ..hours.timetable import Timetable
from ..people.directory import Person, Team
from ..places.document import Places
from ..places.whereabouts import Whereabouts
from ..prompts.facts import PromptFacts

Weight = Literal["stops", "asks", "advises"]
ORDER: tuple[Weight, ...] = ("stops", "asks", "advises")
"""From what stops Put live to what is only advice."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that is wrong: what kind, whether it stops Put live, asks for a word, or is advice; a sentence, the step and exit it is at, and the names
    of the mends that can be applied at once (see `mends`)."""

    kind: str
    sentence: str
    step: str = ""
    exit: str = ""
    weight: Weight = "stops"
    mends: tuple[str, ...] = ()


def at_step(slip: Slip, step: str) -> Finding:
    """What a step says of itself, as a finding."""
    return Finding(slip.kind, slip.sentence, step, slip.exit, slip.weight, slip.mends)


def worst_first(findings: Iterable[Finding]) -> list[Finding]:
    """What stops Put live before what asks for a word, and that before advice; otherwise in the order given."""
    return sorted(findings, key=lambda one: ORDER.index(one.weight))


def alike(findings: Iterable[Finding]) -> list[list[Finding]]:
    """Findings, those together that say the same of several places and have no mend, which each place needs for itself."""
    groups: dict[tuple[object, ...], list[Finding]] = {}
    for place, one in enumerate(findings):
        groups.setdefault((one.kind, one.weight, one.sentence, one.mends and place), []).append(one)
    return list(groups.values())


def sentence(text: str) -> str:
    """A text as it stands at the start of a line."""
    return text[0].upper() + text[1:]


@dataclass(frozen=True, slots=True)
class Inner:
    """A flow of the client as others continue in it: what it is called, and what is live of it (None: nothing)."""

    name: str
    live: FlowDocument | None = None


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What the flow's client has: mailboxes (key to whether somebody is told), lead sources, tracking numbers, sets of
    hours, people and teams by key; the moment from which the coming week is looked at (None: it is not), and the phones that
    were verified by a call (None: it does not matter); its country, places, and flows and prompts by key; the places in which it has numbers and everybody must agree to
    being recorded (`consent`); the key of this one is `own`, and
    `pointed` how many numbers reach it directly."""

    mailboxes: dict[str, bool]
    sources: Collection[str]
    tracking_numbers: Collection[str] = ()
    hours: dict[str, Timetable] = field(default_factory=dict)
    now: datetime | None = None
    people: dict[str, Person] = field(default_factory=dict)
    teams: dict[str, Team] = field(default_factory=dict)
    verified: Collection[str] | None = None
    country: str = "US"
    where: Whereabouts = field(default_factory=lambda: Whereabouts(Places(), "US"))
    flows: Mapping[str, Inner] = field(default_factory=dict)
    prompts: Mapping[str, PromptFacts] = field(default_factory=dict)
    consent: tuple[str, ...] = ()
    own: str = ""
    pointed: int = 0
