"""What a text was read as: steps with their ways on, before they have ids, and lines that were not understood."""

from dataclasses import dataclass, field
from typing import Any, Literal

from ...hours.document import Day
from .lines import Line

Fixed = Literal["open", "end", "again"]
OPEN: Fixed = "open"
END_: Fixed = "end"
AGAIN: Fixed = "again"
"""Where a way can lead without a step: nowhere yet, to the end of the call, to hear the step again."""


@dataclass(eq=False)
class Goto:
    """A way to a step that stands elsewhere, by name; `which` tells steps of one name apart, from 1 (0: the only one)."""

    name: str
    at: int
    which: int = 0


@dataclass(eq=False)
class Node:
    """A step: the line it stands on, its kind, its fields as far as the text says them, and where its ways lead by exit.

    `name` is None where the text gives none; `usual` is what it is called then where that does not follow from its words, `branch` the
    name of the key that leads to it; `above` is the step above it.
    """

    at: int
    kind: str
    fill: dict[str, Any] = field(default_factory=dict)
    name: str | None = None
    ways: dict[str, "Led"] = field(default_factory=dict)
    branches: list["Way"] = field(default_factory=list)
    label: str = ""
    leaf: bool = False
    usual: str = ""
    branch: str = ""
    above: "Node | None" = None
    id: str = ""


@dataclass(eq=False)
class Way:
    """A branch of a menu or a junction: the line it stands on, its fields, where it leads, and its condition as it was typed."""

    at: int
    fill: dict[str, Any]
    led: "Led" = OPEN
    id: str = ""
    said: str = ""


Led = Node | Goto | Fixed


@dataclass(frozen=True, slots=True)
class Stranger:
    """A name in a line that nothing here has: of a person or team who is rung, a mailbox, a team, a lead source, or a period of hours."""

    kind: Literal["person", "mailbox", "team", "source", "period"]
    name: str


class Wrong(ValueError):
    """What is missing in a line, as a sentence; and the name in it that nothing here has."""

    def __init__(self, sentence: str, stranger: Stranger | None = None) -> None:
        super().__init__(sentence)
        self.stranger = stranger


@dataclass(frozen=True, slots=True)
class Unread:
    """A line that was not understood: where it stands, its words, what is missing, and the name in it that nothing here has."""

    at: int
    depth: int
    words: str
    sentence: str
    stranger: Stranger | None = None


@dataclass(frozen=True, slots=True)
class NewPerson:
    """Somebody whom the text names with a phone and whom the client does not have; `at` is the line that does."""

    name: str
    phone: str
    at: int = 0


@dataclass(frozen=True, slots=True)
class NewMailbox:
    """A mailbox that the client does not have, with who is told; `at` is the line that names it."""

    name: str
    tell: tuple[str, ...] = ()
    at: int = 0


@dataclass(frozen=True, slots=True)
class NewHours:
    """The opening times of a client that has none: the week, with times of `NEW_PERIOD`; `at` is the line that tells them."""

    week: tuple[Day, ...]
    at: int = 0


@dataclass
class Read:
    """All that a text says: the first step, sections by name, who takes everyone else, what is to be made, what was not
    understood, and names in that which nothing here has or which may be steps. New people and mailboxes have their names as keys, behind NEW."""

    start: Led = OPEN
    sections: list[Node] = field(default_factory=list)
    everyone_else: Led = OPEN
    nodes: list[Node] = field(default_factory=list)
    people: list[NewPerson] = field(default_factory=list)
    mailboxes: list[NewMailbox] = field(default_factory=list)
    hours: NewHours | None = None
    unread: list[Unread] = field(default_factory=list)
    strangers: list[Stranger] = field(default_factory=list)
    lines: dict[int, Line] = field(default_factory=dict)


NEW = "new:"
NEW_HOURS, NEW_PERIOD = f"{NEW}hours", f"{NEW}open"
