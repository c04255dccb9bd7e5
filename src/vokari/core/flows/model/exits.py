"""What the kinds of step say of themselves: the ways out of a step, what it names outside of its flow, what it plays, and what
is wrong with it as it stands."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple, Protocol

from .values import END, SAME, Prompt, Target


class Exit(NamedTuple):
    """A named way out of a step. `keys` is filled for the branches of a menu; `leads_to` is the target with `same` read as
    the ring's no answer."""

    id: str
    name: str
    target: Target
    keys: str = ""
    hear_again: bool = False
    leads_to: Target = None

    @property
    def onward(self) -> str | None:
        """The step that the exit leads on to; None for an end, an open exit, and one that hears the step again."""
        return None if self.hear_again or self.leads_to in (None, END) else self.leads_to

    @property
    def is_open(self) -> bool:
        """Whether nobody chose yet where it leads."""
        return self.target is None and not self.hear_again


def exit_of(
    id_: str, name: str, target: Target, *, same: Target = None, keys: str = "", hear_again: bool = False
) -> Exit:
    """An exit; `same` is where a target of `same` leads."""
    return Exit(id_, name, target, keys, hear_again, same if target == SAME else target)


NamedKind = Literal["person", "team", "hours", "mailbox", "source", "flow", "place", "area", "phone", "address"]
"""What a step can name: things that the client has, by key; and phones and addresses, which stand in the step itself."""


@dataclass(frozen=True, slots=True)
class Named:
    """Something that a step names: its kind, its key (a phone or address itself), the exit it is named at (empty: the step as a
    whole), what it is called in the step, and of hours the periods that are asked for."""

    kind: NamedKind
    key: str
    exit: str = ""
    called: str = ""
    periods: tuple[str, ...] = ()


Renaming = Callable[[NamedKind, str], str | None]
"""By kind and key, the key that takes its place; the same where it stays, None where it is left open."""


@dataclass(frozen=True, slots=True)
class Slip:
    """What is wrong with a step by itself: what kind of finding, a sentence, the exit it is at, whether it stops Put live or only
    asks, and the mends that fit."""

    kind: str
    sentence: str
    exit: str = ""
    weight: Literal["stops", "asks", "advises"] = "stops"
    mends: tuple[str, ...] = ()


class Has(Protocol):
    """What the flow's client has, as far as steps look at it themselves: mailboxes (key to whether somebody is told), the keys
    of lead sources, the agency's tracking numbers, and the country that it is in."""

    @property
    def mailboxes(self) -> Mapping[str, bool]: ...

    @property
    def sources(self) -> Collection[str]: ...

    @property
    def tracking_numbers(self) -> Collection[str]: ...

    @property
    def country(self) -> str: ...


@dataclass(frozen=True, slots=True)
class Played:
    """A prompt of a step: the field that holds it, and what it is called in a sentence."""

    field: str
    prompt: Prompt
    called: str = "the prompt"


@dataclass(frozen=True, slots=True)
class Around:
    """What the line of a step in words needs to know: what steps are called by id, and mailboxes by key (None: not known)."""

    steps: Mapping[str, str]
    mailboxes: Mapping[str, str] | None = None


@dataclass(frozen=True, slots=True)
class Typed:
    """The rest of a typed line as the fields of a new step. `back_to` is the outline number that a "back to" names, 0 when
    none; `hours` the set that a junction sorts by and `flow` the flow that is continued in, if one is named; `seconds` how long to
    ring, 0 where nothing is said."""

    fill: dict[str, Any]
    back_to: int = 0
    hours: str = ""
    seconds: int = 0
    flow: str = ""
